// Calls of the standard functions and conversions.
#include <fmt/format.h>

#include <algorithm>
#include <sstream>
#include <utility>

#include "core/logic/check/constants.hpp"
#include "core/logic/check/expression_checker.hpp"
#include "core/logic/library/standard_functions.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

bool is_open(const TypeRef& t) {
    return t.is(E::AnyInt) || t.is(E::AnyReal);
}

std::vector<std::string> formal_names(const FunctionInfo& info) {
    std::istringstream in(info.formal);
    std::vector<std::string> out;
    for (std::string word; in >> word;) out.push_back(word);
    return out;
}

/// The number of a formal argument: "IN3" of a list that ends in "IN1" counts on. -1 for none.
int formal_position(const FunctionInfo& info, const std::string& name) {
    const std::vector<std::string> names = formal_names(info);
    const std::string folded = base::fold(name);
    for (std::size_t i = 0; i < names.size(); ++i) {
        if (base::fold(names[i]) == folded) return static_cast<int>(i);
    }
    const std::string last = base::fold(names.back());
    const std::size_t digits = last.find_first_of("0123456789");
    if (digits == std::string::npos || info.most <= static_cast<int>(names.size()) ||
        !folded.starts_with(last.substr(0, digits)) || folded.size() > digits + 2)
        return -1;
    int number = 0;
    for (const char c : folded.substr(digits)) {
        if (c < '0' || c > '9') return -1;
        number = number * 10 + (c - '0');
    }
    return static_cast<int>(names.size()) - 1 + number - (last[digits] - '0');
}

}  // namespace

TypeRef ExpressionChecker::call_standard(ExpressionPtr& e) {
    e->name = dotted_name(*e->operands[0]);
    if (const auto conversion = find_conversion(e->name)) return call_conversion(e, *conversion);
    const FunctionInfo* info = find_function(e->name);
    const bool edge = info != nullptr && info->function >= Function::Rises;
    const auto memory = edge ? scope_.edge_memory() : std::nullopt;
    if (info == nullptr || (edge && !memory)) {
        std::vector<std::string> known;
        for (const FunctionInfo& f : standard_functions()) known.emplace_back(f.name);
        if (logic_ != nullptr) {
            for (const Layout& block : logic_->blocks) {
                if (block.kind == LayoutKind::Function) known.push_back(block.name);
            }
        }
        error(Code::UnknownName, e->span, fmt::format("no function is named '{}'", e->name),
              edge ? "use an R_TRIG or F_TRIG instance; RISES and FALLS belong to procedures"
                   : base::name_hint(e->name, known));
        return kNothing;
    }
    if (memory) e->binding = *memory;
    e->call = CallKind::Standard;
    e->detail = static_cast<int>(info->function);
    if (!order_arguments(*e, *info)) return kNothing;
    return infer_function(e, *info);
}

/// Puts named arguments into their order and takes EN and ENO aside (behind the others).
bool ExpressionChecker::order_arguments(Expression& e, const FunctionInfo& info) {
    std::vector<Argument> enables;
    std::erase_if(e.arguments, [&](Argument& a) {
        const std::string folded = base::fold(a.name);
        if (!(folded == "en" && !a.output) && !(folded == "eno" && a.output)) return false;
        a.field = folded == "en" ? kEnable : kEnableOut;
        enables.push_back(std::move(a));
        return true;
    });
    const int count = static_cast<int>(e.arguments.size());
    if (count < info.least || count > info.most) {
        error(Code::WrongCall, e.span,
              fmt::format("{} takes {}{} argument{}, not {}", info.name, info.least != info.most ? "at least " : "",
                          info.least, info.least == 1 ? "" : "s", count),
              info.summary);
        return false;
    }
    const bool splits = info.function == Function::SplitDate || info.function == Function::SplitTimeOfDay ||
                        info.function == Function::SplitMoment;
    std::vector<Argument> ordered(e.arguments.size());
    std::vector<bool> taken(e.arguments.size(), false);
    for (std::size_t i = 0; i < e.arguments.size(); ++i) {
        Argument& a = e.arguments[i];
        int position = static_cast<int>(i);
        if (!a.name.empty()) {
            position = formal_position(info, a.name);
            if (position < 0 || position >= count || (a.output != (splits && position > 0)) ||
                base::at(taken, position)) {
                error(Code::WrongCall, a.span,
                      fmt::format("{} has no {} '{}'", info.name, a.output ? "output" : "input", a.name),
                      fmt::format("known: {}", info.formal));
                return false;
            }
        } else if (base::at(taken, position)) {
            error(Code::WrongCall, a.span, "an argument without a name stands before those with one");
            return false;
        }
        base::at(taken, position) = true;
        base::at(ordered, position) = std::move(a);
    }
    e.arguments = std::move(ordered);
    for (Argument& a : enables) {
        const bool ok = a.field == kEnable ? check(a.value, E::Bool, "EN") : target(a.value).has_value();
        if (!ok) return false;
        e.arguments.push_back(std::move(a));
    }
    return true;
}

