// From how a type is written to a row of the type table.
#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "core/logic/check/constants.hpp"
#include "core/logic/check/declaration_checker.hpp"
#include "core/logic/check/expression_checker.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

/// The initial values of all types together are bounded, so that a short text cannot fill the memory.
bool DeclarationChecker::reserve(std::uint64_t bytes, Span span, const base::SourcePtr& source) {
    constexpr std::uint64_t kMostBytes = 4ULL * kMaxMemory;
    if (type_bytes_ <= kMostBytes && (type_bytes_ += bytes) > kMostBytes)
        error(source, span, Code::TooDeep, fmt::format("all types together take more than {} MiB", kMostBytes >> 20));
    return type_bytes_ <= kMostBytes;
}

/// Structures in structures double what they hold with every level; each part has a name and is listed.
bool DeclarationChecker::few_parts(std::uint64_t parts, const std::string& name, Span span,
                                   const base::SourcePtr& source) {
    if (parts <= kMaxParts) return true;
    error(source, span, Code::TooDeep, fmt::format("'{}' has more than {} variables within", name, kMaxParts));
    return false;
}

bool DeclarationChecker::too_nested(Span span, const base::SourcePtr& source) {
    if (nesting_ <= kMaxTypeNesting) return false;
    if (!nesting_reported_)
        error(source, span, Code::TooDeep,
              fmt::format("types and blocks lead to one another more than {} deep", kMaxTypeNesting));
    nesting_reported_ = true;
    return true;
}

int DeclarationChecker::new_type(DerivedType type) {
    const int number = static_cast<int>(logic_.types.size());
    if (type.root < 0) type.root = number;
    logic_.types.push_back(std::move(type));
    return number;
}

/// Values can be named without their type where only one type has the name.
void DeclarationChecker::add_enum_values(int row) {
    const DerivedType& type = base::at(logic_.types, row);
    for (const EnumConstant& v : type.values) {
        const auto [known, fresh] = logic_.enum_values.emplace(base::fold(v.name), row);
        if (fresh || known->second < 0) continue;
        const bool same = base::at(logic_.types, known->second).root == type.root;
        known->second = same ? row : -1;
    }
}

std::optional<std::int64_t> DeclarationChecker::constant(ExpressionPtr& e, const TypeRef& type, const Where& where,
                                                         const char* what) {
    UnitScope scope(checking_, where.unit, where.context, where.source);
    ExpressionChecker expressions(where.source, scope, checking_.diagnostics);
    const TypeRef found = expressions.infer(e);
    if (found.is(E::None)) return std::nullopt;
    // Any whole number will do, of whatever size.
    if (!is_integer(found.elementary) || found.is(E::AnyInt)) {
        if (!expressions.coerce(e, type, what)) return std::nullopt;
    }
    if (fold(*e)) return literal_integer(*e);
    error(where.source, e->span, Code::WrongValue, fmt::format("{} is a constant", what),
          "write a number or a CONSTANT");
    return std::nullopt;
}

TypeRef DeclarationChecker::resolve(TypeSpec& spec, const Where& where) {
    if (spec.resolved) return spec.type;
    spec.resolved = true;
    switch (spec.kind) {
        case TypeSpecKind::Named: spec.type = resolve_named(spec, where); break;
        case TypeSpecKind::Text: spec.type = resolve_text(spec, where); break;
        case TypeSpecKind::Array: spec.type = resolve_array(spec, where); break;
        case TypeSpecKind::Structure: spec.type = resolve_structure(spec, where, new_type({})); break;
        case TypeSpecKind::Enumeration: spec.type = resolve_enumeration(spec, where); break;
        case TypeSpecKind::Subrange: spec.type = resolve_subrange(spec, where); break;
        case TypeSpecKind::Reference: {
            DerivedType type;
            type.kind = DerivedKind::Reference;
            type.size = type.alignment = 4;
            type.initial.resize(4);
            type.element = resolve(*spec.element, where);
            if (!type.element.is(E::None)) spec.type = {E::Reference, new_type(std::move(type))};
            break;
        }
    }
    return spec.type;
}

