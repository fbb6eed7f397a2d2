#include "core/logic/check/expression_checker.hpp"

#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "core/logic/check/constants.hpp"
#include "core/logic/library/standard_functions.hpp"

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
bool is_pointer(E t) {
    return t == E::Reference || t == E::Interface || t == E::Null;
}
E settled(E type) {
    return type == E::AnyInt ? E::Dint : type == E::AnyReal ? E::Real : type;
}

}  // namespace

std::string conversion_hint(E from, E to) {
    if (to == E::Bool && is_number(from)) return "write TRUE or FALSE, or compare: <> 0";
    if (is_duration(to) && is_literal_type(from)) return "a time is written T#500ms, T#1.5s ...";
    if (is_literal_type(from)) return is_integer(to) || is_bit_string(to) ? "write it without a fraction" : "";
    const auto named = [](E t) { return is_scalar(t) || is_text(t); };
    if (!named(from) || !named(to) || from == E::Bool) return {};
    return fmt::format("convert it: {}_TO_{}(...)", type_name(from), type_name(to));
}

std::string ExpressionChecker::type_text(const TypeRef& t) const {
    if (t.is(E::AnyInt)) return "a whole number";
    if (t.is(E::AnyReal)) return "a real number";
    return logic_ != nullptr ? logic_->text_of(t) : type_name(t.elementary);
}

void ExpressionChecker::error(Code code, Span span, std::string message, std::string hint) {
    diagnostics_.error(code, place_in(source_, span), std::move(message), std::move(hint));
}

void ExpressionChecker::wrap(ExpressionPtr& e, const TypeRef& target, ConvertKind kind) {
    auto node = std::make_unique<Expression>();
    node->kind = ExpressionKind::Convert;
    node->span = e->span;
    node->type = target;
    node->detail = kind;
    node->operands.push_back(std::move(e));
    e = std::move(node);
}

bool ExpressionChecker::check(ExpressionPtr& e, const TypeRef& target, const std::string& what) {
    // An instance stands for itself where an interface is wanted.
    // A value whose name several enumerations have is that of the wanted one.
    if (enumeration(target) && e->kind == ExpressionKind::Name && !scope_.knows(e->name)) {
        for (const EnumConstant& v : logic_->type(target).values) {
            if (base::fold(v.name) != base::fold(e->name)) continue;
            e->type = target;
            set_literal(*e, v.value);
            return true;
        }
    }
    instances_allowed_ = target.is(E::Interface);
    const TypeRef type = infer(e);
    instances_allowed_ = false;
    return !type.is(E::None) && coerce(e, target, what);
}

TypeRef ExpressionChecker::check_any(ExpressionPtr& e) {
    const TypeRef type = infer(e);
    if (!is_literal_type(type.elementary)) return type;
    const TypeRef target{settled(type.elementary), -1};
    return coerce(e, target, "the value") ? target : kNothing;
}

TypeRef ExpressionChecker::infer(ExpressionPtr& e) {
    const Power power = e->power;
    const TypeRef type = infer_node(e);
    e->type = type;
    if (power != Power::None && !type.is(E::None) && !type.is(E::Bool)) {
        const bool contact = power == Power::Contact;
        error(Code::TypeMismatch, e->span,
              fmt::format("{} needs a BOOL, '{}' is {}", contact ? "a contact" : "a line that others join",
                          written_text(*e), type_text(type)),
              contact ? "compare it: the operator stands in the contact, the values above and below it" : "");
        return kNothing;
    }
    return type;
}

