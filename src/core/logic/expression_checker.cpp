#include "core/logic/expression_checker.hpp"

#include <fmt/format.h>

#include "core/logic/standard_functions.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

bool is_literal_type(E t) {
    return t == E::AnyInt || t == E::AnyReal;
}
bool is_comparison(Operator op) {
    return op >= Operator::Equal && op <= Operator::GreaterEqual;
}
bool is_logical(Operator op) {
    return op == Operator::And || op == Operator::Or || op == Operator::Xor;
}

std::string type_text(E t) {
    if (t == E::AnyInt) return "a whole number";
    if (t == E::AnyReal) return "a real number";
    return type_name(t);
}

std::string conversion_hint(E from, E to) {
    if (to == E::Bool && is_number(from)) return "write TRUE or FALSE, or compare: <> 0";
    if (to == E::Time && is_literal_type(from)) return "a time is written T#500ms, T#1.5s ...";
    if (is_literal_type(from)) return is_integer(to) || is_bit_string(to) ? "write it without a fraction" : "";
    if (from == E::Block || to == E::Block || from == E::Bool) return {};
    return fmt::format("convert it: {}_TO_{}(...)", type_name(from), type_name(to));
}

}  // namespace

void ExpressionChecker::error(Code code, Span span, std::string message, std::string hint) {
    diagnostics_.error(code, place_in(source_, span), std::move(message), std::move(hint));
}

E ExpressionChecker::settled(E type) {
    return type == E::AnyInt ? E::Dint : type == E::AnyReal ? E::Real : type;
}

void ExpressionChecker::wrap(ExpressionPtr& e, E target) {
    auto node = std::make_unique<Expression>();
    node->kind = ExpressionKind::Convert;
    node->span = e->span;
    node->type.elementary = target;
    node->detail = 1;  // a plain change of representation
    node->operands.push_back(std::move(e));
    e = std::move(node);
}

bool ExpressionChecker::check(ExpressionPtr& e, E target, const std::string& what) {
    return infer(e) != E::None && coerce(e, target, what);
}

E ExpressionChecker::check_any(ExpressionPtr& e) {
    const E type = infer(e);
    if (is_literal_type(type)) return coerce(e, settled(type), "the value") ? settled(type) : E::None;
    return type;
}

E ExpressionChecker::infer(ExpressionPtr& e) {
    E type = E::None;
    switch (e->kind) {
        case ExpressionKind::Literal:
            type = e->type.elementary;
            if (!is_literal_type(type) && !is_real(type) && !literal_fits(type, e->integer, e->negative)) {
                error(Code::LiteralRange, e->span, fmt::format("this number does not fit {}", type_name(type)));
                type = E::None;
            }
            break;
        case ExpressionKind::Name:
        case ExpressionKind::Direct: type = infer_name(*e); break;
        case ExpressionKind::Unary: type = infer_unary(*e); break;
        case ExpressionKind::Binary: return infer_binary(e);
        case ExpressionKind::Call: return infer_call(e);
        case ExpressionKind::Convert: type = e->type.elementary; break;
    }
    e->type.elementary = type;
    return type;
}

E ExpressionChecker::infer_name(Expression& e) {
    const auto found = scope_.find(e.name, e.span, Access::Read);
    if (!found) return E::None;
    e.binding = found->binding;
    e.type = found->type;
    if (found->type.is(E::Block)) {
        error(Code::TypeMismatch, e.span, fmt::format("'{}' is a function block, not a value", e.name),
              fmt::format("name one of its outputs, such as {}.Q", e.name));
        return E::None;
    }
    return found->type.elementary;
}

E ExpressionChecker::infer_unary(Expression& e) {
    const E type = infer(e.operands[0]);
    if (type == E::None) return E::None;
    if (e.op == Operator::Not) {
        if (type == E::Bool || is_bit_string(type)) return type;
        error(Code::TypeMismatch, e.span, fmt::format("NOT needs BOOL or a bit string, not {}", type_text(type)),
              conversion_hint(type, E::Bool));
        return E::None;
    }
    if (is_number(type) || type == E::Time) return type;
    error(Code::TypeMismatch, e.span, fmt::format("'-' needs a number or TIME, not {}", type_text(type)));
    return E::None;
}

