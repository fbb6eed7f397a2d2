#include "core/logic/analysis/interval.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/logic/check/constants.hpp"

namespace vyard::logic {

using Number = Interval::Number;
using E = Elementary;

namespace {

Interval of_values(std::vector<Number> values) {
    std::sort(values.begin(), values.end());
    values.erase(std::unique(values.begin(), values.end()), values.end());
    Interval out = between(values.front(), values.back(), true);
    if (values.size() <= kMostValues) out.values = std::move(values);
    return out;
}

template <class T>
Interval limits() {
    return between(static_cast<Number>(std::numeric_limits<T>::lowest()),
                   static_cast<Number>(std::numeric_limits<T>::max()), false);
}

std::optional<Number> result(Operator op, Number a, Number b, bool whole) {
    switch (op) {
        case Operator::Add: return a + b;
        case Operator::Subtract: return a - b;
        case Operator::Multiply: return a * b;
        case Operator::Divide:
            if (b == 0) return std::nullopt;
            return whole ? std::trunc(a / b) : a / b;
        case Operator::Modulo:
            if (b == 0 || !whole) return std::nullopt;
            return std::fmod(a, b);
        default: return std::nullopt;
    }
}

/// The ends that the result's ends come of.
void tell(Operator op, const Interval& a, const Interval& b, Interval& out) {
    const bool all = a.low_told && a.high_told && b.low_told && b.high_told;
    out.low_told = out.high_told = all;
    const bool positive = a.low >= 0 && b.low >= 0;
    if (op == Operator::Add || (op == Operator::Multiply && positive)) {
        out.low_told = a.low_told && b.low_told;
        out.high_told = a.high_told && b.high_told;
    } else if (op == Operator::Subtract || (op == Operator::Divide && positive)) {
        out.low_told = a.low_told && b.high_told;
        out.high_told = a.high_told && b.low_told;
    }
}

/// A remainder has the sign of what is divided, and is smaller than what it is divided by.
Interval remainder(const Interval& a, const Interval& b) {
    const Number most = std::max(std::abs(b.low), std::abs(b.high)) - 1;
    Interval out;
    out.low = a.low < 0 ? std::max(a.low, -most) : 0;
    out.high = a.high > 0 ? std::min(a.high, most) : 0;
    const bool told = b.low_told && b.high_told;
    out.low_told = a.low >= 0 || told;
    out.high_told = a.high <= 0 || told;
    return out;
}

/// Single precision rounds by 6e-8 of a number; a computation of several steps by some of it.
void widen_for_rounding(Interval& i) {
    constexpr Number kSlack = 1e-6L;
    i.low -= std::abs(i.low) * kSlack;
    i.high += std::abs(i.high) * kSlack;
    i.values.clear();
}

}  // namespace

Interval exactly(Number value) {
    return {value, value, true, true, {value}};
}
Interval between(Number low, Number high, bool told) {
    return {low, high, told, told, {}};
}

Interval all_of(Elementary type) {
    if (!is_number(type) && !is_bit_string(type) && !is_duration(type) && !is_moment(type) && !is_character(type))
        return between(0, 1, false);
    switch (representation(type)) {
        case Representation::I8: return limits<std::int8_t>();
        case Representation::I16: return limits<std::int16_t>();
        case Representation::I32: return limits<std::int32_t>();
        case Representation::I64: return limits<std::int64_t>();
        case Representation::U8: return limits<std::uint8_t>();
        case Representation::U16: return limits<std::uint16_t>();
        case Representation::U32: return limits<std::uint32_t>();
        case Representation::U64: return limits<std::uint64_t>();
        case Representation::F32: return limits<float>();
        case Representation::F64: return limits<double>();
    }
    return limits<double>();
}

Interval hull(const Interval& a, const Interval& b) {
    Interval out;
    out.low = std::min(a.low, b.low);
    out.high = std::max(a.high, b.high);
    out.low_told = a.low == b.low ? a.low_told || b.low_told : a.low < b.low ? a.low_told : b.low_told;
    out.high_told = a.high == b.high ? a.high_told || b.high_told : a.high > b.high ? a.high_told : b.high_told;
    if (a.values.empty() || b.values.empty()) return out;
    std::set_union(a.values.begin(), a.values.end(), b.values.begin(), b.values.end(), std::back_inserter(out.values));
    if (out.values.size() > kMostValues) out.values.clear();
    return out;
}

std::optional<Interval> clipped(const Interval& a, const Interval& w) {
    Interval out = a;
    if (w.low > a.low) std::tie(out.low, out.low_told) = std::pair(w.low, w.low_told);
    if (w.high < a.high) std::tie(out.high, out.high_told) = std::pair(w.high, w.high_told);
    if (!a.values.empty()) {
        std::erase_if(out.values, [&](Number v) { return v < out.low || v > out.high; });
        if (out.values.empty()) return std::nullopt;
        return of_values(std::move(out.values));
    }
    if (out.low > out.high) return std::nullopt;
    if (!w.values.empty()) {
        std::vector<Number> kept;
        for (const Number v : w.values) {
            if (v >= out.low && v <= out.high) kept.push_back(v);
        }
        if (kept.empty()) return std::nullopt;
        return of_values(std::move(kept));
    }
    return out;
}

bool within(const Interval& a, const Interval& all) {
    return a.low >= all.low && a.high <= all.high;
}

std::optional<Interval> computed(Operator op, const Interval& a, const Interval& b, bool whole) {
    const bool few = whole && !a.values.empty() && !b.values.empty() && a.values.size() * b.values.size() <= 64;
    if (few) {
        std::vector<Number> all;
        for (const Number x : a.values) {
            for (const Number y : b.values) {
                // What divides by nought ends the program, and gives no value.
                if (const auto r = result(op, x, y, whole)) all.push_back(*r);
            }
        }
        if (!all.empty()) return of_values(std::move(all));
        return std::nullopt;
    }
    if (op == Operator::Modulo) return whole ? std::optional(remainder(a, b)) : std::nullopt;
    Interval divisor = b;
    if (op == Operator::Divide && b.low <= 0 && b.high >= 0) {
        if (!whole) return std::nullopt;
        if (b.low == 0 && b.high == 0) return std::nullopt;
        if (b.low == 0) divisor.low = 1;
        if (b.high == 0) divisor.high = -1;
    }
    std::vector<Number> corners;
    for (const Number x : {a.low, a.high}) {
        for (const Number y : {divisor.low, divisor.high}) {
            const auto r = result(op, x, y, whole);
            if (!r || !std::isfinite(*r)) return std::nullopt;
            corners.push_back(*r);
        }
    }
    // Around nought whole numbers divide by 1 and by -1.
    if (op == Operator::Divide && divisor.low < 0 && divisor.high > 0) {
        for (const Number x : {a.low, a.high, -a.low, -a.high}) corners.push_back(x);
    }
    const auto [low, high] = std::minmax_element(corners.begin(), corners.end());
    Interval out = between(*low, *high, false);
    tell(op, a, b, out);
    if (!whole) widen_for_rounding(out);
    return out;
}

namespace {

bool may_hold(Operator op, const Interval& a, const Interval& b) {
    switch (op) {
        case Operator::Equal: return clipped(a, b).has_value() && clipped(b, a).has_value();
        case Operator::NotEqual: return !(a.one() && b.one() && a.low == b.low);
        case Operator::Less:
        case Operator::LessEqual: return holds(op, a.low, b.high);
        default: return holds(op, a.high, b.low);
    }
}

}  // namespace

Truth compared(Operator op, const Interval& a, const Interval& b) {
    return {may_hold(op, a, b), may_hold(opposite(op), a, b)};
}

std::optional<Interval> where_it_holds(Operator op, const Interval& a, const Interval& b, bool whole) {
    Interval to = between(-std::numeric_limits<Number>::infinity(), std::numeric_limits<Number>::infinity(), false);
    const Number apart = whole ? 1 : 0;
    switch (op) {
        case Operator::Equal: return clipped(a, b);
        case Operator::NotEqual: {
            if (!b.one()) return a;
            Interval out = a;
            if (!a.values.empty()) {
                std::erase(out.values, b.low);
                if (out.values.empty()) return std::nullopt;
                return of_values(std::move(out.values));
            }
            if (!whole) return a;
            if (a.low == b.low) std::tie(out.low, out.low_told) = std::pair(a.low + 1, true);
            if (a.high == b.low) std::tie(out.high, out.high_told) = std::pair(a.high - 1, true);
            return out.low > out.high ? std::nullopt : std::optional(out);
        }
        case Operator::Less:
        case Operator::LessEqual:
            to.high = b.high - (op == Operator::Less ? apart : 0);
            to.high_told = b.high_told;
            return clipped(a, to);
        default:
            to.low = b.low + (op == Operator::Greater ? apart : 0);
            to.low_told = b.low_told;
            return clipped(a, to);
    }
}

bool is_comparison(Operator op) {
    return op >= Operator::Equal && op <= Operator::GreaterEqual;
}

Operator mirrored(Operator op) {
    switch (op) {
        case Operator::Less: return Operator::Greater;
        case Operator::LessEqual: return Operator::GreaterEqual;
        case Operator::Greater: return Operator::Less;
        case Operator::GreaterEqual: return Operator::LessEqual;
        default: return op;
    }
}

Operator opposite(Operator op) {
    switch (op) {
        case Operator::Equal: return Operator::NotEqual;
        case Operator::NotEqual: return Operator::Equal;
        case Operator::Less: return Operator::GreaterEqual;
        case Operator::LessEqual: return Operator::Greater;
        case Operator::Greater: return Operator::LessEqual;
        default: return Operator::Less;
    }
}

}  // namespace vyard::logic