TypeRef DeclarationChecker::resolve_named(const TypeSpec& spec, const Where& where) {
    if (spec.name.empty()) return {};
    if (const auto symbol = checking_.symbols.find(spec.name, where.context)) {
        if (symbol->kind == SymbolKind::Type) return resolve_entry(symbol->number, spec.span, where.source);
        if (symbol->kind == SymbolKind::Unit) {
            switch (logic_.block(symbol->number).kind) {
                case LayoutKind::StandardBlock:
                case LayoutKind::FunctionBlock: return {E::Block, symbol->number};
                case LayoutKind::Interface: return {E::Interface, symbol->number};
                default: break;
            }
            error(where.source, spec.span, Code::UnknownType,
                  fmt::format("'{}' is a {}, not a type", spec.name,
                              logic_.block(symbol->number).kind == LayoutKind::Program ? "program" : "function"));
            return {};
        }
    }
    if (const auto elementary = find_type(spec.name)) return {*elementary, -1};
    std::vector<std::string> known;
    for (const Layout& block : logic_.blocks) {
        const bool type = block.kind == LayoutKind::StandardBlock || block.kind == LayoutKind::FunctionBlock ||
                          block.kind == LayoutKind::Interface;
        if (type) known.push_back(block.name);
    }
    for (const auto& [number, entry] : entries_) known.push_back(entry.declaration->name);
    for (int t = static_cast<int>(E::Bool); t <= static_cast<int>(E::Wstring); ++t)
        known.emplace_back(type_name(static_cast<E>(t)));
    error(where.source, spec.span, Code::UnknownType, fmt::format("no type is named '{}'", spec.name),
          base::name_hint(spec.name, known));
    return {};
}

TypeRef DeclarationChecker::resolve_entry(int number, Span span, const base::SourcePtr& source) {
    TypeEntry& entry = entries_.at(number);
    if (entry.done) return entry.type;
    TypeDeclaration& d = *entry.declaration;
    if (entry.in_progress) {
        if (entry.type.is(E::Structure)) return entry.type;  // its size is asked for where it matters
        error(source, span, Code::WrongValue, fmt::format("'{}' would hold itself", d.name));
        return {};
    }
    entry.in_progress = true;
    const NestingGuard guard(nesting_);
    if (too_nested(d.span, d.source)) return {};
    const Where where{d.source, d.context, -1};
    TypeRef type;
    if (d.spec->kind == TypeSpecKind::Structure) {
        // The row is the symbol's own: enum_literal and references find it by number.
        entry.type = {E::Structure, number};
        base::at(logic_.types, number).name = qualified(d.context.space, d.name);
        d.spec->resolved = true;
        type = d.spec->type = resolve_structure(*d.spec, where, number);
    } else {
        type = resolve(*d.spec, where);
        const bool own_row = type.index >= 0 &&
                             (is_scalar(type.elementary) || type.is(E::Array) || type.is(E::Reference)) &&
                             d.spec->kind != TypeSpecKind::Named;
        if (own_row) {
            DerivedType& row = base::at(logic_.types, number);
            logic_.type(type).root = number;  // the row written in place stands for the named one from now on
            row = logic_.type(type);
            row.name = qualified(d.context.space, d.name);
            row.root = number;
            type.index = number;
            add_enum_values(number);
        }
    }
    if (d.initial && !type.is(E::None)) type = with_initial(type, d.initial, d.name, where);
    entry.type = type;
    entry.done = true;
    return type;
}

/// TYPE speed : INT := 5; -- the same type with other initial values.
TypeRef DeclarationChecker::with_initial(const TypeRef& type, ExpressionPtr& initial, const std::string& name,
                                         const Where& where) {
    if (type.is(E::Block) || type.is(E::Interface)) {
        error(where.source, initial->span, Code::NotSupported,
              fmt::format("a type of {} with an initial value is not supported by this version", logic_.text_of(type)),
              "give the value where the variable is declared");
        return type;
    }
    Bytes image = default_image(type);
    if (!write_initial(initial, type, image.data(), fmt::format("'{}'", name), where)) return type;
    DerivedType row;
    if (is_text(type.elementary)) {
        row.name = name;
        row.initial = std::move(image);
        return {type.elementary, type.index, new_type(std::move(row))};
    }
    if (type.index >= 0) {
        row = logic_.type(type);
    } else {
        row.kind = DerivedKind::Subrange;
        row.base = type.elementary;
        row.low = std::numeric_limits<std::int64_t>::min();
        row.high = std::numeric_limits<std::int64_t>::max();
        row.size = row.alignment = static_cast<std::uint32_t>(type_size(type.elementary));
    }
    row.name = name;
    row.initial = std::move(image);
    return {type.elementary, new_type(std::move(row))};
}

