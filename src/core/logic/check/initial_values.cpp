// What variables hold at power-up.
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "core/logic/check/constants.hpp"
#include "core/logic/check/declaration_checker.hpp"
#include "core/logic/check/expression_checker.hpp"
#include "core/logic/text_values.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

Bytes DeclarationChecker::default_image(const TypeRef& type) {
    if (type.is(E::Block)) {
        image(type.index);
        return logic_.block(type.index).image;
    }
    if (type.is(E::Array) && logic_.type(type).element.is(E::Block) && logic_.type(type).initial.empty()) {
        const Bytes one = default_image(logic_.type(type).element);
        DerivedType& array = logic_.type(type);
        array.initial.resize(array.size);
        for (std::uint32_t at = 0; at + array.stride <= array.size; at += array.stride)
            std::copy_n(one.begin(), std::min<std::size_t>(one.size(), array.stride), array.initial.begin() + at);
        return array.initial;
    }
    const bool row = type.index >= 0 && !is_text(type.elementary) && !type.is(E::Interface);
    if (row && !logic_.type(type).initial.empty()) return logic_.type(type).initial;
    if (type.text_default >= 0) return base::at(logic_.types, type.text_default).initial;
    Bytes out(logic_.size_of(type));
    if (is_text(type.elementary)) write_text_head(out.data(), type.index, 0);
    return out;
}

bool DeclarationChecker::write_initial(ExpressionPtr& e, const TypeRef& type, std::byte* at, const std::string& what,
                                       const Where& where) {
    if (e->kind == ExpressionKind::List) return write_list(*e, type, at, what, where);
    if (e->kind == ExpressionKind::Fields) return write_fields(*e, type, at, what, where);
    UnitScope scope(checking_, where.unit, where.context, where.source);
    ExpressionChecker expressions(where.source, scope, checking_.diagnostics);
    if (type.is(E::Block)) {
        error(where.source, e->span, Code::WrongValue, fmt::format("{} is a function block", what),
              "give initial values to its inputs: (NAME := value)");
        return false;
    }
    if (!expressions.check(e, type, what)) return false;
    const bool constant = fold(*e);
    if (e->kind == ExpressionKind::Null) return true;
    if (!constant) {
        error(where.source, e->span, Code::WrongValue, "an initial value is a constant",
              "write a literal, or a variable declared CONSTANT");
        return false;
    }
    if (is_text(type.elementary)) {
        if (!write_text(at, type.elementary, type.index, e->name)) {
            error(where.source, e->span, Code::LiteralRange,
                  fmt::format("this string is longer than {}, the type of {}", logic_.text_of(type), what));
            return false;
        }
        return true;
    }
    const std::uint64_t bits = is_character(type.elementary) && e->kind == ExpressionKind::Text
                                   ? character_of(type.elementary, e->name)
                                   : literal_bits(*e);
    std::memcpy(at, &bits, logic_.size_of(type));
    return true;
}

bool DeclarationChecker::write_list(Expression& e, const TypeRef& type, std::byte* at, const std::string& what,
                                    const Where& where) {
    if (!type.is(E::Array)) {
        error(where.source, e.span, Code::TypeMismatch,
              fmt::format("a list in [ ] is for an array, {} is {}", what, logic_.text_of(type)));
        return false;
    }
    const DerivedType array = logic_.type(type);
    std::uint64_t count = 1;
    for (const Dimension& d : array.dimensions) count *= d.count();
    // [[1, 2], [3, 4]] is met for two dimensions; the standard writes them in one list.
    std::uint64_t next = 0;
    bool ok = true;
    const auto put = [&](ExpressionPtr& value) {
        if (next < count)
            ok = write_initial(value, array.element, at + next * array.stride, fmt::format("an element of {}", what),
                               where) &&
                 ok;
        ++next;
    };
    const auto element = [&](ExpressionPtr& value, auto&& self) -> void {
        if (value->kind == ExpressionKind::List && !array.element.is(E::Array)) {
            for (ExpressionPtr& inner : value->operands) self(inner, self);
        } else if (value->kind == ExpressionKind::Repeat) {
            const std::uint64_t times = std::min<std::uint64_t>(value->operands[0]->integer, count + 1);
            for (std::uint64_t i = 0; i < times && next <= count && ok; ++i) {
                for (std::size_t k = 1; k < value->operands.size(); ++k) {
                    if (!value->operands[k]) {
                        ++next;  // 3(): three default values
                        continue;
                    }
                    ExpressionPtr copy = clone(*value->operands[k]);
                    self(copy, self);
                }
            }
        } else {
            put(value);
        }
    };
    for (ExpressionPtr& value : e.operands) element(value, element);
    if (next > count) {
        error(where.source, e.span, Code::WrongValue, fmt::format("{} has {} elements, here are more", what, count));
        return false;
    }
    return ok;
}