E ExpressionChecker::infer_binary(ExpressionPtr& e) {
    const E left = infer(e->operands[0]);
    const E right = infer(e->operands[1]);
    if (left == E::None || right == E::None) return e->type.elementary = E::None;
    if (is_logical(e->op)) return e->type.elementary = infer_logical(*e, left, right);
    if ((left == E::Time) != (right == E::Time)) return infer_time(e, left, right);
    const bool comparison = is_comparison(e->op);
    const bool both_time = left == E::Time && right == E::Time;
    const E common = common_type(left, right);
    const bool usable =
        comparison ? common != E::None
                   : is_number(common) || (both_time && (e->op == Operator::Add || e->op == Operator::Subtract));
    if (!usable) {
        const bool mixed = common == E::None;
        error(Code::TypeMismatch, e->span,
              mixed ? fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right),
                                  operator_text(e->op))
                    : fmt::format("'{}' needs numbers, not {}", operator_text(e->op), type_text(common)),
              mixed && is_number(left) && is_number(right) ? conversion_hint(left, right)
              : is_bit_string(common)                      ? conversion_hint(common, E::Uint)
                                                           : "");
        return e->type.elementary = E::None;
    }
    if (e->op == Operator::Modulo && is_real(common)) {
        error(Code::TypeMismatch, e->span, "MOD needs whole numbers");
        return e->type.elementary = E::None;
    }
    E working = common;
    if (is_literal_type(common)) {
        if (!comparison) return e->type.elementary = common;
        working = common == E::AnyInt ? E::Lint : E::Lreal;
    }
    const bool ok =
        coerce(e->operands[0], working, "the other side") && coerce(e->operands[1], working, "the other side");
    return e->type.elementary = !ok ? E::None : comparison ? E::Bool : working;
}

/// TIME * number, number * TIME, TIME / number (IEC 61131-3 table 30). TIME meets nothing else.
E ExpressionChecker::infer_time(ExpressionPtr& e, E left, E right) {
    const bool time_left = left == E::Time;
    const E number = time_left ? right : left;
    const bool allowed = is_number(number) && (e->op == Operator::Multiply || (e->op == Operator::Divide && time_left));
    if (!allowed) {
        error(Code::TypeMismatch, e->span,
              fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right), operator_text(e->op)),
              "a time is written T#500ms, T#1.5s ...");
        return e->type.elementary = E::None;
    }
    ExpressionPtr& factor = e->operands[time_left ? 1 : 0];
    ExpressionPtr& time = e->operands[time_left ? 0 : 1];
    if (is_integer(number)) {
        if (number == E::AnyInt ? !coerce(factor, E::Lint, "TIME") : false) return e->type.elementary = E::None;
        if (factor->type.elementary != E::Lint) wrap(factor, E::Lint);
        return e->type.elementary = E::Time;
    }
    if (number == E::AnyReal && !coerce(factor, E::Lreal, "TIME")) return e->type.elementary = E::None;
    if (factor->type.elementary != E::Lreal) wrap(factor, E::Lreal);
    wrap(time, E::Lreal);
    e->type.elementary = E::Lreal;
    wrap(e, E::Time);
    return E::Time;
}

E ExpressionChecker::infer_logical(Expression& e, E left, E right) {
    const bool left_ok = left == E::Bool || is_bit_string(left) || left == E::AnyInt;
    const bool right_ok = right == E::Bool || is_bit_string(right) || right == E::AnyInt;
    const E common = left_ok && right_ok ? common_type(left, right) : E::None;
    if (common == E::None || common == E::AnyInt) {
        const E culprit = !left_ok ? left : !right_ok ? right : left;
        error(Code::TypeMismatch, e.span,
              fmt::format("{} needs BOOL or bit strings on both sides, not {} and {}", operator_text(e.op),
                          type_text(left), type_text(right)),
              conversion_hint(culprit, E::Bool));
        return E::None;
    }
    return coerce(e.operands[0], common, "the other side") && coerce(e.operands[1], common, "the other side") ? common
                                                                                                              : E::None;
}

E ExpressionChecker::infer_call(ExpressionPtr& e) {
    if (const auto conversion = find_conversion(e->name)) {
        if (e->arguments.size() != 1) {
            error(Code::WrongCall, e->span, fmt::format("{} takes one argument, not {}", e->name, e->arguments.size()));
            return e->type.elementary = E::None;
        }
        ExpressionPtr operand = std::move(e->arguments[0].value);
        if (!check(operand, conversion->from, e->name)) {
            e->arguments.clear();
            return e->type.elementary = E::None;
        }
        e->kind = ExpressionKind::Convert;
        e->detail = 0;
        e->arguments.clear();
        e->operands.push_back(std::move(operand));
        return e->type.elementary = conversion->to;
    }
    const FunctionInfo* info = find_function(e->name);
    const bool edge = info != nullptr && info->function >= Function::Rises;
    const auto memory = edge ? scope_.edge_memory() : std::nullopt;
    if (info == nullptr || (edge && !memory)) {
        std::vector<std::string> known;
        for (const FunctionInfo& f : standard_functions()) known.emplace_back(f.name);
        error(Code::UnknownName, e->span, fmt::format("no function is named '{}'", e->name),
              edge ? "use an R_TRIG or F_TRIG instance; RISES and FALLS belong to procedures"
                   : base::name_hint(e->name, known));
        return e->type.elementary = E::None;
    }
    if (static_cast<int>(e->arguments.size()) != info->arguments) {
        error(Code::WrongCall, e->span,
              fmt::format("{} takes {} argument{}, not {}", info->name, info->arguments,
                          info->arguments == 1 ? "" : "s", e->arguments.size()),
              info->summary);
        return e->type.elementary = E::None;
    }
    for (const Argument& a : e->arguments) {
        if (!a.name.empty()) {
            error(Code::NotSupported, a.span, "named arguments of functions are not supported by this version",
                  "give the arguments in order");
            return e->type.elementary = E::None;
        }
    }
    if (memory) e->binding = *memory;
    return e->type.elementary = infer_function(*e, static_cast<int>(info->function));
}