TypeRef ExpressionChecker::call_conversion(ExpressionPtr& e, const Conversion& conversion) {
    if (e->arguments.size() != 1) {
        error(Code::WrongCall, e->span, fmt::format("{} takes one argument, not {}", e->name, e->arguments.size()));
        return kNothing;
    }
    ExpressionPtr operand = std::move(e->arguments[0].value);
    e->arguments.clear();
    TypeRef from{conversion.from, -1};
    bool ok = true;
    const std::string outer = std::exchange(converting_, e->name);
    const E outer_to = std::exchange(converting_to_, conversion.to);
    if (from.is(E::None)) {
        from = check_any(operand);
        ok = !from.is(E::None);
    } else if (is_text(from.elementary)) {
        from = infer(operand);
        ok = !from.is(E::None) && coerce(operand, TypeRef{conversion.from, kMaxCapacity}, e->name);
        from = {conversion.from, -1};
    } else {
        ok = check(operand, from, e->name);
    }
    converting_ = outer;
    converting_to_ = outer_to;
    if (!ok) return kNothing;
    const E a = from.elementary, b = conversion.to;
    const auto bits = [](E t) { return is_bit_string(t) || is_unsigned_integer(t); };
    const bool plain = (is_scalar(a) || is_text(a)) && (is_scalar(b) || is_text(b));
    const bool fits = conversion.kind == kConvertTruncate  ? is_real(a) && is_integer(b)
                      : conversion.kind == kConvertFromBcd ? bits(a) && bits(b)
                      : conversion.kind == kConvertToBcd   ? bits(a) && bits(b)
                                                           : plain;
    if (!fits) {
        error(Code::TypeMismatch, operand->span, fmt::format("{} does not take {}", e->name, type_text(from)),
              conversion.kind == kConvertTruncate && is_integer(a) ? conversion_hint(a, E::Real) : "");
        return kNothing;
    }
    e->kind = ExpressionKind::Convert;
    e->detail = conversion.kind;
    e->operands.clear();
    e->operands.push_back(std::move(operand));
    if (is_text(b)) return {b, is_text(a) ? e->operands[0]->type.index : 64};
    return {b, -1};
}

TypeRef ExpressionChecker::infer_function(ExpressionPtr& e, const FunctionInfo& info) {
    switch (info.function) {
        case Function::Rises:
        case Function::Falls: return check(e->arguments[0].value, E::Bool, e->name) ? TypeRef{E::Bool, -1} : kNothing;
        case Function::Operate: return infer_operate(e, info);
        case Function::Select:
        case Function::Multiplex:
        case Function::Move: return infer_selection(*e, info);
        case Function::ShiftLeft:
        case Function::ShiftRight:
        case Function::RotateLeft:
        case Function::RotateRight: return infer_shift(*e, info);
        case Function::Length:
        case Function::Left:
        case Function::Right:
        case Function::Middle:
        case Function::Concatenate:
        case Function::Insert:
        case Function::Delete:
        case Function::Replace:
        case Function::Find: return infer_text(*e, info);
        case Function::JoinMoment:
        case Function::MakeDate:
        case Function::MakeTimeOfDay:
        case Function::MakeMoment:
        case Function::SplitDate:
        case Function::SplitTimeOfDay:
        case Function::SplitMoment:
        case Function::DayOfWeek: return infer_date(*e, info);
        case Function::LowerBound:
        case Function::UpperBound: return infer_bound(e, info);
        case Function::Reference: return infer_reference(*e);
        default: return infer_numeric(*e, info);
    }
}

