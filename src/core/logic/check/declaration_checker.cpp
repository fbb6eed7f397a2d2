#include "core/logic/check/declaration_checker.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/check/expression_checker.hpp"
#include "core/logic/library/standard_blocks.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

namespace {

LayoutKind layout_kind(UnitKind kind) {
    switch (kind) {
        case UnitKind::Program: return LayoutKind::Program;
        case UnitKind::FunctionBlock: return LayoutKind::FunctionBlock;
        case UnitKind::Function: return LayoutKind::Function;
        case UnitKind::Method: return LayoutKind::Method;
        case UnitKind::Interface: return LayoutKind::Interface;
    }
    return LayoutKind::Program;
}

bool is_parameter(Section s) {
    return s == Section::Input || s == Section::Output || s == Section::InOut;
}

}  // namespace

void DeclarationChecker::run() {
    checking_.settle = [this](Field& field) { settle(field); };
    add_standard_blocks();
    for (SyntaxFile& file : logic_.files) add_types(file);
    for (SyntaxFile& file : logic_.files) {
        for (ProgramUnit& unit : file.units) add_unit(unit);
    }
    inherit();
    logic_.globals.name = "the globals";
    for (auto& [number, entry] : entries_) {
        // Structures first know their rows; what they hold is resolved when it is their turn.
        if (entry.declaration->spec->kind == TypeSpecKind::Structure)
            base::at(logic_.types, number).name = qualified(entry.declaration->context.space, entry.declaration->name);
    }
    for (SyntaxFile& file : logic_.files) {
        // Constants of plain types first: bounds and lengths are made of them.
        for (const bool constants : {true, false}) {
            for (Declaration& d : file.globals) {
                const bool plain =
                    d.constant && d.type && d.type->kind == TypeSpecKind::Named && find_type(d.type->name);
                if (plain == constants) add_global(d, file.source);
            }
        }
    }
    for (const auto& [number, entry] : entries_) {
        resolve_entry(number, entry.declaration->span, entry.declaration->source);
    }
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) add_fields(static_cast<int>(i));
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) settle_likes(static_cast<int>(i));
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) lay_out(static_cast<int>(i));
    lay_out_globals();
    for (const Layout& block : logic_.blocks) check_interfaces(block);
    add_configurations();
    count_variables();
    if (!checking_.diagnostics.has_errors() || parts_ <= kMaxAllParts) images();
}

/// All variables are listed by their names, so their number is bounded.
void DeclarationChecker::count_variables() {
    parts_ = logic_.globals.parts;
    for (const ProgramInstance& p : logic_.programs) {
        parts_ += logic_.block(p.block).parts;
        const ProgramUnit* unit = logic_.block(p.block).unit;
        if (parts_ <= kMaxAllParts || unit == nullptr) continue;
        error(unit->source, unit->span, Code::TooDeep,
              fmt::format("more than {} variables in all, with those in structures and blocks", kMaxAllParts));
        return;
    }
}

// --- names ---

void DeclarationChecker::add_standard_blocks() {
    for (const StandardBlock& s : standard_blocks()) {
        const int number = static_cast<int>(logic_.blocks.size());
        Layout& block = logic_.blocks.emplace_back();
        block.kind = LayoutKind::StandardBlock;
        block.name = s.name;
        block.standard = s.op;
        block.size = s.size;
        block.alignment = s.size >= 8 ? 8 : 4;
        block.complete = true;
        for (const StandardField& f : s.fields) {
            Field field;
            field.name = f.name;
            field.type.elementary = f.type;
            field.section = f.section;
            field.binding = {Space::Instance, f.offset, -1, false};
            block.by_name.emplace(base::fold(f.name), static_cast<int>(block.fields.size()));
            block.fields.push_back(std::move(field));
        }
        checking_.symbols.add(s.name, {SymbolKind::Unit, number});
    }
}

void DeclarationChecker::add_types(SyntaxFile& file) {
    for (TypeDeclaration& d : file.types) {
        const int number = new_type({});
        const std::string name = qualified(d.context.space, d.name);
        if (!d.context.space.empty()) checking_.symbols.add_namespace(d.context.space);
        if (find_type(d.name) || !checking_.symbols.add(name, {SymbolKind::Type, number})) {
            error(d.source, d.span, Code::DuplicateName, fmt::format("'{}' is declared twice", name));
            continue;
        }
        entries_[number].declaration = &d;
    }
}