E ExpressionChecker::infer_function(Expression& e, int number) {
    const auto function = static_cast<Function>(number);
    e.detail = number;
    auto& args = e.arguments;
    if (function == Function::Rises || function == Function::Falls)
        return check(args[0].value, E::Bool, e.name) ? E::Bool : E::None;
    const bool shift = function >= Function::ShiftLeft && function <= Function::RotateRight;
    const bool real_only = function >= Function::SquareRoot && function <= Function::Power;
    std::size_t first = 0;
    if (function == Function::Select) {
        if (!check(args[0].value, E::Bool, "the selector of SEL")) return E::None;
        first = 1;
    }
    E common = E::None;
    const std::size_t last = shift ? 1 : args.size();
    for (std::size_t i = first; i < last; ++i) {
        const E type = infer(args[i].value);
        if (type == E::None) return E::None;
        const E met = i == first ? type : common_type(common, type);
        if (met == E::None) {
            error(Code::TypeMismatch, args[i].span,
                  fmt::format("{} and {} do not meet in {}", type_text(common), type_text(type), e.name),
                  conversion_hint(type, common));
            return E::None;
        }
        common = met;
    }
    if (real_only && common == E::AnyInt) common = E::AnyReal;
    // All literals: the type stays open until a neighbour or a target settles it.
    const bool open = is_literal_type(common) && !shift && function != Function::Truncate;
    if (open) return common;
    common = settled(common);
    const bool fits = shift                                         ? is_bit_string(common)
                      : real_only || function == Function::Truncate ? is_real(common)
                      : function == Function::Absolute              ? is_number(common)
                      : function == Function::Select                ? true
                                                                    : is_number(common) || common == E::Time;
    if (!fits) {
        error(Code::TypeMismatch, args[first].span, fmt::format("{} does not take {}", e.name, type_text(common)),
              real_only && is_integer(common) ? conversion_hint(common, E::Real) : "");
        return E::None;
    }
    for (std::size_t i = first; i < last; ++i) {
        if (!coerce(args[i].value, common, e.name)) return E::None;
    }
    if (shift && (infer(args[1].value) == E::None || !is_integer(args[1].value->type.elementary))) {
        error(Code::TypeMismatch, args[1].span, fmt::format("{} shifts by a whole number", e.name));
        return E::None;
    }
    if (shift) {
        if (args[1].value->type.is(E::AnyInt)) return coerce(args[1].value, E::Lint, e.name) ? common : E::None;
        if (!args[1].value->type.is(E::Lint)) wrap(args[1].value, E::Lint);
    }
    return function == Function::Truncate ? E::Dint : common;
}

bool ExpressionChecker::coerce_literal(Expression& e, E target, const std::string& what) {
    if (e.kind == ExpressionKind::Literal) {
        if (e.type.is(E::AnyInt) && is_real(target)) {
            e.real = static_cast<double>(e.integer) * (e.negative ? -1.0 : 1.0);
        } else if (!literal_fits(target, e.integer, e.negative)) {
            error(Code::LiteralRange, e.span,
                  fmt::format("{}{} does not fit {}, the type of {}", e.negative ? "-" : "", e.integer,
                              type_name(target), what));
            return false;
        }
        e.type.elementary = target;
        return true;
    }
    for (ExpressionPtr& operand : e.operands) {
        if (!coerce(operand, target, what)) return false;
    }
    if (e.kind == ExpressionKind::Call) {
        const bool select = e.detail == static_cast<int>(Function::Select);
        for (std::size_t i = select ? 1 : 0; i < e.arguments.size(); ++i) {
            if (!coerce(e.arguments[i].value, target, what)) return false;
        }
    }
    e.type.elementary = target;
    return true;
}

bool ExpressionChecker::coerce(ExpressionPtr& e, E target, const std::string& what) {
    const E type = e->type.elementary;
    if (type == target) return true;
    if (!widens(type, target)) {
        error(Code::TypeMismatch, e->span,
              fmt::format("this is {}, but {} needs {}", type_text(type), what, type_text(target)),
              conversion_hint(type, target));
        return false;
    }
    if (is_literal_type(target)) return true;
    if (is_literal_type(type)) return coerce_literal(*e, target, what);
    wrap(e, target);
    return true;
}

}  // namespace vyard::logic