/// ADD(a, b, c) is a + b + c; GT(a, b, c) is a > b AND b > c. With EN it is MOVE(EN := ..., a + b + c).
TypeRef ExpressionChecker::infer_operate(ExpressionPtr& e, const FunctionInfo& info) {
    std::vector<Argument> enables;
    std::erase_if(e->arguments, [&](Argument& a) {
        const bool enable = a.field == kEnable || a.field == kEnableOut;
        if (enable) enables.push_back(std::move(a));
        return enable;
    });
    const auto node = [&](Operator op, ExpressionPtr left, ExpressionPtr right) {
        auto out = std::make_unique<Expression>();
        out->kind = ExpressionKind::Binary;
        out->op = op;
        out->span = e->span;
        out->operands.push_back(std::move(left));
        out->operands.push_back(std::move(right));
        return out;
    };
    const bool comparison = info.op >= Operator::Equal && info.op <= Operator::GreaterEqual;
    ExpressionPtr out;
    for (std::size_t i = 0; i + 1 < e->arguments.size(); ++i) {
        ExpressionPtr& left = e->arguments[i].value;
        ExpressionPtr& right = e->arguments[i + 1].value;
        if (comparison) {
            const bool last = i + 2 == e->arguments.size();
            ExpressionPtr next = node(info.op, std::move(left), last ? std::move(right) : clone(*right));
            out = out ? node(Operator::And, std::move(out), std::move(next)) : std::move(next);
        } else {
            out = node(info.op, out ? std::move(out) : std::move(left), std::move(right));
        }
    }
    if (enables.empty()) {
        e = std::move(out);
        return infer(e);
    }
    Argument sum;
    sum.span = e->span;
    sum.value = std::move(out);
    e->arguments.clear();
    e->arguments.push_back(std::move(sum));
    for (Argument& a : enables) e->arguments.push_back(std::move(a));
    e->detail = static_cast<int>(Function::Move);
    return infer_selection(*e, *find_function("MOVE"));
}

/// The type that arguments [first, last) meet in; None after a report. Open when all are literals.
TypeRef ExpressionChecker::common_of(Expression& e, std::size_t first, std::size_t last) {
    TypeRef common;
    for (std::size_t i = first; i < last; ++i) {
        const TypeRef type = infer(e.arguments[i].value);
        if (type.is(E::None)) return kNothing;
        if (i == first) {
            common = type;
            continue;
        }
        if (logic_ != nullptr && logic_->same(common, type)) {
            if (is_text(type.elementary)) common.index = std::max(common.index, type.index);
            continue;
        }
        const E met = common_type(common.elementary, type.elementary);
        if (met == E::None || enumeration(common) || enumeration(type)) {
            error(Code::TypeMismatch, e.arguments[i].span,
                  fmt::format("{} and {} do not meet in {}", type_text(common), type_text(type), e.name),
                  conversion_hint(type.elementary, common.elementary));
            return kNothing;
        }
        common = {met, is_text(met) ? std::max(common.index, type.index) : -1};
    }
    return common;
}