void DeclarationChecker::add_unit(ProgramUnit& unit) {
    if (unit.name.empty()) return;
    const std::string name = qualified(unit.context.space, unit.name);
    if (!unit.context.space.empty()) checking_.symbols.add_namespace(unit.context.space);
    const int number = static_cast<int>(logic_.blocks.size());
    Symbol taken;
    if (!checking_.symbols.add(name, {SymbolKind::Unit, number}, &taken)) {
        const Layout* other = taken.kind == SymbolKind::Unit ? &logic_.block(taken.number) : nullptr;
        error(unit.source, unit.span, Code::DuplicateName,
              other != nullptr && other->unit != nullptr
                  ? fmt::format("'{}' is declared twice; first at {}", name,
                                place_in(other->unit->source, other->unit->span).text())
              : other != nullptr ? fmt::format("'{}' is a standard function block", name)
                                 : fmt::format("'{}' is declared twice", name));
        return;
    }
    Layout& block = logic_.blocks.emplace_back();
    block.kind = layout_kind(unit.kind);
    block.name = name;
    block.unit = &unit;
    block.result = {E::Void, -1};
    add_methods(number);
}

void DeclarationChecker::add_methods(int block) {
    for (ProgramUnit& method : logic_.block(block).unit->methods) {
        for (const int other : logic_.block(block).methods) {
            if (base::fold(logic_.block(other).unit->name) == base::fold(method.name))
                error(method.source, method.span, Code::DuplicateName,
                      fmt::format("method '{}' is declared twice", method.name));
        }
        const int number = static_cast<int>(logic_.blocks.size());
        Layout& layout = logic_.blocks.emplace_back();
        layout.kind = LayoutKind::Method;
        layout.name = logic_.block(block).name + "." + method.name;
        layout.unit = &method;
        layout.owner = block;
        layout.result = {E::Void, -1};
        logic_.block(block).methods.push_back(number);
    }
}

int DeclarationChecker::unit_named(const std::string& name, const NameContext& context) const {
    const auto symbol = checking_.symbols.find(name, context);
    return symbol && symbol->kind == SymbolKind::Unit ? symbol->number : -1;
}

/// Cost: the blocks that it extends, which are few.
void DeclarationChecker::extend(int number) {
    Layout& block = logic_.block(number);
    const ProgramUnit& unit = *block.unit;
    const int parent = unit_named(unit.extends, unit.context);
    if (parent < 0 || logic_.block(parent).kind != LayoutKind::FunctionBlock) {
        std::vector<std::string> known;
        for (const Layout& l : logic_.blocks) {
            if (l.kind == LayoutKind::FunctionBlock) known.push_back(l.name);
        }
        return error(unit.source, unit.extends_span, Code::UnknownType,
                     fmt::format("no function block is named '{}'", unit.extends),
                     base::name_hint(unit.extends, known));
    }
    if (logic_.block(parent).unit->is_final)
        return error(unit.source, unit.extends_span, Code::WrongValue, fmt::format("'{}' is FINAL", unit.extends));
    int levels = 1;
    for (int above = parent; above >= 0; above = logic_.block(above).parent, ++levels) {
        if (above == number)
            return error(unit.source, unit.extends_span, Code::WrongValue,
                         fmt::format("'{}' would extend itself", unit.name));
        if (levels > kMaxExtends) {
            return error(unit.source, unit.extends_span, Code::TooDeep,
                         fmt::format("blocks extend one another more than {} deep", kMaxExtends));
        }
    }
    block.parent = parent;
}

/// A long chain of blocks, whichever end is declared first, is cut where it gets too deep.
void DeclarationChecker::bound_extends() {
    std::vector<int> depths(logic_.blocks.size(), -1);
    bool said = false;
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
        std::vector<int> path;
        int at = static_cast<int>(i);
        for (; at >= 0 && base::at(depths, at) < 0; at = logic_.block(at).parent) path.push_back(at);
        int depth = at >= 0 ? base::at(depths, at) : -1;
        for (auto it = path.rbegin(); it != path.rend(); ++it) {
            Layout& block = logic_.block(*it);
            if (++depth > kMaxExtends) {
                if (!said)
                    error(block.unit->source, block.unit->extends_span, Code::TooDeep,
                          fmt::format("blocks extend one another more than {} deep", kMaxExtends));
                said = true;
                block.parent = -1;
                depth = 0;
            }
            base::at(depths, *it) = depth;
        }
    }
}

