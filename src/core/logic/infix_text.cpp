#include "core/logic/infix_text.hpp"

#include <fmt/format.h>

#include "core/logic/value.hpp"

namespace vyard::logic {

using E = Elementary;

int precedence(const Expression& e) {
    if (e.kind == ExpressionKind::Unary) return 9;
    if (e.kind != ExpressionKind::Binary) return 10;
    switch (e.op) {
        case Operator::Or: return 1;
        case Operator::Xor: return 2;
        case Operator::And: return 3;
        case Operator::Equal:
        case Operator::NotEqual: return 4;
        case Operator::Less:
        case Operator::LessEqual:
        case Operator::Greater:
        case Operator::GreaterEqual: return 5;
        case Operator::Add:
        case Operator::Subtract: return 6;
        case Operator::Power: return 8;
        default: return 7;
    }
}

const Expression& written(const Expression& e) {
    const bool silent = e.kind == ExpressionKind::Convert && (e.detail == kConvertPlain || e.detail == kConvertRange);
    return silent ? written(*e.operands[0]) : e;
}

std::string infix_text(const Expression& any) {
    const Expression& e = written(any);
    const auto within = [&](const Expression& operand, int least) {
        const Expression& o = written(operand);
        const std::string text = infix_text(o);
        return precedence(o) < least ? fmt::format("({})", text) : text;
    };
    switch (e.kind) {
        case ExpressionKind::Binary:
            return fmt::format("{} {} {}", within(*e.operands[0], precedence(e)), operator_text(e.op),
                               within(*e.operands[1], precedence(e) + 1));
        case ExpressionKind::Unary:
            return fmt::format("{}{}", e.op == Operator::Not ? "NOT " : "-", within(*e.operands[0], 9));
        case ExpressionKind::Literal: {
            if (!e.name.empty()) return e.name;  // of a constant
            const E type = e.type.elementary;
            if (is_real(type)) return value_text(value_of(E::Lreal, e.real));
            const std::uint64_t bits = e.negative ? 0U - e.integer : e.integer;
            return value_text({type == E::AnyInt ? E::Lint : type, bits, {}});
        }
        case ExpressionKind::Text: return fmt::format("'{}'", e.name);
        case ExpressionKind::Call: {
            std::string out = e.name + "(";
            for (const Argument& a : e.arguments) {
                if (!a.value) continue;
                if (out.back() != '(') out += ", ";
                out += infix_text(*a.value);
            }
            return out + ")";
        }
        default: return written_text(e);
    }
}

}  // namespace vyard::logic