TypeRef ExpressionChecker::infer_numeric(Expression& e, const FunctionInfo& info) {
    const Function f = info.function;
    auto& args = e.arguments;
    std::size_t count = args.size();
    while (count > 0 && (args[count - 1].field == kEnable || args[count - 1].field == kEnableOut)) --count;
    if (f == Function::Power) {
        // The exponent may be whole or real of any size; the base decides.
        const TypeRef exponent = infer(args[1].value);
        TypeRef base = infer(args[0].value);
        if (exponent.is(E::None) || base.is(E::None)) return kNothing;
        const TypeRef working{base.is(E::Lreal) || (base.is(E::Dint) || base.is(E::Lint)) ? E::Lreal
                              : is_open(base) && exponent.is(E::Lreal)                    ? E::Lreal
                                                                                          : E::Real,
                              -1};
        if (!is_number(base.elementary) || !is_number(exponent.elementary)) {
            error(Code::TypeMismatch, args[0].span,
                  fmt::format("EXPT does not take {}", type_text(is_number(base.elementary) ? exponent : base)));
            return kNothing;
        }
        for (std::size_t i = 0; i < 2; ++i) {
            ExpressionPtr& a = args[i].value;
            if (is_open(a->type) ? !coerce(a, working, e.name) : false) return kNothing;
            if (!a->type.is(working.elementary)) wrap(a, working);
        }
        return working;
    }
    TypeRef common = common_of(e, 0, count);
    if (common.is(E::None)) return kNothing;
    const bool real_only = f >= Function::SquareRoot && f <= Function::ArcTangent2;
    const bool bytes = f == Function::SwapBytes || f == Function::KeepBytes;
    if ((real_only || f == Function::IsValid) && common.is(E::AnyInt)) common.elementary = E::AnyReal;
    // All literals: the type stays open until a neighbour or a target settles it.
    if (is_open(common) && !bytes && f != Function::IsValid && f != Function::IsValidBcd) return common;
    if (is_open(common)) common.elementary = common.is(E::AnyInt) ? E::Dint : E::Real;
    const bool ordered = f == Function::Minimum || f == Function::Maximum || f == Function::Limit;
    if (ordered && is_text(common.elementary)) {
        for (std::size_t i = 0; i < count; ++i) {
            if (!coerce(args[i].value, common, e.name)) return kNothing;
        }
        return common;
    }
    if (!enumeration(common)) common.index = -1;
    const E t = common.elementary;
    const bool fits = real_only || f == Function::IsValid ? is_real(t)
                      : f == Function::IsValidBcd         ? is_bit_string(t)
                      : bytes                             ? is_scalar(t)
                      : f == Function::Absolute           ? is_number(t)
                                                : is_number(t) || is_duration(t) || is_moment(t) || is_bit_string(t);
    if (!fits) {
        error(Code::TypeMismatch, args[0].span, fmt::format("{} does not take {}", e.name, type_text(common)),
              real_only && is_integer(t) ? conversion_hint(t, E::Real) : "");
        return kNothing;
    }
    for (std::size_t i = 0; i < count; ++i) {
        if (!coerce(args[i].value, common, e.name)) return kNothing;
    }
    return f == Function::IsValid || f == Function::IsValidBcd ? TypeRef{E::Bool, -1} : common;
}

TypeRef ExpressionChecker::infer_selection(Expression& e, const FunctionInfo& info) {
    std::size_t first = 0;
    std::size_t count = e.arguments.size();
    while (count > 0 && (e.arguments[count - 1].field == kEnable || e.arguments[count - 1].field == kEnableOut))
        --count;
    if (info.function == Function::Select) {
        if (!check(e.arguments[0].value, E::Bool, "the selector of SEL")) return kNothing;
        first = 1;
    } else if (info.function == Function::Multiplex) {
        const TypeRef k = infer(e.arguments[0].value);
        if (k.is(E::None)) return kNothing;
        if (!is_integer(k.elementary)) {
            error(Code::TypeMismatch, e.arguments[0].span,
                  fmt::format("MUX picks by a whole number, not {}", type_text(k)));
            return kNothing;
        }
        if (k.is(E::AnyInt) ? !coerce(e.arguments[0].value, E::Lint, "MUX") : false) return kNothing;
        if (!e.arguments[0].value->type.is(E::Lint)) wrap(e.arguments[0].value, {E::Lint, -1});
        first = 1;
    }
    const TypeRef common = common_of(e, first, count);
    if (common.is(E::None) || is_open(common)) return common;
    if (!is_scalar(common.elementary) && !is_text(common.elementary)) {
        error(Code::TypeMismatch, e.arguments[first].span,
              fmt::format("{} does not take {}", e.name, type_text(common)));
        return kNothing;
    }
    for (std::size_t i = first; i < count; ++i) {
        if (!coerce(e.arguments[i].value, common, e.name)) return kNothing;
    }
    return common;
}

