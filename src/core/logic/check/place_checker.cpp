// Places: variables, their parts, elements and fields, and the values of enumerations.
#include <fmt/format.h>

#include <cstring>

#include "core/logic/check/constants.hpp"
#include "core/logic/check/expression_checker.hpp"
#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

/// A chain of names, parts and elements that can be looked up as it is written.
bool whole_name(const Expression& e) {
    switch (e.kind) {
        case ExpressionKind::Name: return true;
        case ExpressionKind::Member:
        case ExpressionKind::Partial: return whole_name(*e.operands[0]);
        case ExpressionKind::Index:
            for (std::size_t i = 1; i < e.operands.size(); ++i) {
                if (e.operands[i]->kind != ExpressionKind::Literal || !e.operands[i]->type.is(E::AnyInt)) return false;
            }
            return whole_name(*e.operands[0]);
        default: return false;
    }
}

}  // namespace

std::optional<Found> ExpressionChecker::place(ExpressionPtr& e, Use use) {
    std::optional<Found> found;
    if (scope_.dotted_names() &&
        (e->kind == ExpressionKind::Index || e->kind == ExpressionKind::Partial || e->kind == ExpressionKind::Member)) {
        if (!whole_name(*e)) {
            error(Code::Syntax, e->span, "only names stand in a condition, with whole numbers as indices");
            return std::nullopt;
        }
        e->name = written_text(*e);
        e->kind = ExpressionKind::Name;
        e->operands.clear();
    }
    switch (e->kind) {
        case ExpressionKind::Name: found = place_name(e, use); break;
        case ExpressionKind::Direct:
            found = scope_.find(e->name, e->span, use);
            if (found) e->binding = found->binding;
            break;
        case ExpressionKind::Member: found = place_member(e, use); break;
        case ExpressionKind::Index: found = place_index(*e, use); break;
        case ExpressionKind::Partial: found = place_partial(*e, use); break;
        case ExpressionKind::This: {
            if (logic_ == nullptr || scope_.unit() < 0) break;
            const Layout& unit = logic_->block(scope_.unit());
            const int block = unit.owner >= 0 ? unit.owner : scope_.unit();
            if (logic_->block(block).kind != LayoutKind::FunctionBlock) break;
            e->binding = {Space::Instance, 0, -1, false};
            found = Found{e->binding, {E::Block, block}, false, "it is the instance itself", nullptr};
            break;
        }
        case ExpressionKind::Dereference: {
            if (e->operands[0]->kind == ExpressionKind::This) {  // THIS^ is met in the field
                e = std::move(e->operands[0]);
                return place(e, use);
            }
            const TypeRef type = infer(e->operands[0]);
            if (type.is(E::None)) return std::nullopt;
            if (!type.is(E::Reference)) {
                error(Code::TypeMismatch, e->span, fmt::format("'^' follows a reference, this is {}", type_text(type)));
                return std::nullopt;
            }
            found = Found{{}, logic_->type(type).element, true, "", nullptr};
            break;
        }
        default:
            infer(e);
            error(Code::NotAssignable, e->span, "only a variable can stand here");
            return std::nullopt;
    }
    if (e->kind == ExpressionKind::This && !found)
        error(Code::WrongCall, e->span, "THIS is known only within a function block");
    if (found && e->kind != ExpressionKind::Literal) e->type = found->type;
    return found;
}

