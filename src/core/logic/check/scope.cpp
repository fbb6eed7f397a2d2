#include "core/logic/check/scope.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

E type_of_address(const Address& address) {
    static constexpr E kTypes[] = {E::Byte, E::Word, E::None, E::Dword, E::None, E::None, E::None, E::Lword};
    return address.bit >= 0 ? E::Bool : kTypes[address.size - 1];
}

/// Its detector stands in the body of the block that declares it; one that inherits it has the signal.
bool sees_edge(const Field& field) {
    return field.edge != Edge::None && !field.inherited;
}

}  // namespace

const NameContext& Scope::context() const {
    static const NameContext none;
    return none;
}

Space space_of(Area area) {
    return area == Area::Input ? Space::Inputs : area == Area::Output ? Space::Outputs : Space::Markers;
}

Field* UnitScope::own(const std::string& name) const {
    if (unit_ < 0) return nullptr;
    Layout& unit = checking_.logic.block(unit_);
    if (Field* field = unit.find(name)) return field;
    return unit.owner >= 0 ? checking_.logic.block(unit.owner).find(name) : nullptr;
}

Field* UnitScope::global(const std::string& name) const {
    const auto symbol = checking_.symbols.find(name, context_);
    if (!symbol || symbol->kind != SymbolKind::Global) return nullptr;
    return &base::at(checking_.logic.globals.fields, symbol->number);
}

bool UnitScope::knows(const std::string& name) const {
    return own(name) != nullptr || global(name) != nullptr;
}

TypeRef UnitScope::peek(const std::string& name) const {
    const Field* field = own(name);
    if (field == nullptr) field = global(name);
    return field != nullptr ? field->type : TypeRef{};
}

std::optional<Found> UnitScope::find(const std::string& name, Span span, Use use) {
    if (name.starts_with('%')) return find_direct(name, span, use);
    Field* field = own(name);
    if (field != nullptr && field->section == Section::External) {
        field->read = field->written = true;
        field = external(name, *field);
        if (field == nullptr) return std::nullopt;
    }
    if (field == nullptr) field = global(name);
    if (field == nullptr) {
        checking_.error(source_, span, Code::UnknownName, fmt::format("no variable is named '{}'", name),
                        base::name_hint(name, known_names()));
        return std::nullopt;
    }
    const bool shared = field->address.has_value() || own(name) != field;
    if (shared && unit_ >= 0)
        field->uses.push_back({place_in(source_, span), checking_.logic.block(unit_).name, use == Use::Write});
    return found(*field, use);
}

std::optional<Found> UnitScope::found(Field& field, Use use) {
    if (field.type.is(E::None)) return std::nullopt;  // its declaration was reported
    if (use == Use::Read) field.read = true;
    if (use == Use::Write) field.written = true;
    Found out{field.binding, field.type, true, "", &field, {}, sees_edge(field)};
    const bool block = field.type.is(E::Block);
    if (field.constant) {
        out.writable = false;
        out.why_not_writable = "it is declared CONSTANT";
    } else if (field.section == Section::Input && !block && unit_ >= 0 &&
               checking_.logic.block(unit_).kind != LayoutKind::Function &&
               checking_.logic.block(unit_).kind != LayoutKind::Program) {
        out.writable = false;
        out.why_not_writable = "it is an input; only the caller writes it";
    } else if (field.address && field.address->area == Area::Input) {
        out.writable = false;
        out.why_not_writable = "it is an input of the controller";
    }
    return out;
}

/// What is wrong with it was said where it is declared.
Field* UnitScope::external(const std::string& name, const Field& declared) {
    Field* field = checking_.logic.globals.find(name);
    if (field == nullptr) field = global(name);
    const bool fits = field != nullptr && (checking_.logic.same(field->type, declared.type) || field->type.is(E::None));
    return fits ? field : nullptr;
}

void UnitScope::check_external(const Field& declared) {
    const Field* field = checking_.logic.globals.find(declared.name);
    if (field == nullptr) field = global(declared.name);
    const Declaration& d = *declared.declaration;
    if (field == nullptr) {
        std::vector<std::string> known;
        for (const Field& f : checking_.logic.globals.fields) known.push_back(f.name);
        checking_.error(declared.source, d.span, Code::UnknownName,
                        fmt::format("VAR_EXTERNAL '{}' has no VAR_GLOBAL", declared.name),
                        base::name_hint(declared.name, known));
    } else if (!checking_.logic.same(field->type, declared.type) && !field->type.is(E::None)) {
        checking_.error(declared.source, d.type->span, Code::TypeMismatch,
                        fmt::format("VAR_EXTERNAL '{}' is {}, its VAR_GLOBAL is {}", declared.name,
                                    checking_.logic.text_of(declared.type), checking_.logic.text_of(field->type)));
    }
}

const Field* UnitScope::look(const std::string& name) const {
    const Field* field = own(name);
    return field == nullptr || field->section == Section::External ? global(name) : field;
}

std::optional<Found> QuietScope::find(const std::string& name, Span, Use) {
    if (!name.starts_with('%')) {
        const Field* field = names_.look(name);
        if (field == nullptr || field->type.is(E::None)) return std::nullopt;
        return Found{field->binding, field->type, true, "", nullptr, {}, sees_edge(*field)};
    }
    std::string why;
    const auto address = parse_address(name, why);
    if (!address) return std::nullopt;
    return Found{{space_of(address->area), address->byte, address->bit, false},
                 {type_of_address(*address), -1},
                 true,
                 "",
                 nullptr};
}

std::optional<Found> UnitScope::find_direct(const std::string& name, Span span, Use use) {
    std::string why;
    const auto address = parse_address(name, why);
    if (!address) {
        checking_.error(source_, span, Code::BadAddress, fmt::format("'{}' is not a valid address", name), why);
        return std::nullopt;
    }
    CheckedLogic& logic = checking_.logic;
    std::uint32_t& size = address->area == Area::Input    ? logic.input_bytes
                          : address->area == Area::Output ? logic.output_bytes
                                                          : logic.marker_bytes;
    size = std::max(size, address->byte + static_cast<std::uint32_t>(address->size));
    if (unit_ >= 0)
        logic.direct_uses.push_back({*address, {place_in(source_, span), logic.block(unit_).name, use == Use::Write}});
    Found out;
    out.binding = {space_of(address->area), address->byte, address->bit, false};
    out.type.elementary = type_of_address(*address);
    out.writable = !(use == Use::Write && address->area == Area::Input);
    out.why_not_writable = "it is an input of the controller";
    return out;
}

std::vector<std::string> UnitScope::known_names() const {
    std::vector<std::string> names;
    const auto add = [&](const Layout& layout) {
        for (const Field& f : layout.fields) {
            if (f.name.find('$') == std::string::npos) names.push_back(f.name);  // not what drawings generate
        }
    };
    if (unit_ >= 0) {
        const Layout& unit = checking_.logic.block(unit_);
        add(unit);
        if (unit.owner >= 0) add(checking_.logic.block(unit.owner));
    }
    add(checking_.logic.globals);
    return names;
}

}  // namespace vyard::logic