bool DeclarationChecker::write_fields(Expression& e, const TypeRef& type, std::byte* at, const std::string& what,
                                      const Where& where) {
    if (!type.is(E::Structure) && !type.is(E::Block)) {
        error(where.source, e.span, Code::TypeMismatch,
              fmt::format("values by name are for a structure, {} is {}", what, logic_.text_of(type)));
        return false;
    }
    const std::vector<Field>& fields = type.is(E::Block) ? logic_.block(type.index).fields : logic_.type(type).fields;
    bool ok = true;
    for (Argument& a : e.arguments) {
        const Field* field = nullptr;
        std::vector<std::string> known;
        for (const Field& f : fields) {
            known.push_back(f.name);
            if (base::fold(f.name) == base::fold(a.name)) field = &f;
        }
        const bool usable = field != nullptr && (type.is(E::Structure) || field->section == Section::Input ||
                                                 field->section == Section::Output || field->section == Section::Local);
        if (!usable) {
            error(where.source, a.span, Code::UnknownName,
                  fmt::format("{} has no part '{}'", logic_.text_of(type), a.name), base::name_hint(a.name, known));
            ok = false;
            continue;
        }
        ok = write_initial(a.value, field->type, at + field->binding.offset, fmt::format("'{}'", a.name), where) && ok;
    }
    return ok;
}

/// A constant needed before its turn.
void DeclarationChecker::settle(Field& field) {
    if (field.initial_known || field.declaration == nullptr || field.type.is(E::None)) return;
    const NameContext context{field.declaration->space, {}};
    settle(field, {field.source, context, -1});
}

void DeclarationChecker::settle(Field& field, const Where& where) {
    if (field.initial_known || field.type.is(E::None) || field.section == Section::External) return;
    if (field.section == Section::InOut) {
        field.initial.clear();
        field.initial_known = true;
        return;
    }
    field.initial = default_image(field.type);
    field.initial_known = true;  // before its expression, which could name it
    if (field.declaration == nullptr || !field.declaration->initial) return;
    const NestingGuard guard(settling_);
    if (settling_ > kMaxConstantChain) {
        if (!chain_reported_)
            error(field.source, field.declaration->span, Code::TooDeep,
                  fmt::format("constants are defined by one another more than {} deep", kMaxConstantChain));
        chain_reported_ = true;
        return;
    }
    ExpressionPtr& initial = const_cast<Declaration*>(field.declaration)->initial;
    write_initial(initial, field.type, field.initial.data(), fmt::format("'{}'", field.name), where);
}

void DeclarationChecker::image(int number) {
    Layout& layout = logic_.block(number);
    if (layout.imaged) return;
    layout.imaged = true;
    lay_out(number);
    if (!layout.complete) return;
    layout.image.assign(layout.size, std::byte{0});
    layout.frame_image.assign(layout.frame_size, std::byte{0});
    if (layout.parent >= 0) {
        image(layout.parent);
        const Bytes& parent = logic_.block(layout.parent).image;
        std::copy_n(parent.begin(), std::min(parent.size(), layout.image.size()), layout.image.begin());
    }
    static const NameContext none;
    const NameContext& context = layout.unit != nullptr ? layout.unit->context : none;
    for (std::size_t i = 0; i < layout.fields.size(); ++i) {
        Field& f = layout.fields[i];
        if (f.inherited || f.type.is(E::None)) continue;
        if (f.binding.space == Space::None && f.section != Section::External) continue;  // it found no place; reported
        settle(f, {f.source, context, number});
        if (f.binding.space != Space::Instance && f.binding.space != Space::Frame) continue;
        Bytes& to = f.binding.space == Space::Frame ? layout.frame_image : layout.image;
        const std::size_t room = to.size() - std::min<std::size_t>(to.size(), f.binding.offset);
        std::copy_n(f.initial.begin(), std::min(f.initial.size(), room), to.begin() + f.binding.offset);
    }
    if (layout.tagged && layout.image.size() >= 4) {
        const auto tag = static_cast<std::uint32_t>(number);
        std::memcpy(layout.image.data(), &tag, sizeof tag);
    }
}

void DeclarationChecker::images() {
    for (Field& f : logic_.globals.fields) settle(f);
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) image(static_cast<int>(i));
}

}  // namespace vyard::logic
