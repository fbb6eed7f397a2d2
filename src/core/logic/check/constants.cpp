#include "core/logic/check/constants.hpp"

#include <cmath>
#include <cstring>
#include <limits>

namespace vyard::logic {

using E = Elementary;

std::int64_t literal_integer(const Expression& literal) {
    return static_cast<std::int64_t>(literal.negative ? 0 - literal.integer : literal.integer);
}

namespace {

bool is_unsigned_kind(E t) {
    return is_unsigned_integer(t) || is_bit_string(t) || t == E::Bool || is_character(t);
}

/// What stays of a value in a type's bytes.
std::int64_t wrapped(E type, std::int64_t value) {
    const int bits = type_size(type) * 8;
    if (bits == 0 || bits == 64) return value;
    const std::uint64_t mask = (std::uint64_t{1} << bits) - 1;
    std::uint64_t kept = static_cast<std::uint64_t>(value) & mask;
    if (!is_unsigned_kind(type) && (kept >> (bits - 1)) != 0) kept |= ~mask;
    return static_cast<std::int64_t>(kept);
}

/// A constant keeps its name, so that people are shown what they wrote; what was computed has none.
void keep_name(Expression& e) {
    const bool named = e.kind == ExpressionKind::Name || e.kind == ExpressionKind::TypedName ||
                       e.kind == ExpressionKind::Member || e.kind == ExpressionKind::Literal;
    if (!named) e.name.clear();
    if (e.kind == ExpressionKind::Convert) e.name = e.operands[0]->name;
}

void set_real(Expression& e, double value) {
    keep_name(e);
    e.kind = ExpressionKind::Literal;
    e.operands.clear();
    e.real = e.type.is(E::Real) ? static_cast<double>(static_cast<float>(value)) : value;
    e.negative = std::signbit(e.real);
    e.integer = 0;
}

double real_of(const Expression& literal) {
    return is_real(literal.type.elementary) ? literal.real
           : literal.negative               ? -static_cast<double>(literal.integer)
                                            : static_cast<double>(literal.integer);
}

bool fold_convert(Expression& e) {
    const Expression& from = *e.operands[0];
    if (from.kind != ExpressionKind::Literal || e.detail != 1) return false;
    const E to = e.type.elementary;
    if (is_real(to)) {
        set_real(e, real_of(from));
    } else if (is_real(from.type.elementary) || !is_scalar(to)) {
        return false;
    } else {
        set_literal(e, literal_integer(from));
    }
    return true;
}

bool fold_unary(Expression& e) {
    const Expression& a = *e.operands[0];
    const E type = e.type.elementary;
    if (e.op == Operator::Negate) {
        if (is_real(type)) {
            set_real(e, -a.real);
        } else {
            set_literal(e, static_cast<std::int64_t>(0 - static_cast<std::uint64_t>(literal_integer(a))));
        }
    } else {
        set_literal(e, type == E::Bool ? 1 - literal_integer(a) : ~literal_integer(a));
    }
    return true;
}

bool fold_binary(Expression& e) {
    const Expression& a = *e.operands[0];
    const Expression& b = *e.operands[1];
    const E type = a.type.elementary;
    const bool reals = is_real(type) || is_real(b.type.elementary);
    if (e.op >= Operator::Equal && e.op <= Operator::GreaterEqual) {
        const bool truth = reals                    ? holds(e.op, real_of(a), real_of(b))
                           : is_unsigned_kind(type) ? holds(e.op, a.integer, b.integer)
                                                    : holds(e.op, literal_integer(a), literal_integer(b));
        e.type = {E::Bool, -1};
        set_literal(e, truth ? 1 : 0);
        return true;
    }
    if (reals) {
        const double x = real_of(a), y = real_of(b);
        switch (e.op) {
            case Operator::Add: set_real(e, x + y); return true;
            case Operator::Subtract: set_real(e, x - y); return true;
            case Operator::Multiply: set_real(e, x * y); return true;
            case Operator::Divide: set_real(e, x / y); return true;
            default: return false;
        }
    }
    const std::int64_t x = literal_integer(a), y = literal_integer(b);
    const auto ux = static_cast<std::uint64_t>(x), uy = static_cast<std::uint64_t>(y);
    switch (e.op) {
        case Operator::Or: set_literal(e, x | y); return true;
        case Operator::Xor: set_literal(e, x ^ y); return true;
        case Operator::And: set_literal(e, x & y); return true;
        case Operator::Add: set_literal(e, static_cast<std::int64_t>(ux + uy)); return true;
        case Operator::Subtract: set_literal(e, static_cast<std::int64_t>(ux - uy)); return true;
        case Operator::Multiply: set_literal(e, static_cast<std::int64_t>(ux * uy)); return true;
        case Operator::Divide:
        case Operator::Modulo: {
            const bool division = e.op == Operator::Divide;
            if (y == 0 || (x == std::numeric_limits<std::int64_t>::min() && y == -1)) return false;
            if (is_unsigned_kind(type)) {
                set_literal(e, static_cast<std::int64_t>(division ? ux / uy : ux % uy));
            } else {
                set_literal(e, division ? x / y : x % y);
            }
            return true;
        }
        default: return false;
    }
}

}  // namespace

void set_literal(Expression& e, std::int64_t value) {
    const E type = e.type.elementary;
    const std::int64_t kept = wrapped(type, value);
    keep_name(e);
    e.kind = ExpressionKind::Literal;
    e.operands.clear();
    e.arguments.clear();
    e.negative = kept < 0 && !is_unsigned_kind(type);
    e.integer = e.negative ? 0 - static_cast<std::uint64_t>(kept) : static_cast<std::uint64_t>(kept);
    e.real = static_cast<double>(kept);
}

std::uint64_t literal_bits(const Expression& literal) {
    std::uint64_t bits = 0;
    if (literal.type.is(E::Real)) {
        const auto value = static_cast<float>(literal.real);
        std::memcpy(&bits, &value, sizeof value);
    } else if (literal.type.is(E::Lreal) || literal.type.is(E::AnyReal)) {
        std::memcpy(&bits, &literal.real, sizeof literal.real);
    } else {
        bits = static_cast<std::uint64_t>(literal_integer(literal));
    }
    return bits;
}

bool fold(Expression& e) {
    if (e.kind == ExpressionKind::Literal || e.kind == ExpressionKind::Text) return true;
    if (e.kind != ExpressionKind::Unary && e.kind != ExpressionKind::Binary && e.kind != ExpressionKind::Convert)
        return false;
    for (const ExpressionPtr& operand : e.operands) {
        if (!fold(*operand) || operand->kind != ExpressionKind::Literal) return false;
    }
    if (e.kind == ExpressionKind::Convert) return fold_convert(e);
    return e.kind == ExpressionKind::Unary ? fold_unary(e) : fold_binary(e);
}

}  // namespace vyard::logic
