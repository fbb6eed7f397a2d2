#include "core/trace/spans.hpp"

#include <algorithm>
#include <cmath>

namespace vyard::trace {

using base::Nanoseconds;

std::vector<Span> spans(const Trace& trace, Trace::Edge from, Trace::Edge to) {
    std::vector<Span> out;
    const bool same = from.channel == to.channel && from.rising == to.rising;
    for (auto begin = trace.edge(from, trace.begin_time()); begin;) {
        const auto end = trace.edge(to, *begin + Nanoseconds(same ? 1 : 0));
        if (!end) break;
        out.push_back({*begin, *end});
        begin = same ? end : trace.edge(from, std::max(*end, *begin + Nanoseconds(1)));
    }
    return out;
}

SpanFigures figures_of(const std::vector<Span>& spans) {
    const auto shorter = [](const Span& a, const Span& b) { return a.length() < b.length(); };
    SpanFigures out;
    out.least = *std::min_element(spans.begin(), spans.end(), shorter);
    out.most = *std::max_element(spans.begin(), spans.end(), shorter);
    const auto count = static_cast<double>(spans.size());
    for (const Span& s : spans) out.mean_s += base::to_seconds(s.length()) / count;
    double squares = 0.0;
    for (const Span& s : spans) squares += std::pow(base::to_seconds(s.length()) - out.mean_s, 2);
    if (spans.size() > 1) out.deviation_s = std::sqrt(squares / (count - 1.0));
    return out;
}

}  // namespace vyard::trace