/// EXTENDS and IMPLEMENTS, and which blocks carry their number for it.
void DeclarationChecker::inherit() {
    std::vector<int> order;
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
        Layout& block = logic_.blocks[i];
        if (block.unit == nullptr) continue;
        const ProgramUnit& unit = *block.unit;
        const int number = static_cast<int>(i);
        if (!unit.extends.empty()) extend(number);
        for (const auto& [name, span] : unit.implements) {
            const int wanted = unit_named(name, unit.context);
            if (wanted < 0 || logic_.block(wanted).kind != LayoutKind::Interface) {
                error(unit.source, span, Code::UnknownType, fmt::format("no interface is named '{}'", name));
            } else if (logic_.is_kind_of(wanted, number)) {
                error(unit.source, span, Code::WrongValue, fmt::format("'{}' would extend itself", unit.name));
            } else {
                block.interfaces.push_back(wanted);
            }
        }
    }
    bound_extends();
    const auto tag = [&](int b) {
        for (; b >= 0; b = logic_.block(b).parent) logic_.block(b).tagged = true;
    };
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
        const Layout& block = logic_.blocks[i];
        if (block.kind == LayoutKind::FunctionBlock &&
            (block.parent >= 0 || !block.interfaces.empty() || !block.methods.empty()))
            tag(static_cast<int>(i));
    }
}

bool DeclarationChecker::matches(const Layout& method, const Layout& prototype) const {
    const auto parameters = [](const Layout& l) {
        std::vector<const Field*> out;
        for (const Field& f : l.fields) {
            if (is_parameter(f.section)) out.push_back(&f);
        }
        return out;
    };
    const auto a = parameters(method), b = parameters(prototype);
    if (a.size() != b.size() || !logic_.same(method.result, prototype.result)) return false;
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (a[i]->section != b[i]->section || base::fold(a[i]->name) != base::fold(b[i]->name) ||
            !logic_.same(a[i]->type, b[i]->type))
            return false;
    }
    return true;
}

void DeclarationChecker::check_interfaces(const Layout& block) {
    if (block.kind != LayoutKind::FunctionBlock) return;
    const int self = static_cast<int>(
        std::find_if(logic_.blocks.begin(), logic_.blocks.end(), [&](const Layout& l) { return &l == &block; }) -
        logic_.blocks.begin());
    for (const int m : block.methods) {
        const Layout& method = logic_.block(m);
        const int over = block.parent >= 0 ? logic_.find_method(block.parent, base::fold(method.unit->name)) : -1;
        if (over >= 0 && !matches(method, logic_.block(over)))
            error(method.unit->source, method.unit->span, Code::TypeMismatch,
                  fmt::format("'{}' has other parameters or another result than '{}', which it overrides", method.name,
                              logic_.block(over).name));
        if (over >= 0 && logic_.block(over).unit->is_final)
            error(method.unit->source, method.unit->span, Code::WrongValue,
                  fmt::format("'{}' is FINAL", logic_.block(over).name));
        if (over < 0 && method.unit->is_override)
            error(method.unit->source, method.unit->span, Code::UnknownName,
                  fmt::format("'{}' overrides nothing", method.name));
        if (method.unit->is_abstract && !block.unit->is_abstract)
            error(method.unit->source, method.unit->span, Code::WrongValue,
                  fmt::format("'{}' is ABSTRACT, so its block must be ABSTRACT too", method.name));
    }
    const auto implement = [&](int interface, auto&& again) -> void {
        for (const int wanted : logic_.block(interface).methods) {
            const Layout& prototype = logic_.block(wanted);
            const int found = logic_.find_method(self, base::fold(prototype.unit->name));
            if (found < 0) {
                if (!block.unit->is_abstract)
                    error(block.unit->source, block.unit->span, Code::WrongValue,
                          fmt::format("'{}' implements {} but has no method '{}'", block.name,
                                      logic_.block(interface).name, prototype.unit->name));
            } else if (!matches(logic_.block(found), prototype)) {
                error(logic_.block(found).unit->source, logic_.block(found).unit->span, Code::TypeMismatch,
                      fmt::format("'{}' has other parameters or another result than {}", logic_.block(found).name,
                                  prototype.name));
            }
        }
        for (const int more : logic_.block(interface).interfaces) again(more, again);
    };
    for (const int interface : block.interfaces) implement(interface, implement);
}

// --- fields ---