TypeRef ExpressionChecker::infer_shift(Expression& e, const FunctionInfo& info) {
    auto& args = e.arguments;
    const TypeRef type = infer(args[0].value);
    const TypeRef by = infer(args[1].value);
    if (type.is(E::None) || by.is(E::None)) return kNothing;
    if (!is_bit_string(type.elementary)) {
        error(Code::TypeMismatch, args[0].span,
              fmt::format("{} does not take {}", info.name, is_open(type) ? "DINT" : type_text(type)));
        return kNothing;
    }
    if (!is_integer(by.elementary)) {
        error(Code::TypeMismatch, args[1].span, fmt::format("{} shifts by a whole number", info.name));
        return kNothing;
    }
    if (by.is(E::AnyInt) && !coerce(args[1].value, E::Lint, e.name)) return kNothing;
    if (!args[1].value->type.is(E::Lint)) wrap(args[1].value, {E::Lint, -1});
    return {type.elementary, -1};
}

TypeRef ExpressionChecker::infer_text(Expression& e, const FunctionInfo& info) {
    auto& args = e.arguments;
    const Function f = info.function;
    const auto texts = [&](std::size_t i) {
        return f == Function::Concatenate || i == 0 ||
               (i == 1 && (f == Function::Insert || f == Function::Replace || f == Function::Find));
    };
    TypeRef common;
    int sum = 0;
    for (std::size_t i = 0; i < args.size(); ++i) {
        if (args[i].field == kEnable || args[i].field == kEnableOut) continue;
        const TypeRef type = infer(args[i].value);
        if (type.is(E::None)) return kNothing;
        if (!texts(i)) {
            if (!is_integer(type.elementary)) {
                error(Code::TypeMismatch, args[i].span,
                      fmt::format("{} counts with a whole number, not {}", info.name, type_text(type)));
                return kNothing;
            }
            if (type.is(E::AnyInt) && !coerce(args[i].value, E::Lint, e.name)) return kNothing;
            if (!args[i].value->type.is(E::Lint)) wrap(args[i].value, {E::Lint, -1});
            continue;
        }
        const bool wide = type.is(E::Wstring) || type.is(E::Wchar);
        const TypeRef text{wide ? E::Wstring : E::String, is_text(type.elementary) ? type.index : 1};
        if ((!is_text(type.elementary) && !is_character(type.elementary)) ||
            (!common.is(E::None) && common.elementary != text.elementary)) {
            error(Code::TypeMismatch, args[i].span,
                  fmt::format(
                      "{} does not take {}{}", info.name, type_text(type),
                      common.is(E::None) ? "" : " together with " + type_text({common.elementary, kDefaultCapacity})));
            return kNothing;
        }
        if (!coerce(args[i].value, text, e.name)) return kNothing;
        if (common.is(E::None)) common = text;
        sum += text.index;
    }
    if (f == Function::Length || f == Function::Find) return {E::Int, -1};
    const bool joins = f == Function::Concatenate || f == Function::Insert || f == Function::Replace;
    return {common.elementary, std::min(joins ? sum : common.index, kMaxCapacity)};
}