std::optional<Found> ExpressionChecker::place_name(ExpressionPtr& e, Use use) {
    const bool itself = e->name.ends_with(kSignalItself);
    if (itself) e->name.resize(e->name.size() - std::string_view(kSignalItself).size());
    if (logic_ != nullptr && !scope_.knows(e->name) && use == Use::Read && unqualified_enum(*e))
        return Found{{}, e->type, false, "it is a value of an enumeration", nullptr};
    const auto found = scope_.find(e->name, e->span, use);
    if (!found) return std::nullopt;
    if (!itself && use == Use::Read && found->edge) {
        e = tree::member(tree::name(e->name + kEdgeDetector, e->span), "Q", e->span);
        return place_part(e, use);
    }
    e->binding = found->binding;
    e->unit = found->dimension;
    // A constant is its value: what computes from constants alone is then computed here.
    if (use == Use::Read && found->field != nullptr && found->field->constant && is_scalar(found->type.elementary)) {
        scope_.settle(*found->field);
        if (found->field->initial_known) {
            std::uint64_t bits = 0;
            for (std::size_t i = found->field->initial.size(); i-- > 0;)
                bits = bits << 8 | std::to_integer<std::uint64_t>(found->field->initial[i]);
            e->type = found->type;
            if (is_real(e->type.elementary)) {
                float narrow = 0;
                std::memcpy(&narrow, &bits, sizeof narrow);
                e->kind = ExpressionKind::Literal;
                std::memcpy(&e->real, &bits, sizeof e->real);
                if (e->type.is(E::Real)) e->real = static_cast<double>(narrow);
            } else {
                set_literal(*e, static_cast<std::int64_t>(bits));
            }
        }
    }
    return found;
}

std::optional<Found> ExpressionChecker::place_member(ExpressionPtr& e, Use use) {
    const std::string dotted = dotted_name(*e);
    // The head of a dotted name is a variable, else a namespace or a type.
    if (!dotted.empty() && logic_ != nullptr && !scope_.knows(dotted.substr(0, dotted.find('.')))) {
        if (scope_.knows(dotted)) {  // a global of a namespace
            e->kind = ExpressionKind::Name;
            e->name = dotted;
            e->operands.clear();
            return place_name(e, use);
        }
        const std::size_t dot = dotted.rfind('.');
        const auto symbol = scope_.symbols()->find(dotted.substr(0, dot), scope_.context());
        if (symbol && symbol->kind == SymbolKind::Type && use == Use::Read) {
            if (!enum_literal(*e, dotted.substr(0, dot), dotted.substr(dot + 1), true)) return std::nullopt;
            return Found{{}, e->type, false, "it is a value of an enumeration", nullptr};
        }
    }
    return place_part(e, use);
}

std::optional<Found> ExpressionChecker::place_part(ExpressionPtr& e, Use use) {
    auto base = place(e->operands[0], Use::Read);
    if (!base) return std::nullopt;
    if (base->type.is(E::Block)) return member_of_block(*e, *base, use);
    const std::string of = written_text(*e->operands[0]);
    if (!base->type.is(E::Structure)) {
        const bool reference = base->type.is(E::Reference);
        error(Code::UnknownName, e->span,
              fmt::format("'{}' is {} and has no part '{}'", of, type_text(base->type), e->name),
              reference ? fmt::format("follow the reference: {}^.{}", of, e->name) : "");
        return std::nullopt;
    }
    std::vector<std::string> known;
    for (Field& f : logic_->type(base->type).fields) {
        known.push_back(f.name);
        if (base::fold(f.name) != base::fold(e->name)) continue;
        e->binding = f.binding;
        if (base->field != nullptr && use == Use::Write) base->field->mark_written();
        base->type = f.type;
        return base;
    }
    error(Code::UnknownName, e->span,
          fmt::format("'{}' is {} and has no part '{}'", of, type_text(base->type), e->name),
          base::name_hint(e->name, known));
    return std::nullopt;
}

