// Constant expressions: folds what a checked tree computes from literals alone into one literal, by the rules the
// machine follows (integers wrap, reals round).
#pragma once

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

/// Folds `e` in place; TRUE when it is a literal (or a text) afterwards.
bool fold(Expression& e);

/// Whether a comparison of two numbers holds.
template <class T>
bool holds(Operator comparison, T a, T b) {
    switch (comparison) {
        case Operator::Equal: return a == b;
        case Operator::NotEqual: return a != b;
        case Operator::Less: return a < b;
        case Operator::LessEqual: return a <= b;
        case Operator::Greater: return a > b;
        default: return a >= b;
    }
}

/// A literal's value as a whole number, wrapped to 64 bits.
std::int64_t literal_integer(const Expression& literal);
/// Makes `e` the literal `value` of its type.
void set_literal(Expression& e, std::int64_t value);
/// The bytes of a scalar literal of its type; little-endian as the machine holds them.
std::uint64_t literal_bits(const Expression& literal);

}  // namespace vyard::logic