TypeRef ExpressionChecker::infer_node(ExpressionPtr& e) {
    switch (e->kind) {
        case ExpressionKind::Literal: {
            const E type = e->type.elementary;
            if (!is_literal_type(type) && !is_real(type) && !literal_fits(type, e->integer, e->negative)) {
                error(Code::LiteralRange, e->span, fmt::format("this number does not fit {}", type_name(type)));
                return kNothing;
            }
            return e->type;
        }
        case ExpressionKind::Text:
        case ExpressionKind::Null: return e->type;
        case ExpressionKind::TypedName: return infer_typed_name(*e);
        case ExpressionKind::Name:
        case ExpressionKind::Direct:
        case ExpressionKind::Member:
        case ExpressionKind::Index:
        case ExpressionKind::Dereference:
        case ExpressionKind::Partial:
        case ExpressionKind::This: return infer_value(e);
        case ExpressionKind::Unary: return infer_unary(*e);
        case ExpressionKind::Binary: return infer_binary(e);
        case ExpressionKind::Call: {
            const TypeRef type = call(e, false);
            if (!type.is(E::Void)) return type;
            error(Code::TypeMismatch, e->span, fmt::format("{} gives no value", e->name));
            return kNothing;
        }
        case ExpressionKind::Convert: return e->type;
        case ExpressionKind::Super:
            error(Code::WrongCall, e->span, "SUPER is not a value; call one of its methods: SUPER.name()");
            return kNothing;
        case ExpressionKind::List:
        case ExpressionKind::Fields:
        case ExpressionKind::Repeat: break;
    }
    error(Code::WrongValue, e->span, "a list of values stands only where a variable is declared");
    return kNothing;
}

TypeRef ExpressionChecker::infer_value(ExpressionPtr& e) {
    const bool instance_allowed = std::exchange(instances_allowed_, false);
    const auto found = place(e, Use::Read);
    if (!found) return kNothing;
    if (e->kind == ExpressionKind::Literal) return e->type;  // the name of a constant
    if (instance_allowed && found->type.is(E::Block)) {
        if (found->field != nullptr) found->field->written = true;
        return found->type;
    }
    if (found->type.is(E::Block) && e->kind != ExpressionKind::This) {
        const Layout& block = logic_->block(found->type.index);
        std::string output;
        for (const Field& f : block.fields) {
            if (f.section == Section::Output && output.empty()) output = f.name;
        }
        const std::string name = written_text(*e);
        error(Code::TypeMismatch, e->span, fmt::format("'{}' is a function block, not a value", name),
              output.empty() ? "" : fmt::format("name one of its outputs, such as {}.{}", name, output));
        return kNothing;
    }
    return found->type;
}

// --- operators ---

TypeRef ExpressionChecker::infer_unary(Expression& e) {
    TypeRef type = infer(e.operands[0]);
    if (type.is(E::None)) return kNothing;
    e.unit = e.operands[0]->unit;
    if (!enumeration(type) && !is_text(type.elementary)) type.index = derived(type) ? -1 : type.index;
    if (e.op == Operator::Not) {
        if (type.is(E::Bool) || is_bit_string(type.elementary)) return type;
        error(Code::TypeMismatch, e.span, fmt::format("NOT needs BOOL or a bit string, not {}", type_text(type)),
              conversion_hint(type.elementary, E::Bool));
        return kNothing;
    }
    if ((is_number(type.elementary) || is_duration(type.elementary)) && !enumeration(type)) return type;
    error(Code::TypeMismatch, e.span, fmt::format("'-' needs a number or TIME, not {}", type_text(type)));
    return kNothing;
}