TypeRef DeclarationChecker::resolve_text(TypeSpec& spec, const Where& where) {
    const E type = base::fold(spec.name) == "wstring" ? E::Wstring : E::String;
    if (!spec.length) return {type, kDefaultCapacity};
    const auto length = constant(spec.length, {E::Dint, -1}, where, "the length of a string");
    if (!length) return {};
    if (*length >= 1 && *length <= kMaxCapacity) return {type, static_cast<int>(*length)};
    error(where.source, spec.length->span, Code::OutOfRange,
          fmt::format("a string holds 1 to {} characters", kMaxCapacity));
    return {};
}

bool DeclarationChecker::require_size(const TypeRef& type, Span span, const base::SourcePtr& source) {
    std::string holder;
    if (type.is(E::Block)) {
        if (logic_.block(type.index).in_progress) {
            holder = logic_.block(type.index).name;
        } else {
            lay_out(type.index);
        }
    }
    if (type.is(E::Structure) && logic_.type(type).size == 0) holder = logic_.type(type).name;
    if (holder.empty()) return true;
    error(source, span, Code::WrongValue, fmt::format("'{}' would hold itself", holder));
    return false;
}

TypeRef DeclarationChecker::resolve_array(TypeSpec& spec, const Where& where) {
    DerivedType array;
    array.kind = DerivedKind::Array;
    bool ok = true;
    for (auto& [low, high] : spec.ranges) {
        if (!low) {
            array.open = true;
            array.dimensions.push_back({0, 0});
            continue;
        }
        const auto a = constant(low, {E::Lint, -1}, where, "the bound of an array");
        const auto b = constant(high, {E::Lint, -1}, where, "the bound of an array");
        ok = ok && a && b;
        if (!ok) continue;
        if (*a > *b || *a < -2'000'000'000 || *b > 2'000'000'000) {
            error(where.source, low->span, Code::OutOfRange,
                  fmt::format("{}..{} is not a valid range of indices", *a, *b));
            ok = false;
            continue;
        }
        array.dimensions.push_back({*a, *b});
    }
    array.element = resolve(*spec.element, where);
    if (!ok || array.element.is(E::None)) return {};
    if (!require_size(array.element, spec.element->span, where.source)) return {};
    array.alignment = logic_.alignment_of(array.element);
    array.stride = align_to(std::max(logic_.size_of(array.element), 1U), array.alignment);
    std::uint64_t bytes = array.stride;
    for (const Dimension& d : array.dimensions) {
        bytes *= d.count();
        if (bytes > kMaxMemory) {
            error(where.source, spec.span, Code::TooDeep,
                  fmt::format("more than {} MiB of variables", kMaxMemory >> 20));
            return {};
        }
    }
    if (array.open) bytes = 0;
    if (!reserve(bytes, spec.span, where.source)) return {};
    array.size = static_cast<std::uint32_t>(bytes);
    const bool later = array.element.is(E::Block);  // images of blocks come last
    if (!later) {
        const Bytes one = default_image(array.element);
        array.initial.resize(array.size);
        for (std::uint32_t at = 0; at + array.stride <= array.size; at += array.stride)
            std::copy(one.begin(), one.end(), array.initial.begin() + at);
    }
    return {E::Array, new_type(std::move(array))};
}

TypeRef DeclarationChecker::resolve_structure(TypeSpec& spec, const Where& where, int row) {
    DerivedType type;
    type.kind = DerivedKind::Structure;
    type.name = base::at(logic_.types, row).name;
    type.root = row;
    std::uint32_t offset = 0;
    std::uint64_t parts = 0;
    for (Declaration& d : spec.fields) {
        for (const Field& other : type.fields) {
            if (base::fold(other.name) == base::fold(d.name))
                error(where.source, d.span, Code::DuplicateName, fmt::format("'{}' is declared twice", d.name));
        }
        Field field;
        field.name = d.name;
        field.declaration = &d;
        field.source = where.source;
        field.type = resolve(*d.type, where);
        if (field.type.is(E::None)) continue;
        if (!d.address.empty())
            error(where.source, d.address_span, Code::NotSupported, "a field of a structure has no address of its own");
        if (!require_size(field.type, d.type->span, where.source)) continue;
        const std::uint32_t alignment = logic_.alignment_of(field.type);
        offset = align_to(offset, alignment);
        type.alignment = std::max(type.alignment, alignment);
        field.binding = {Space::None, offset, -1, false};
        const std::uint32_t size = logic_.size_of(field.type);
        if (size > kMaxMemory - std::min(offset, kMaxMemory)) {
            error(where.source, d.span, Code::TooDeep, fmt::format("more than {} MiB of variables", kMaxMemory >> 20));
            continue;
        }
        offset += size;
        parts += logic_.parts_of(field.type);
        if (!few_parts(parts, d.name, d.span, where.source)) return {};
        field.initial = default_image(field.type);
        if (d.initial) write_initial(d.initial, field.type, field.initial.data(), fmt::format("'{}'", d.name), where);
        type.fields.push_back(std::move(field));
    }
    type.size = align_to(std::max(offset, 1U), type.alignment);
    type.parts = parts;
    if (!reserve(type.size, spec.span, where.source)) return {};
    type.initial.resize(type.size);
    for (const Field& f : type.fields)
        std::copy(f.initial.begin(), f.initial.end(), type.initial.begin() + f.binding.offset);
    base::at(logic_.types, row) = std::move(type);
    return {E::Structure, row};
}