TypeRef ExpressionChecker::infer_date(Expression& e, const FunctionInfo& info) {
    auto& args = e.arguments;
    const Function f = info.function;
    if (f == Function::JoinMoment) {
        const bool wide = info.type == E::Ldt;
        const TypeRef date = infer(args[0].value);
        if (date.is(E::None)) return kNothing;
        const bool ok = check(args[0].value, date.is(E::Ldate) ? E::Ldate : E::Date, e.name) &&
                        check(args[1].value, wide ? E::Ltod : E::Tod, e.name);
        return ok ? TypeRef{info.type, -1} : kNothing;
    }
    if (f == Function::DayOfWeek) {
        const TypeRef date = infer(args[0].value);
        if (date.is(E::None)) return kNothing;
        if (!date.is(E::Date) && !date.is(E::Ldate)) {
            error(Code::TypeMismatch, args[0].span, fmt::format("DAY_OF_WEEK needs a DATE, not {}", type_text(date)));
            return kNothing;
        }
        return {E::Usint, -1};
    }
    const bool splits = f == Function::SplitDate || f == Function::SplitTimeOfDay || f == Function::SplitMoment;
    if (splits) {
        const TypeRef in = infer(args[0].value);
        const bool fits = f == Function::SplitDate        ? in.is(E::Date) || in.is(E::Ldate)
                          : f == Function::SplitTimeOfDay ? in.is(E::Tod) || in.is(E::Ltod)
                                                          : in.is(E::Dt) || in.is(E::Ldt);
        if (!in.is(E::None) && !fits)
            error(Code::TypeMismatch, args[0].span, fmt::format("{} does not take {}", info.name, type_text(in)));
        if (!fits) return kNothing;
        for (std::size_t i = 1; i < args.size(); ++i) {
            if (args[i].field == kEnable || args[i].field == kEnableOut) continue;
            const auto to = target(args[i].value);
            if (!to) return kNothing;
            if (!is_integer(to->type.elementary) || type_size(to->type.elementary) < 2) {
                error(Code::TypeMismatch, args[i].span,
                      fmt::format("{} gives INT, '{}' is {}", info.name, written_text(*args[i].value),
                                  type_text(to->type)));
                return kNothing;
            }
        }
        return {E::Void, -1};
    }
    for (Argument& a : args) {
        if (a.field == kEnable || a.field == kEnableOut) continue;
        const TypeRef type = infer(a.value);
        if (type.is(E::None)) return kNothing;
        if (!is_integer(type.elementary)) {
            error(Code::TypeMismatch, a.span,
                  fmt::format("{} is made of whole numbers, not {}", info.name, type_text(type)));
            return kNothing;
        }
        if (type.is(E::AnyInt) && !coerce(a.value, E::Lint, e.name)) return kNothing;
        if (!a.value->type.is(E::Lint)) wrap(a.value, {E::Lint, -1});
    }
    return {info.type, -1};
}

TypeRef ExpressionChecker::infer_bound(ExpressionPtr& e, const FunctionInfo& info) {
    const auto found = place(e->arguments[0].value, Use::Read);
    if (!found) return kNothing;
    if (!found->type.is(E::Array)) {
        error(Code::TypeMismatch, e->arguments[0].span,
              fmt::format("{} needs an array, not {}", info.name, type_text(found->type)));
        return kNothing;
    }
    const DerivedType& array = logic_->type(found->type);
    if (!check(e->arguments[1].value, E::Lint, e->name)) return kNothing;
    if (!fold(*e->arguments[1].value)) {
        error(Code::WrongValue, e->arguments[1].span, fmt::format("the dimension in {} is a constant", info.name));
        return kNothing;
    }
    const std::int64_t number = literal_integer(*e->arguments[1].value);
    if (number < 1 || number > static_cast<std::int64_t>(array.dimensions.size())) {
        error(Code::OutOfRange, e->arguments[1].span,
              fmt::format("the array has {} dimensions", array.dimensions.size()));
        return kNothing;
    }
    e->type = {E::Dint, -1};
    if (!array.open) {
        const Dimension& d = array.dimensions[static_cast<std::size_t>(number) - 1];
        set_literal(*e, info.function == Function::LowerBound ? d.low : d.high);
    }
    return {E::Dint, -1};
}

TypeRef ExpressionChecker::infer_reference(Expression& e) {
    const auto found = logic_ != nullptr ? place(e.arguments[0].value, Use::Write) : std::nullopt;
    if (!found) return kNothing;
    if (found->field != nullptr) found->field->read = true;
    if (found->binding.bit >= 0) {
        error(Code::WrongCall, e.arguments[0].span, "one bit of a byte has no reference");
        return kNothing;
    }
    DerivedType type;
    type.kind = DerivedKind::Reference;
    type.element = found->type;
    type.size = type.alignment = 4;
    type.initial.resize(4);
    type.root = static_cast<int>(logic_->types.size());
    logic_->types.push_back(std::move(type));
    return {E::Reference, static_cast<int>(logic_->types.size()) - 1};
}

}  // namespace vyard::logic