TypeRef ExpressionChecker::infer_binary(ExpressionPtr& e) {
    TypeRef left = infer(e->operands[0]);
    TypeRef right = infer(e->operands[1]);
    if (left.is(E::None) || right.is(E::None)) return kNothing;
    if (scope_.dotted_names()) {
        if (!meet_units(*e)) return kNothing;
        left = e->operands[0]->type;
        right = e->operands[1]->type;
    }
    const bool comparison = is_comparison(e->op);
    if (is_pointer(left.elementary) || is_pointer(right.elementary) || left.is(E::Block) || right.is(E::Block))
        return infer_reference_comparison(*e, left, right);
    if (enumeration(left) && enumeration(right) && comparison && !logic_->same(left, right)) {
        error(Code::TypeMismatch, e->span,
              fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right), operator_text(e->op)));
        return kNothing;
    }
    if (derived(left)) left.index = -1;
    if (derived(right)) right.index = -1;
    if (is_logical(e->op)) return infer_logical(*e, left, right);
    if (e->op == Operator::Power) return infer_power(e, left, right);
    const bool texts = (is_text(left.elementary) || is_character(left.elementary)) &&
                       (is_text(right.elementary) || is_character(right.elementary));
    if (texts && comparison) {
        const bool wide = left.is(E::Wstring) || left.is(E::Wchar);
        if (is_character(left.elementary) && is_character(right.elementary) && left == right) return {E::Bool, -1};
        const TypeRef common{wide ? E::Wstring : E::String, kMaxCapacity};
        return coerce(e->operands[0], common, "the other side") && coerce(e->operands[1], common, "the other side")
                   ? TypeRef{E::Bool, -1}
                   : kNothing;
    }
    if (is_moment(left.elementary) || is_moment(right.elementary)) return infer_moment(*e, left, right);
    if (is_duration(left.elementary) != is_duration(right.elementary)) return infer_time(e, left, right);
    const E common = common_type(left.elementary, right.elementary);
    const bool both_time = is_duration(left.elementary);
    const bool usable =
        comparison ? common != E::None && !is_text(common)
                   : is_number(common) || (both_time && (e->op == Operator::Add || e->op == Operator::Subtract));
    if (!usable || left.is(E::Array) || left.is(E::Structure)) {
        const bool mixed = common == E::None;
        error(Code::TypeMismatch, e->span,
              mixed ? fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right),
                                  operator_text(e->op))
                    : fmt::format("'{}' needs numbers, not {}", operator_text(e->op), type_text({common, left.index})),
              mixed && is_number(left.elementary) && is_number(right.elementary)
                  ? conversion_hint(left.elementary, right.elementary)
              : is_bit_string(common) ? conversion_hint(common, E::Uint)
                                      : "");
        return kNothing;
    }
    if (e->op == Operator::Modulo && is_real(common)) {
        error(Code::TypeMismatch, e->span, "MOD needs whole numbers");
        return kNothing;
    }
    E working = common;
    if (is_literal_type(common)) {
        if (!comparison) return {common, -1};
        working = common == E::AnyInt ? E::Lint : E::Lreal;
    }
    const bool ok =
        coerce(e->operands[0], working, "the other side") && coerce(e->operands[1], working, "the other side");
    const bool equality = e->op == Operator::Equal || e->op == Operator::NotEqual;
    if (ok && equality && is_real(working) && logic_ != nullptr) {
        diagnostics_.warning(Code::RealEquality, place_in(source_, e->span),
                             fmt::format("{} values are rarely equal to the last bit", type_name(working)),
                             "compare with a tolerance: ABS(a - b) < 0.001");
    }
    return !ok ? kNothing : TypeRef{comparison ? E::Bool : working, -1};
}

/// In a condition: quantities are compared and added with their like. Names of the plant bring their dimension, numbers
/// the unit they are written with; a number without one takes what it meets, in SI. A tag has none that is known here.
/// Against a TIME, a number with a unit of time becomes one. False after a report.
bool ExpressionChecker::meet_units(Expression& e) {
    using base::Dimension;
    Expression& a = *e.operands[0];
    Expression& b = *e.operands[1];
    const bool additive = e.op == Operator::Add || e.op == Operator::Subtract;
    if (e.op == Operator::Multiply || e.op == Operator::Divide) {
        const bool plain_b = !b.unit || *b.unit == Dimension::Plain;
        const bool plain_a = !a.unit || *a.unit == Dimension::Plain;
        if (plain_b) e.unit = a.unit;
        if (plain_a && e.op == Operator::Multiply) e.unit = b.unit;
        return true;
    }
    if (!additive && !is_comparison(e.op)) return true;
    for (auto& [literal, other] : {std::pair(&a, &b), std::pair(&b, &a)}) {
        if (literal->kind != ExpressionKind::Literal || literal->unit != Dimension::Time ||
            !is_duration(other->type.elementary))
            continue;
        literal->integer = static_cast<std::uint64_t>(std::llround(std::abs(literal->real) * 1e9));
        literal->negative = literal->real < 0.0;
        literal->type = other->type;
        literal->unit.reset();
        return true;
    }
    if (additive) e.unit = a.unit ? a.unit : b.unit;
    if (!a.unit || !b.unit || *a.unit == *b.unit) return true;
    const auto text = [&](const Expression& x) {
        return *x.unit == Dimension::Plain ? std::string("a plain number")
                                           : base::with_article(base::dimension_name(*x.unit));
    };
    // Two names may be compared as numbers, as long as no unit is written.
    const bool plain = *a.unit == Dimension::Plain || *b.unit == Dimension::Plain;
    const bool written = a.kind == ExpressionKind::Literal || b.kind == ExpressionKind::Literal;
    if (plain && !written) return true;
    const Expression& named = a.kind == ExpressionKind::Literal ? b : a;
    error(Code::WrongUnit, e.span, fmt::format("{} and {} do not meet in '{}'", text(a), text(b), operator_text(e.op)),
          plain ? "compare with a number without a unit"
                : fmt::format("units of {}: {}", base::dimension_name(*named.unit), base::accepted_units(*named.unit)));
    return false;
}