void DeclarationChecker::add_fields(int number) {
    Layout& block = logic_.block(number);
    if (block.unit == nullptr || block.fielded) return;
    block.fielded = true;
    ProgramUnit& unit = *block.unit;
    // Constants of plain types first, as with the globals.
    for (const bool constants : {true, false}) {
        for (Declaration& d : unit.declarations) {
            const bool plain = d.constant && d.type && d.type->kind == TypeSpecKind::Named && find_type(d.type->name);
            if (plain != constants) continue;
            if (d.section == Section::Global) {
                // VAR_GLOBAL inside a program is global all the same, as the standard's resource level is not modelled.
                add_global(d, unit.source);
                continue;
            }
            add_field(block, number, d, unit.source, unit.context);
        }
    }
    add_result(number);
}

/// Generated variables that have the type of an expression. Looking at it leaves no trace: it is checked, and its
/// mistakes are reported, where it stands.
void DeclarationChecker::settle_likes(int number) {
    for (std::size_t f = 0; f < logic_.block(number).fields.size(); ++f) {
        const Declaration* d = logic_.block(number).fields[f].declaration;
        if (d == nullptr || !d->like) continue;
        const ProgramUnit& unit = *logic_.block(number).unit;
        const std::size_t calls = logic_.calls.size();
        base::Diagnostics unheard;
        QuietScope scope(checking_, number, unit.context, unit.source);
        ExpressionPtr like = clone(*d->like);
        const TypeRef type = ExpressionChecker(unit.source, scope, unheard).check_any(like);
        logic_.calls.resize(calls);
        if (!type.is(E::Void)) logic_.block(number).fields[f].type = type;
    }
}

void DeclarationChecker::add_result(int number) {
    Layout& block = logic_.block(number);
    ProgramUnit& unit = *block.unit;
    if (!unit.result) return;
    block.result = resolve(*unit.result, {unit.source, unit.context, -1});
    if (block.result.is(E::None)) {
        block.result = {E::Void, -1};
        return;
    }
    if (!require_size(block.result, unit.result->span, unit.source)) return;
    Field field;
    field.name = unit.name;
    field.type = block.result;
    field.source = unit.source;
    field.read = true;
    if (!block.by_name.emplace(base::fold(unit.name), static_cast<int>(block.fields.size())).second)
        error(unit.source, unit.span, Code::DuplicateName,
              fmt::format("'{}' names the result, and a variable too", unit.name));
    block.result_field = static_cast<int>(block.fields.size());
    block.fields.push_back(std::move(field));
}

void DeclarationChecker::add_global(Declaration& d, const base::SourcePtr& source) {
    const std::string name = qualified(d.space, d.name);
    Symbol taken;
    const int number = static_cast<int>(logic_.globals.fields.size());
    if (!d.space.empty()) checking_.symbols.add_namespace(d.space);
    if (!checking_.symbols.add(name, {SymbolKind::Global, number}, &taken)) {
        const Field* other =
            taken.kind == SymbolKind::Global ? &base::at(logic_.globals.fields, taken.number) : nullptr;
        error(source, d.span, Code::DuplicateName,
              other != nullptr ? fmt::format("'{}' is declared twice; first at {}", name,
                                             place_in(other->source, other->declaration->span).text())
                               : fmt::format("'{}' names a type or a program unit too", name));
        return;
    }
    const NameContext context{d.space, {}};
    const std::size_t before = logic_.globals.fields.size();
    add_field(logic_.globals, -1, d, source, context);
    if (logic_.globals.fields.size() == before) {  // a hole keeps the numbers right
        Field hole;
        hole.name = name;
        hole.declaration = &d;
        hole.source = source;
        logic_.globals.fields.push_back(std::move(hole));
        return;
    }
    Field& field = logic_.globals.fields.back();
    if (field.name != name) {
        logic_.globals.by_name.erase(base::fold(field.name));
        field.name = name;
        logic_.globals.by_name.emplace(base::fold(name), number);
    }
}

