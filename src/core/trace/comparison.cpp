#include "core/trace/comparison.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace vyard::trace {

using base::Nanoseconds;
using logic::Value;

namespace {

enum class Kind : std::uint8_t { Truth, Number, Text };

Kind kind_of(logic::Elementary type) {
    if (type == logic::Elementary::Bool) return Kind::Truth;
    return logic::is_text(type) ? Kind::Text : Kind::Number;
}

class SignalComparison {
  public:
    SignalComparison(const Trace& a, std::uint32_t in_a, const Trace& b, std::uint32_t in_b,
                     const CompareOptions& options)
        : a_(a), b_(b), in_a_(in_a), in_b_(in_b), options_(options) {
        const auto own = options.of_signal.find(base::fold(channel_a().name));
        tolerance_ = own == options.of_signal.end() ? options.tolerance : own->second;
    }

    /// Goes through the moments of both between two times; null when nothing differs for long enough.
    std::optional<Difference> run(Nanoseconds from, Nanoseconds to) {
        std::size_t next_a = 0, next_b = 0;
        Nanoseconds now = from;
        while (now < to) {
            Nanoseconds next = to;
            next = std::min(next, change_after(a_.of(in_a_), next_a, now, Nanoseconds(0)));
            next = std::min(next, change_after(b_.of(in_b_), next_b, now, options_.shift));
            look(now, next);
            now = next;
        }
        look(to, to + Nanoseconds(1));  // the values that both end with
        close(to);
        if (out_.times == 0) return std::nullopt;
        out_.name = channel_a().name;
        return out_;
    }

  private:
    const Channel& channel_a() const { return a_.channels()[in_a_]; }
    const Channel& channel_b() const { return b_.channels()[in_b_]; }

    static Nanoseconds change_after(const std::vector<Moment>& moments, std::size_t& next, Nanoseconds now,
                                    Nanoseconds shift) {
        while (next < moments.size() && moments[next].time + shift <= now) ++next;
        return next < moments.size() ? moments[next].time + shift : Nanoseconds::max();
    }

    void look(Nanoseconds from, Nanoseconds to) {
        const Value a = a_.value_at(in_a_, from), b = b_.value_at(in_b_, from - options_.shift);
        if (same(a, b)) return close(from);
        if (!open_) {
            open_ = true;
            since_ = from;
            a_then_ = cell_text(channel_a(), a);
            b_then_ = cell_text(channel_b(), b);
        }
        until_ = to;
    }

    bool same(const Value& a, const Value& b) const {
        if (kind_of(a.type) == Kind::Text || kind_of(a.type) == Kind::Truth)
            return a.text == b.text && (a.bits != 0) == (b.bits != 0);
        if (a.type == b.type && a.bits == b.bits) return true;
        // As tables show them: durations in seconds, and a REAL that was read back from a table as itself.
        const std::string shown_a = cell_text(channel_a(), a), shown_b = cell_text(channel_b(), b);
        if (shown_a == shown_b) return true;
        const auto x = number_in(shown_a), y = number_in(shown_b);
        return x && y && std::abs(*x - *y) <= tolerance_;
    }
    static std::optional<double> number_in(const std::string& text) {
        double out = 0.0;
        const auto [end, failure] = std::from_chars(text.data(), text.data() + text.size(), out);
        return failure == std::errc{} && end == text.data() + text.size() ? std::optional(out) : std::nullopt;
    }

    void close(Nanoseconds at) {
        if (!open_) return;
        open_ = false;
        const Nanoseconds lasted = std::min(at, until_) - since_;
        if (options_.brief > Nanoseconds(0) && lasted <= options_.brief) return;
        if (out_.times++ == 0) {
            out_.first = since_;
            out_.a = a_then_;
            out_.b = b_then_;
        }
        out_.in_all += lasted;
    }

    const Trace &a_, &b_;
    std::uint32_t in_a_, in_b_;
    const CompareOptions& options_;
    double tolerance_ = 0.0;
    bool open_ = false;
    Nanoseconds since_{}, until_{};
    std::string a_then_, b_then_;
    Difference out_;
};

}  // namespace

Comparison compare(const Trace& a, const Trace& b, const CompareOptions& options) {
    Comparison out;
    out.from = std::max(a.begin_time(), b.begin_time() + options.shift);
    out.to = std::min(a.end_time(), b.end_time() + options.shift);
    const auto wanted = [&](const std::string& name) {
        return options.names.empty() || std::any_of(options.names.begin(), options.names.end(),
                                                    [&](const auto& n) { return base::fold(n) == base::fold(name); });
    };
    for (std::uint32_t c = 0; c < a.channels().size(); ++c) {
        const std::string& name = a.channels()[c].name;
        if (!wanted(name)) continue;
        const auto there = b.find(name);
        if (!there) {
            out.only_a.push_back(name);
            continue;
        }
        if (kind_of(a.channels()[c].signal.type) != kind_of(b.channels()[*there].signal.type)) {
            out.unlike.push_back(name);
            continue;
        }
        ++out.compared;
        if (auto found = SignalComparison(a, c, b, *there, options).run(out.from, out.to))
            out.differences.push_back(std::move(*found));
    }
    for (const Channel& c : b.channels()) {
        if (wanted(c.name) && !a.find(c.name)) out.only_b.push_back(c.name);
    }
    std::stable_sort(out.differences.begin(), out.differences.end(),
                     [](const Difference& x, const Difference& y) { return x.first < y.first; });
    return out;
}

std::optional<Nanoseconds> first_event(const Trace& trace, std::uint32_t channel) {
    if (trace.channels()[channel].signal.type == logic::Elementary::Bool)
        return trace.edge({channel, true}, trace.begin_time());
    const auto& moments = trace.of(channel);
    if (moments.size() < 2) return std::nullopt;
    return moments[1].time;
}

}  // namespace vyard::trace