/// a ** b is EXPT(a, b): real, with whole or real exponent (IEC 61131-3 table 29).
TypeRef ExpressionChecker::infer_power(ExpressionPtr& e, const TypeRef& left, const TypeRef& right) {
    if (!is_number(left.elementary) || !is_number(right.elementary)) {
        error(Code::TypeMismatch, e->span,
              fmt::format("{} and {} do not meet in '**'", type_text(left), type_text(right)));
        return kNothing;
    }
    auto node = std::make_unique<Expression>();
    node->kind = ExpressionKind::Call;
    node->span = e->span;
    node->name = "EXPT";
    auto callee = std::make_unique<Expression>();
    callee->kind = ExpressionKind::Name;
    callee->name = "EXPT";
    callee->span = e->span;
    node->operands.push_back(std::move(callee));
    for (ExpressionPtr& operand : e->operands) {
        Argument a;
        a.span = operand->span;
        a.value = std::move(operand);
        node->arguments.push_back(std::move(a));
    }
    e = std::move(node);
    return call_standard(e);
}

TypeRef ExpressionChecker::infer_reference_comparison(Expression& e, const TypeRef& left, const TypeRef& right) {
    const bool equality = e.op == Operator::Equal || e.op == Operator::NotEqual;
    const bool meet = is_pointer(left.elementary) && is_pointer(right.elementary) &&
                      (left.is(E::Null) || right.is(E::Null) || left.elementary == right.elementary);
    if (equality && meet) return {E::Bool, -1};
    error(Code::TypeMismatch, e.span,
          fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right), operator_text(e.op)),
          equality ? "" : "references are only equal or not");
    return kNothing;
}

/// TIME * number, number * TIME, TIME / number (IEC 61131-3 table 30). TIME meets nothing else.
TypeRef ExpressionChecker::infer_time(ExpressionPtr& e, const TypeRef& left, const TypeRef& right) {
    const bool time_left = is_duration(left.elementary);
    const TypeRef time_type = time_left ? left : right;
    const E number = time_left ? right.elementary : left.elementary;
    const bool allowed = is_number(number) && (e->op == Operator::Multiply || (e->op == Operator::Divide && time_left));
    if (!allowed) {
        error(Code::TypeMismatch, e->span,
              fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right), operator_text(e->op)),
              "a time is written T#500ms, T#1.5s ...");
        return kNothing;
    }
    ExpressionPtr& factor = e->operands[time_left ? 1 : 0];
    ExpressionPtr& time = e->operands[time_left ? 0 : 1];
    if (is_integer(number)) {
        if (number == E::AnyInt && !coerce(factor, E::Lint, "TIME")) return kNothing;
        if (!factor->type.is(E::Lint)) wrap(factor, {E::Lint, -1});
        return time_type;
    }
    if (number == E::AnyReal && !coerce(factor, E::Lreal, "TIME")) return kNothing;
    if (!factor->type.is(E::Lreal)) wrap(factor, {E::Lreal, -1});
    wrap(time, {E::Lreal, -1});
    e->type = {E::Lreal, -1};
    wrap(e, time_type);
    return time_type;
}