void DeclarationChecker::add_field(Layout& layout, int unit, Declaration& d, const base::SourcePtr& source,
                                   const NameContext& context) {
    if (const Field* other = layout.find(d.name); other != nullptr && d.space.empty()) {
        error(source, d.span, Code::DuplicateName,
              fmt::format("'{}' is declared twice; first at {}", d.name,
                          place_in(other->source, other->declaration->span).text()));
        return;
    }
    Field field;
    field.name = d.name;
    field.section = d.section;
    field.constant = d.constant;
    field.retain = d.retain;
    field.persistent = d.persistent;
    field.edge = d.edge;
    field.access = d.access;
    field.declaration = &d;
    field.source = source;
    field.type = d.type ? resolve(*d.type, {source, context, unit}) : TypeRef{};
    if (field.edge != Edge::None && (!field.type.is(E::Bool) || d.section != Section::Input))
        error(source, d.span, Code::TypeMismatch, "R_EDGE and F_EDGE are for inputs of type BOOL");
    if (field.type.is(E::Array) && logic_.type(field.type).open && d.section != Section::InOut)
        error(source, d.type->span, Code::WrongValue, "an array of unknown bounds is a VAR_IN_OUT");
    if (field.type.is(E::Block) && logic_.block(field.type.index).unit != nullptr &&
        logic_.block(field.type.index).unit->is_abstract && d.section != Section::InOut)
        error(source, d.type->span, Code::WrongValue,
              fmt::format("'{}' is ABSTRACT and has no instances", logic_.block(field.type.index).name));
    if (!d.address.empty() && !field.type.is(E::None)) locate(field, d, source);
    layout.by_name.emplace(base::fold(d.name), static_cast<int>(layout.fields.size()));
    layout.fields.push_back(std::move(field));
}

// --- addresses ---

void DeclarationChecker::locate(Field& field, const Declaration& d, const base::SourcePtr& source) {
    if (d.address.size() <= 4 && d.address.ends_with("*")) {
        field.incomplete_address = true;
        return;
    }
    std::string why;
    auto address = parse_address(d.address, why);
    if (!address) {
        error(source, d.address_span, Code::BadAddress, fmt::format("'{}' is not a valid address", d.address), why);
        return;
    }
    const TypeRef element = field.type.is(E::Array) ? logic_.type(field.type).element : field.type;
    const E type = element.elementary;
    const bool array = field.type.is(E::Array) && !element.is(E::Bool);
    const bool fits = is_scalar(type) && (array || !field.type.is(E::Array)) &&
                      (element.is(E::Bool) == (address->bit >= 0)) && type_size(type) == address->size;
    if (!fits) {
        const std::string shown = logic_.text_of(field.type);
        Address better = *address;
        better.bit = type == E::Bool ? 0 : -1;
        better.size = type_size(type);
        error(source, d.address_span, Code::BadAddress,
              fmt::format("{} is {}, but '{}' is {}", d.address,
                          address->bit >= 0 ? "one bit"
                                            : fmt::format("{} byte{}", address->size, address->size == 1 ? "" : "s"),
                          d.name, shown),
              field.type.is(E::Block) ? "a function block has no address"
              : is_scalar(type) && (array || !field.type.is(E::Array))
                  ? fmt::format("for {} write {}", shown, better.text())
                  : fmt::format("{} has no address", shown));
        return;
    }
    if (array) address->size = static_cast<int>(logic_.size_of(field.type));
    if (address->byte + static_cast<std::uint32_t>(address->size) > kAreaLimit) {
        error(source, d.address_span, Code::BadAddress, fmt::format("an area holds {} bytes", kAreaLimit));
        return;
    }
    field.address = *address;
    field.binding = {space_of(address->area), address->byte, address->bit, false};
    std::uint32_t& size = address->area == Area::Input    ? logic_.input_bytes
                          : address->area == Area::Output ? logic_.output_bytes
                                                          : logic_.marker_bytes;
    size = std::max(size, address->byte + static_cast<std::uint32_t>(address->size));
}

// --- layouts ---

void DeclarationChecker::place(Field& f, Layout& layout, std::uint32_t& offset, Space space) {
    std::uint32_t size = 0, alignment = 8;
    if (f.section == Section::InOut) {
        const bool open = f.type.is(E::Array) && logic_.type(f.type).open;
        size = open ? 8 + 24 * static_cast<std::uint32_t>(logic_.type(f.type).dimensions.size()) : 4;
        alignment = open ? 8 : 4;
    } else {
        if (f.type.is(E::Block)) {
            Layout& inner = logic_.block(f.type.index);
            if (inner.in_progress) {
                error(f.source, f.declaration->type->span, Code::WrongValue,
                      fmt::format("'{}' would hold itself", inner.name));
                return;
            }
            lay_out(f.type.index);
            layout.depth = std::max(layout.depth, inner.depth + 1);
            if (layout.depth > kMaxBlockDepth) {
                error(f.source, f.declaration->span, Code::TooDeep,
                      fmt::format("blocks are nested more than {} deep", kMaxBlockDepth));
                layout.depth = 1;
                return;
            }
        }
        size = logic_.size_of(f.type);
        alignment = std::max(logic_.alignment_of(f.type), 1U);
    }
    offset = align_to(offset, alignment);
    if (size > kMaxMemory - std::min(offset, kMaxMemory)) {
        error(f.source, f.declaration != nullptr ? f.declaration->span : Span{}, Code::TooDeep,
              fmt::format("more than {} MiB of variables", kMaxMemory >> 20));
        return;
    }
    const std::uint64_t parts = f.section == Section::InOut ? 1 : logic_.parts_of(f.type);
    if (layout.parts > kMaxParts || parts > kMaxParts) {  // said already, here or of what is inside
        layout.parts = kMaxParts + 1;
        return;
    }
    layout.parts += parts;
    if (f.declaration != nullptr &&
        !few_parts(layout.parts, layout.name.empty() ? f.name : layout.name, f.declaration->span, f.source))
        return;
    f.binding = {space, offset, -1, f.section == Section::InOut};
    layout.alignment = std::max(layout.alignment, alignment);
    offset += size;
}