TypeRef DeclarationChecker::resolve_enumeration(TypeSpec& spec, const Where& where) {
    DerivedType type;
    type.kind = DerivedKind::Enumeration;
    type.base = E::Int;
    if (!spec.name.empty()) {
        type.base = find_type(spec.name).value_or(E::None);
        if (!is_integer(type.base)) {
            error(where.source, spec.span, Code::TypeMismatch,
                  fmt::format("an enumeration is made of whole numbers, not {}", spec.name));
            return {};
        }
    }
    std::int64_t next = 0;
    for (EnumValue& v : spec.values) {
        if (v.value) {
            const auto value = constant(v.value, {type.base, -1}, where, "the value of an enumeration");
            if (value) next = *value;
        }
        if (!literal_fits(type.base, next < 0 ? 0 - static_cast<std::uint64_t>(next) : static_cast<std::uint64_t>(next),
                          next < 0))
            error(where.source, v.span, Code::LiteralRange,
                  fmt::format("{} does not fit {}", next, type_name(type.base)));
        for (const EnumConstant& other : type.values) {
            if (base::fold(other.name) == base::fold(v.name))
                error(where.source, v.span, Code::DuplicateName, fmt::format("'{}' is declared twice", v.name));
        }
        type.values.push_back({v.name, next});
        ++next;
    }
    if (type.values.empty()) return {};
    type.size = type.alignment = static_cast<std::uint32_t>(type_size(type.base));
    type.initial.resize(type.size);
    for (std::uint32_t i = 0; i < type.size; ++i)
        type.initial[i] = static_cast<std::byte>(type.values.front().value >> (8 * i));
    const E base = type.base;
    const int row = new_type(std::move(type));
    add_enum_values(row);
    return {base, row};
}

TypeRef DeclarationChecker::resolve_subrange(TypeSpec& spec, const Where& where) {
    DerivedType type;
    type.kind = DerivedKind::Subrange;
    const auto symbol = checking_.symbols.find(spec.name, where.context);
    type.base = symbol && symbol->kind == SymbolKind::Type
                    ? resolve_entry(symbol->number, spec.span, where.source).elementary
                    : find_type(spec.name).value_or(E::None);
    if (!is_integer(type.base)) {
        error(where.source, spec.span, Code::TypeMismatch,
              fmt::format("a subrange is made of whole numbers, not {}", spec.name));
        return {};
    }
    const auto low = constant(spec.ranges[0].first, {type.base, -1}, where, "the bound of a subrange");
    const auto high = constant(spec.ranges[0].second, {type.base, -1}, where, "the bound of a subrange");
    if (!low || !high) return {};
    if (*low > *high) {
        error(where.source, spec.ranges[0].first->span, Code::OutOfRange,
              fmt::format("{}..{} is not a valid range", *low, *high));
        return {};
    }
    type.low = *low;
    type.high = *high;
    type.size = type.alignment = static_cast<std::uint32_t>(type_size(type.base));
    type.initial.resize(type.size);
    const std::int64_t first = *low > 0 || *high < 0 ? *low : 0;
    for (std::uint32_t i = 0; i < type.size; ++i) type.initial[i] = static_cast<std::byte>(first >> (8 * i));
    const E base = type.base;
    return {base, new_type(std::move(type))};
}

}  // namespace vyard::logic