std::optional<Found> ExpressionChecker::member_of_block(Expression& e, Found base, Use use) {
    Layout& block = logic_->block(base.type.index);
    Field* field = block.find(e.name);
    const bool self = e.operands[0]->kind == ExpressionKind::This;
    const auto seen = [&](const Field& f) {
        return self ? f.section != Section::External
                    : f.section == Section::Input || f.section == Section::Output ||
                          (f.section == Section::Local && f.access == Access::Public && f.declaration != nullptr);
    };
    if (base.field != nullptr) base.field->read = base.field->written = true;
    if (field == nullptr || !seen(*field)) {
        std::vector<std::string> known;
        for (const Field& f : block.fields) {
            if (seen(f)) known.push_back(f.name);
        }
        error(Code::UnknownName, e.span,
              fmt::format("{} '{}' has no input or output '{}'", block.name, written_text(*e.operands[0]), e.name),
              field != nullptr ? "it is a variable of the block's own" : base::name_hint(e.name, known));
        return std::nullopt;
    }
    field->read = true;
    if (use == Use::Write) field->written = true;
    e.binding = field->binding;
    Found out{field->binding, field->type, true, "", field->address ? field : base.field};
    if (!self && field->section == Section::Output) {
        out.writable = false;
        out.why_not_writable = "it is an output of the block";
    }
    if (field->constant) {
        out.writable = false;
        out.why_not_writable = "it is declared CONSTANT";
    }
    return out;
}

bool ExpressionChecker::check_index(ExpressionPtr& index, const Dimension& d, bool open) {
    const TypeRef type = infer(index);
    if (type.is(E::None)) return false;
    if (!is_integer(type.elementary) && !is_bit_string(type.elementary)) {
        error(Code::TypeMismatch, index->span, fmt::format("an index is a whole number, not {}", type_text(type)),
              conversion_hint(type.elementary, E::Int));
        return false;
    }
    if (type.is(E::AnyInt) && !coerce(index, E::Lint, "the index")) return false;
    if (!fold(*index) || open) return true;
    const std::int64_t value = literal_integer(*index);
    if (value >= d.low && value <= d.high) return true;
    error(Code::OutOfRange, index->span, fmt::format("index {} is outside {}..{}", value, d.low, d.high));
    return false;
}

std::optional<Found> ExpressionChecker::place_index(Expression& e, Use use) {
    auto base = place(e.operands[0], Use::Read);
    if (!base) return std::nullopt;
    if (base->field != nullptr && use == Use::Write) base->field->mark_written();
    if (is_text(base->type.elementary)) {
        if (e.operands.size() != 2) {
            error(Code::WrongValue, e.span, "one index picks a character of a string");
            return std::nullopt;
        }
        if (!check_index(e.operands[1], {1, base->type.index}, false)) return std::nullopt;
        base->type = {base->type.is(E::String) ? E::Char : E::Wchar, -1};
        return base;
    }
    if (!base->type.is(E::Array)) {
        error(Code::TypeMismatch, e.span,
              fmt::format("'{}' is {}, not an array", written_text(*e.operands[0]), type_text(base->type)));
        return std::nullopt;
    }
    const DerivedType& array = logic_->type(base->type);
    if (array.dimensions.size() != e.operands.size() - 1) {
        error(Code::WrongValue, e.span,
              fmt::format("'{}' has {} dimension{}, here are {} ind{}", written_text(*e.operands[0]),
                          array.dimensions.size(), array.dimensions.size() == 1 ? "" : "s", e.operands.size() - 1,
                          e.operands.size() == 2 ? "ex" : "ices"));
        return std::nullopt;
    }
    bool ok = true;
    for (std::size_t i = 0; i < array.dimensions.size(); ++i)
        ok = check_index(e.operands[i + 1], array.dimensions[i], array.open) && ok;
    if (!ok) return std::nullopt;
    base->type = array.element;
    return base;
}