void DeclarationChecker::lay_out(int number) {
    Layout& layout = logic_.block(number);
    if (layout.complete || layout.in_progress) return;
    const NestingGuard guard(nesting_);
    if (layout.unit != nullptr && too_nested(layout.unit->span, layout.unit->source)) return;
    layout.in_progress = true;
    add_fields(number);
    if (layout.kind == LayoutKind::Function || layout.kind == LayoutKind::Method ||
        layout.kind == LayoutKind::Interface) {
        lay_out_frame(layout);
    } else {
        std::uint32_t offset = layout.tagged ? 4 : 0;
        if (layout.parent >= 0) {
            lay_out(layout.parent);
            const Layout& parent = logic_.block(layout.parent);
            offset = parent.size;
            layout.alignment = std::max(layout.alignment, parent.alignment);
            layout.depth = parent.depth;
            std::vector<Field> fields;
            for (const Field& f : parent.fields) {
                if (f.section == Section::Temp) continue;
                fields.push_back(f);
                fields.back().inherited = true;
                if (const Field* own = layout.find(f.name))
                    error(own->source, own->declaration->span, Code::DuplicateName,
                          fmt::format("'{}' is declared in {} already", f.name, parent.name));
            }
            for (Field& f : layout.fields) fields.push_back(std::move(f));
            layout.fields = std::move(fields);
            layout.by_name.clear();
            for (std::size_t i = 0; i < layout.fields.size(); ++i)
                layout.by_name.emplace(base::fold(layout.fields[i].name), static_cast<int>(i));
        }
        std::uint32_t frame = 0;
        for (Field& f : layout.fields) {
            if (f.inherited || f.binding.space != Space::None || f.section == Section::External || f.type.is(E::None))
                continue;
            if (f.section == Section::Temp) {
                place(f, layout, frame, Space::Frame);
            } else {
                place(f, layout, offset, Space::Instance);
            }
        }
        layout.frame_size = align_to(frame, 8);
        layout.alignment = std::max(layout.alignment, 4U);
        layout.size = align_to(std::max(offset, 1U), std::max(layout.alignment, 8U));  // instances differ in place
        layout.alignment = std::max(layout.alignment, 8U);
    }
    layout.in_progress = false;
    layout.complete = true;
}

void DeclarationChecker::lay_out_frame(Layout& layout) {
    std::uint32_t offset = 0;
    for (std::size_t i = 0; i < layout.fields.size(); ++i) {
        Field& f = layout.fields[i];
        const bool parameter = is_parameter(f.section) || static_cast<int>(i) == layout.result_field;
        if (parameter && f.binding.space == Space::None && !f.type.is(E::None)) place(f, layout, offset, Space::Frame);
    }
    layout.parameter_size = align_to(offset, 8);
    offset = layout.parameter_size;
    for (Field& f : layout.fields) {
        if (f.binding.space != Space::None || f.section == Section::External || f.type.is(E::None)) continue;
        place(f, layout, offset, Space::Frame);
    }
    layout.frame_size = align_to(offset, 8);
}

void DeclarationChecker::lay_out_globals() {
    std::uint32_t offset = 0;
    Layout& globals = logic_.globals;
    for (Field& f : globals.fields) {
        if (f.binding.space != Space::None || f.type.is(E::None)) continue;
        place(f, globals, offset, Space::Globals);
    }
    globals.size = align_to(offset, 8);
    globals.complete = true;
}

}  // namespace vyard::logic
