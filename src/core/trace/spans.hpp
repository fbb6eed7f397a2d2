// Times from edge to edge in a trace.
#pragma once

#include <optional>
#include <vector>

#include "core/trace/recorder.hpp"

namespace vyard::trace {

struct Span {
    base::Nanoseconds from{}, to{};

    base::Nanoseconds length() const { return to - from; }
};

/// From each edge `from` to the next edge `to` at or after it; of one and the same edge from each to the one after it.
/// An edge `from` that comes while one is measured counts only once that is over. Cost: the moments of both signals,
/// times the logarithm of their number.
std::vector<Span> spans(const Trace& trace, Trace::Edge from, Trace::Edge to);

/// Of at least one span.
struct SpanFigures {
    Span least, most;
    double mean_s = 0.0, deviation_s = 0.0;  ///< Standard deviation of the sample (n - 1); 0 for one span.
};
SpanFigures figures_of(const std::vector<Span>& spans);

}  // namespace vyard::trace