/// Moments are compared with their like; the difference of two is a time, and a time shifts one (table 30).
TypeRef ExpressionChecker::infer_moment(Expression& e, const TypeRef& left, const TypeRef& right) {
    const E common = common_type(left.elementary, right.elementary);
    const bool long_form = static_cast<int>(left.elementary) % 2 != static_cast<int>(E::Date) % 2;
    if (common != E::None && (is_comparison(e.op) || e.op == Operator::Subtract)) {
        const bool ok =
            coerce(e.operands[0], common, "the other side") && coerce(e.operands[1], common, "the other side");
        const bool wide = static_cast<int>(common) % 2 != static_cast<int>(E::Date) % 2;
        return !ok ? kNothing : TypeRef{is_comparison(e.op) ? E::Bool : wide ? E::Ltime : E::Time, -1};
    }
    const bool date = left.is(E::Date) || left.is(E::Ldate);
    const bool shift = is_moment(left.elementary) && !date && is_duration(right.elementary) &&
                       (e.op == Operator::Add || e.op == Operator::Subtract) && (long_form || right.is(E::Time));
    if (shift) return left;
    error(Code::TypeMismatch, e.span,
          fmt::format("{} and {} do not meet in '{}'", type_text(left), type_text(right), operator_text(e.op)));
    return kNothing;
}

TypeRef ExpressionChecker::infer_logical(Expression& e, const TypeRef& left, const TypeRef& right) {
    const auto fits = [](E t) { return t == E::Bool || is_bit_string(t) || t == E::AnyInt; };
    const bool left_ok = fits(left.elementary), right_ok = fits(right.elementary);
    const E common = left_ok && right_ok ? common_type(left.elementary, right.elementary) : E::None;
    if (common == E::None || common == E::AnyInt) {
        const TypeRef culprit = !left_ok ? left : !right_ok ? right : left;
        error(Code::TypeMismatch, e.span,
              fmt::format("{} needs BOOL or bit strings on both sides, not {} and {}", operator_text(e.op),
                          type_text(left), type_text(right)),
              conversion_hint(culprit.elementary, E::Bool));
        return kNothing;
    }
    const bool ok = coerce(e.operands[0], common, "the other side") && coerce(e.operands[1], common, "the other side");
    return ok ? TypeRef{common, -1} : kNothing;
}

// --- implicit conversions ---

bool ExpressionChecker::coerce_literal(Expression& e, const TypeRef& target, const std::string& what) {
    const E to = target.elementary;
    if (e.kind == ExpressionKind::Literal) {
        if (e.type.is(E::AnyInt) && is_real(to)) {
            e.real = static_cast<double>(e.integer) * (e.negative ? -1.0 : 1.0);
        } else if (!literal_fits(to, e.integer, e.negative)) {
            error(Code::LiteralRange, e.span,
                  fmt::format("{}{} does not fit {}, the type of {}", e.negative ? "-" : "", e.integer,
                              type_text(target), what));
            return false;
        }
        e.type = {to, -1};
        return true;
    }
    for (ExpressionPtr& operand : e.operands) {
        if (e.kind != ExpressionKind::Call && !coerce(operand, TypeRef{to, -1}, what)) return false;
    }
    if (e.kind == ExpressionKind::Call) {
        const auto function = static_cast<Function>(e.detail);
        const bool select = function == Function::Select || function == Function::Multiplex;
        for (std::size_t i = select ? 1 : 0; i < e.arguments.size(); ++i) {
            if (e.arguments[i].field >= kEnable + 1 || e.arguments[i].field == -1)
                if (!coerce(e.arguments[i].value, TypeRef{to, -1}, what)) return false;
        }
    }
    e.type = {to, -1};
    return true;
}