std::optional<Found> ExpressionChecker::place_partial(Expression& e, Use use) {
    auto base = place(e.operands[0], Use::Read);
    if (!base) return std::nullopt;
    if (base->field != nullptr && use == Use::Write) base->field->mark_written();
    const E type = base->type.elementary;
    static constexpr std::pair<char, E> kSizes[] = {{'x', E::Bool}, {'b', E::Byte}, {'w', E::Word}, {'d', E::Dword}};
    E part = E::None;
    std::uint32_t number = 0;
    bool digits = e.name.size() > 2 && e.name.size() < 5;
    for (std::size_t i = 2; i < e.name.size() && digits; ++i) {
        digits = e.name[i] >= '0' && e.name[i] <= '9';
        number = number * 10 + static_cast<std::uint32_t>(e.name[i] - '0');
    }
    for (const auto& [letter, size] : kSizes) {
        if (e.name.size() > 1 && (e.name[1] | 0x20) == letter) part = size;
    }
    if (!digits || part == E::None) {
        error(Code::BadAddress, e.span, fmt::format("'.{}' is not a part of a variable", e.name),
              "known: .%X0 for a bit, .%B0 for a byte, .%W0, .%D0");
        return std::nullopt;
    }
    if ((!is_bit_string(type) && !is_integer(type)) || base->binding.bit >= 0) {
        error(Code::TypeMismatch, e.span,
              fmt::format("'{}' is {}; only bit strings have such parts", written_text(*e.operands[0]),
                          type_text(base->type)));
        return std::nullopt;
    }
    const auto bits = static_cast<std::uint32_t>(type_size(type)) * 8;
    const std::uint32_t width = part == E::Bool ? 1 : static_cast<std::uint32_t>(type_size(part)) * 8;
    if ((number + 1) * width > bits) {
        error(Code::OutOfRange, e.span, fmt::format("{} has no part .{}", type_text(base->type), e.name));
        return std::nullopt;
    }
    e.binding = {Space::None, number * width / 8, part == E::Bool ? static_cast<int>(number % 8) : -1, false};
    base->type = {part, -1};
    base->binding.bit = e.binding.bit;
    return base;
}

std::optional<Found> ExpressionChecker::target(ExpressionPtr& e) {
    if (!is_place(e->kind) || e->kind == ExpressionKind::This) {
        error(Code::NotAssignable, e->span, "only a variable can be assigned to");
        return std::nullopt;
    }
    auto found = place(e, Use::Write);
    if (!found) return std::nullopt;
    if (found->type.is(E::Block)) {
        error(Code::NotAssignable, e->span,
              fmt::format("'{}' is a function block; call it, or assign to one of its inputs", written_text(*e)));
        return std::nullopt;
    }
    if (!found->writable) {
        error(Code::NotAssignable, e->span,
              fmt::format("'{}' cannot be written: {}", written_text(*e), found->why_not_writable));
        return std::nullopt;
    }
    return found;
}

// --- enumerations ---

bool ExpressionChecker::enum_literal(Expression& e, const std::string& type, const std::string& name, bool report) {
    const auto symbol = logic_ != nullptr ? scope_.symbols()->find(type, scope_.context()) : std::nullopt;
    const TypeRef found = symbol && symbol->kind == SymbolKind::Type
                              ? base::at(logic_->types, symbol->number).kind == DerivedKind::Enumeration
                                    ? TypeRef{base::at(logic_->types, symbol->number).base, symbol->number}
                                    : kNothing
                              : kNothing;
    if (found.is(E::None)) {
        if (report) error(Code::UnknownType, e.span, fmt::format("no enumeration is named '{}'", type));
        return false;
    }
    std::vector<std::string> known;
    for (const EnumConstant& v : logic_->type(found).values) {
        known.push_back(v.name);
        if (base::fold(v.name) != base::fold(name)) continue;
        e.type = found;
        set_literal(e, v.value);
        return true;
    }
    if (report)
        error(Code::UnknownName, e.span, fmt::format("{} has no value '{}'", type, name), base::name_hint(name, known));
    return false;
}

bool ExpressionChecker::unqualified_enum(Expression& e) {
    const auto found = logic_->enum_values.find(base::fold(e.name));
    if (found == logic_->enum_values.end() || found->second < 0) return false;
    const DerivedType& type = base::at(logic_->types, found->second);
    for (const EnumConstant& v : type.values) {
        if (base::fold(v.name) != base::fold(e.name)) continue;
        e.type = {type.base, found->second};
        set_literal(e, v.value);
        return true;
    }
    return false;
}

TypeRef ExpressionChecker::infer_typed_name(Expression& e) {
    return enum_literal(e, e.type_prefix, e.name, true) ? e.type : kNothing;
}

}  // namespace vyard::logic
