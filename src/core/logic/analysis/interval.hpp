// What a number may be: an interval, and while it is one of few, which. Whole numbers and reals alike, enumerations by
// their values, durations in nanoseconds. Interval arithmetic as of Moore (1966); sets of few values keep what an
// interval loses, such as the steps of a sequence.
#pragma once

#include <optional>
#include <vector>

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

struct Interval {
    using Number = long double;  ///< Holds every whole number of 64 bits and every LREAL.

    Number low = 0, high = 0;
    /// Something says so (a literal, a scaling, a limit), and not only the type.
    bool low_told = false, high_told = false;
    std::vector<Number> values;  ///< In order; empty: any between.

    bool one() const { return low == high; }
    bool operator==(const Interval&) const = default;
};

constexpr std::size_t kMostValues = 24;  ///< Of a set; more become an interval.

Interval exactly(Interval::Number value);
Interval between(Interval::Number low, Interval::Number high, bool told);
/// What a variable of the type can hold; of what is no number 0 to 1.
Interval all_of(Elementary type);

Interval hull(const Interval& a, const Interval& b);
/// What of it lies within; null when nothing does.
std::optional<Interval> clipped(const Interval& a, const Interval& within);
bool within(const Interval& a, const Interval& all);

/// Without the bounds of a type; null when nothing can be told. Reals are widened by what rounding may add.
std::optional<Interval> computed(Operator op, const Interval& a, const Interval& b, bool whole);

/// What a comparison may give.
struct Truth {
    bool may_be_true = true, may_be_false = true;
    bool decided() const { return may_be_true != may_be_false; }
    bool operator==(const Truth&) const = default;
};
Truth compared(Operator op, const Interval& a, const Interval& b);
/// What of `a` can be where `a op b` holds; null when nothing can.
std::optional<Interval> where_it_holds(Operator op, const Interval& a, const Interval& b, bool whole);

bool is_comparison(Operator op);
/// b > a for a < b.
Operator mirrored(Operator op);
/// a >= b for NOT a < b.
Operator opposite(Operator op);

}  // namespace vyard::logic