bool ExpressionChecker::mismatch(const Expression& e, const TypeRef& target, const std::string& what) {
    std::string hint = conversion_hint(e.type.elementary, target.elementary);
    const bool scalar = is_scalar(e.type.elementary) || is_text(e.type.elementary);
    if (!converting_.empty() && what == converting_ && scalar)
        hint = fmt::format("{}_TO_{}(...)", type_name(e.type.elementary), type_name(converting_to_));
    if (enumeration(target)) {
        const DerivedType& type = logic_->type(target);
        hint = fmt::format("name one of its values, such as {}{}", type.name.empty() ? "" : type.name + "#",
                           type.values.empty() ? "" : type.values.front().name);
    }
    if (target.is(E::Reference) && !e.type.is(E::Reference) && !e.type.is(E::Interface))
        hint = "take a reference: REF(...)";
    if (e.type.is(E::Reference) && logic_ != nullptr && logic_->same(logic_->type(e.type).element, target))
        hint = "follow the reference: ^";
    if (is_literal_type(e.type.elementary) && is_text(target.elementary)) hint = "a string stands in quotes";
    error(Code::TypeMismatch, e.span,
          fmt::format("this is {}, but {} needs {}", type_text(e.type), what, type_text(target)), std::move(hint));
    return false;
}

/// Into a subrange: a literal is checked now, another value when it runs.
bool ExpressionChecker::coerce_range(ExpressionPtr& e, const TypeRef& target, const std::string& what) {
    const DerivedType& range = logic_->type(target);
    if (!coerce(e, TypeRef{range.base, -1}, what)) return false;
    if (range.low == INT64_MIN || is_real(range.base)) return true;  // an alias with another initial value
    if (fold(*e)) {
        const std::int64_t value = literal_integer(*e);
        if (value >= range.low && value <= range.high) return true;
        error(Code::OutOfRange, e->span,
              fmt::format("{} is outside {}..{}, the range of {}", value, range.low, range.high, what));
        return false;
    }
    wrap(e, target, kConvertRange);
    return true;
}

bool ExpressionChecker::coerce_reference(ExpressionPtr& e, const TypeRef& target) {
    const TypeRef type = e->type;
    if (type.is(E::Null)) {
        e->type = target;
        return true;
    }
    if (target.is(E::Reference)) {
        if (!type.is(E::Reference)) return false;
        const TypeRef from = logic_->type(type).element, to = logic_->type(target).element;
        return logic_->same(from, to) ||
               (from.is(E::Block) && to.is(E::Block) && logic_->is_kind_of(from.index, to.index));
    }
    if (type.is(E::Interface)) return logic_->is_kind_of(type.index, target.index);
    if (!type.is(E::Block) || !logic_->is_kind_of(type.index, target.index)) return false;
    wrap(e, target, kConvertInstance);
    return true;
}

bool ExpressionChecker::coerce(ExpressionPtr& e, const TypeRef& target, const std::string& what) {
    const TypeRef type = e->type;
    if (type == target) return true;
    const E from = type.elementary, to = target.elementary;
    if (to == E::Reference || to == E::Interface) return coerce_reference(e, target) || mismatch(*e, target, what);
    if (logic_ != nullptr && logic_->same(type, target)) return true;
    if (is_text(from) && from == to) return true;
    if (e->kind == ExpressionKind::Text && is_character(to) && (from == E::String) == (to == E::Char) &&
        type.index == 1) {
        e->type = target;
        return true;
    }
    if (enumeration(target)) return mismatch(*e, target, what);
    if (logic_ != nullptr && logic_->is_subrange(target)) return coerce_range(e, target, what);
    if (from == to && is_scalar(from)) return true;  // out of a subrange or an enumeration
    // Arrays, structures and blocks of other types never meet, and AnyInt and the like are no types to convert to.
    if (from == to || !widens(from, to)) return mismatch(*e, target, what);
    if (is_literal_type(to)) return true;
    if (is_literal_type(from)) return coerce_literal(*e, target, what);
    wrap(e, target);
    return true;
}

}  // namespace vyard::logic
