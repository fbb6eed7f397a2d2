#include "core/logic/checker.hpp"

#include <fmt/format.h>

#include <map>

#include "core/logic/expression_checker.hpp"
#include "core/logic/standard_blocks.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

Field* Layout::find(const std::string& field) {
    const auto found = by_name.find(base::fold(field));
    return found == by_name.end() ? nullptr : &fields[static_cast<std::size_t>(found->second)];
}

namespace {

std::uint32_t align_to(std::uint32_t offset, std::uint32_t alignment) {
    return (offset + alignment - 1) / alignment * alignment;
}

Space space_of(Area area) {
    return area == Area::Input ? Space::Inputs : area == Area::Output ? Space::Outputs : Space::Markers;
}

/// Everything that is declared: names, types, places in memory.
class DeclarationChecker {
  public:
    DeclarationChecker(CheckedLogic& logic, base::Diagnostics& diagnostics)
        : logic_(logic), diagnostics_(diagnostics) {}

    void run() {
        add_standard_blocks();
        for (SyntaxFile& file : logic_.files) {
            for (ProgramUnit& unit : file.units) add_unit(unit);
        }
        for (SyntaxFile& file : logic_.files) {
            for (Declaration& d : file.globals) add_field(logic_.globals, d, file.source);
        }
        logic_.globals.name = "the globals";
        for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
            Layout& block = logic_.blocks[i];
            if (block.unit == nullptr) continue;
            for (const Declaration& d : block.unit->declarations) {
                // VAR_GLOBAL inside a program is global all the same, as the standard's resource level is not modelled.
                add_field(d.section == Section::Global ? logic_.globals : block, d, block.unit->source);
            }
        }
        for (Layout& block : logic_.blocks) lay_out(block);
        lay_out(logic_.globals);
    }

  private:
    void error(const base::SourcePtr& source, Span span, Code code, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place_in(source, span), std::move(message), std::move(hint));
    }

    void add_standard_blocks() {
        for (const StandardBlock& s : standard_blocks()) {
            Layout& block = logic_.blocks.emplace_back();
            block.name = s.name;
            block.standard = s.op;
            block.size = s.size;
            block.complete = true;
            for (const StandardField& f : s.fields) {
                Field field;
                field.name = f.name;
                field.type.elementary = f.type;
                field.section = f.section;
                field.binding = {Space::Instance, f.offset, -1};
                block.by_name.emplace(base::fold(f.name), static_cast<int>(block.fields.size()));
                block.fields.push_back(std::move(field));
            }
        }
    }

    void add_unit(const ProgramUnit& unit) {
        for (const Layout& other : logic_.blocks) {
            if (!unit.name.empty() && base::fold(other.name) == base::fold(unit.name)) {
                error(unit.source, unit.span, Code::DuplicateName,
                      other.unit != nullptr ? fmt::format("'{}' is declared twice; first at {}", unit.name,
                                                          place_in(other.unit->source, other.unit->span).text())
                                            : fmt::format("'{}' is a standard function block", unit.name));
                return;
            }
        }
        if (unit.kind == UnitKind::Program) logic_.programs.push_back(static_cast<int>(logic_.blocks.size()));
        Layout& block = logic_.blocks.emplace_back();
        block.name = unit.name;
        block.unit = &unit;
    }

    void add_field(Layout& layout, const Declaration& d, const base::SourcePtr& source) {
        if (const Field* other = layout.find(d.name)) {
            error(source, d.span, Code::DuplicateName,
                  fmt::format("'{}' is declared twice; first at {}", d.name,
                              place_in(other->source, other->declaration->span).text()));
            return;
        }
        Field field;
        field.name = d.name;
        field.section = d.section;
        field.constant = d.constant;
        field.declaration = &d;
        field.source = source;
        field.type = type_of(d, source);
        if (field.type.is(E::None)) return;
        if (!d.address.empty()) locate(field, d, source);
        layout.by_name.emplace(base::fold(d.name), static_cast<int>(layout.fields.size()));
        layout.fields.push_back(std::move(field));
    }

    TypeRef type_of(const Declaration& d, const base::SourcePtr& source) {
        if (const auto elementary = find_type(d.type_name)) return {*elementary, -1};
        std::vector<std::string> known;
        for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
            const Layout& block = logic_.blocks[i];
            const bool program = block.unit != nullptr && block.unit->kind == UnitKind::Program;
            if (!program && base::fold(block.name) == base::fold(d.type_name)) return {E::Block, static_cast<int>(i)};
            if (!program) known.push_back(block.name);
        }
        for (int t = static_cast<int>(E::Bool); t <= static_cast<int>(E::Time); ++t)
            known.emplace_back(type_name(static_cast<E>(t)));
        static const std::vector<std::string> later = {"STRING", "WSTRING", "ARRAY", "STRUCT", "DATE",   "TOD",
                                                       "DT",     "LTIME",   "CHAR",  "REF_TO", "POINTER"};
        for (const std::string& name : later) {
            if (base::fold(name) == base::fold(d.type_name)) {
                error(source, d.type_span, Code::NotSupported,
                      fmt::format("the type {} is not supported by this version", name));
                return {};
            }
        }
        error(source, d.type_span, Code::UnknownType, fmt::format("no type is named '{}'", d.type_name),
              base::name_hint(d.type_name, known));
        return {};
    }

    void locate(Field& field, const Declaration& d, const base::SourcePtr& source) {
        std::string why;
        const auto address = parse_address(d.address, why);
        if (!address) {
            error(source, d.address_span, Code::BadAddress, fmt::format("'{}' is no address", d.address), why);
            return;
        }
        const bool fits = !field.type.is(E::Block) && (field.type.is(E::Bool) == (address->bit >= 0)) &&
                          type_size(field.type.elementary) == address->size;
        if (!fits) {
            error(
                source, d.address_span, Code::BadAddress,
                fmt::format("{} is {}, but '{}' is {}", d.address,
                            address->bit >= 0 ? "one bit"
                                              : fmt::format("{} byte{}", address->size, address->size == 1 ? "" : "s"),
                            d.name, d.type_name),
                field.type.is(E::Block)
                    ? "a function block has no address"
                    : fmt::format("for {} write {}", d.type_name, suggestion(*address, field.type.elementary)));
            return;
        }
        field.address = *address;
        field.binding = {space_of(address->area), address->byte, address->bit};
        grow(*address);
        claim_bits(field, d, source);
    }

    static std::string suggestion(Address address, E type) {
        address.bit = type == E::Bool ? 0 : -1;
        address.size = type_size(type);
        return address.text();
    }

    void grow(const Address& a) {
        std::uint32_t& size = a.area == Area::Input    ? logic_.input_bytes
                              : a.area == Area::Output ? logic_.output_bytes
                                                       : logic_.marker_bytes;
        size = std::max(size, a.byte + static_cast<std::uint32_t>(a.size));
    }

    /// An address given twice is a mistake; a bit inside another's word is worth a warning.
    void claim_bits(const Field& field, const Declaration& d, const base::SourcePtr& source) {
        const Address& a = *field.address;
        const std::uint32_t first = a.byte * 8 + static_cast<std::uint32_t>(std::max(a.bit, 0));
        const std::uint32_t count = a.bit >= 0 ? 1 : static_cast<std::uint32_t>(a.size) * 8;
        auto& owners = bit_owners_[a.area];
        for (std::uint32_t bit = first; bit < first + count; ++bit) {
            const auto [owner, fresh] = owners.try_emplace(bit, Owner{&d, source, a});
            if (fresh) continue;
            const Owner& other = owner->second;
            const std::string message =
                fmt::format("{} overlaps {} of '{}' at {}", d.address, other.address.text(), other.declaration->name,
                            place_in(other.source, other.declaration->span).text());
            const bool same =
                other.address.byte == a.byte && other.address.bit == a.bit && other.address.size == a.size;
            if (same) {
                error(source, d.address_span, Code::AddressOverlap,
                      fmt::format("{} is already taken by '{}' at {}", d.address, other.declaration->name,
                                  place_in(other.source, other.declaration->span).text()));
            } else {
                diagnostics_.warning(Code::AddressOverlap, place_in(source, d.address_span), message);
            }
            return;
        }
    }

    void lay_out(Layout& layout) {
        if (layout.complete) return;
        layout.in_progress = true;
        std::uint32_t offset = 0;
        const Space space = &layout == &logic_.globals ? Space::Globals : Space::Instance;
        for (Field& f : layout.fields) {
            if (f.binding.space != Space::None || f.section == Section::External) continue;
            std::uint32_t size = 0, alignment = 8;
            if (f.type.is(E::Block)) {
                Layout& inner = logic_.blocks[static_cast<std::size_t>(f.type.block)];
                if (inner.in_progress) {
                    error(f.source, f.declaration->type_span, Code::WrongValue,
                          fmt::format("'{}' would hold itself", inner.name));
                    continue;
                }
                lay_out(inner);
                layout.depth = std::max(layout.depth, inner.depth + 1);
                size = inner.size;
                if (layout.depth > kMaxBlockDepth) {
                    error(f.source, f.declaration->span, Code::TooDeep,
                          fmt::format("blocks are nested more than {} deep", kMaxBlockDepth));
                    layout.depth = 1;
                    continue;
                }
            } else {
                size = static_cast<std::uint32_t>(type_size(f.type.elementary));
                alignment = size;
            }
            offset = align_to(offset, alignment);
            if (size > kMaxMemory - std::min(offset, kMaxMemory)) {
                error(f.source, f.declaration->span, Code::TooDeep,
                      fmt::format("more than {} MiB of variables", kMaxMemory >> 20));
                continue;
            }
            f.binding = {space, offset, -1};
            offset += size;
        }
        layout.size =
            align_to(space == Space::Globals ? offset : std::max(offset, 1U), 8);  // instances differ in place
        layout.in_progress = false;
        layout.complete = true;
    }

    struct Owner {
        const Declaration* declaration;
        base::SourcePtr source;
        Address address;
    };

    CheckedLogic& logic_;
    base::Diagnostics& diagnostics_;
    std::map<Area, std::unordered_map<std::uint32_t, Owner>> bit_owners_;
};

/// Names as a program unit sees them: its own fields first, then the globals.
class UnitScope final : public Scope {
  public:
    UnitScope(CheckedLogic& logic, Layout& unit, const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : logic_(logic), unit_(unit), source_(source), diagnostics_(diagnostics) {}

    std::optional<Found> find(const std::string& name, Span span, Access access) override {
        if (name.starts_with('%')) return find_direct(name, span, access);
        const std::size_t dot = name.find('.');
        const std::string head = name.substr(0, dot);
        Field* field = unit_.find(head);
        if (field != nullptr && field->section == Section::External) {
            field->read = field->written = true;
            field = global(head, *field);
            if (field == nullptr) return std::nullopt;
        }
        if (field == nullptr) field = logic_.globals.find(head);
        if (field == nullptr) {
            diagnostics_.error(Code::UnknownName, place_in(source_, span),
                               fmt::format("no variable is named '{}'", head), base::name_hint(head, known_names()));
            return std::nullopt;
        }
        return follow(*field, name, dot, span, access);
    }

  private:
    Field* global(const std::string& name, const Field& external) {
        Field* field = logic_.globals.find(name);
        const base::Place place = place_in(source_, external.declaration->span);
        if (field == nullptr) {
            diagnostics_.error(Code::UnknownName, place, fmt::format("VAR_EXTERNAL '{}' has no VAR_GLOBAL", name),
                               base::name_hint(name, names_of(logic_.globals)));
        } else if (!(field->type == external.type)) {
            diagnostics_.error(Code::TypeMismatch, place,
                               fmt::format("VAR_EXTERNAL '{}' is {}, its VAR_GLOBAL is {}", name,
                                           external.declaration->type_name, field->declaration->type_name));
            return nullptr;
        }
        return field;
    }

    std::optional<Found> follow(Field& head, const std::string& name, std::size_t dot, Span span, Access access) {
        Found found{head.binding, head.type, !head.constant, "it is declared CONSTANT"};
        if (head.section == Section::Input && head.binding.space == Space::Instance && access == Access::Write) {
            found.writable = false;
            found.why_not_writable = "it is an input; only the caller writes it";
        }
        mark(head, access, dot != std::string::npos);
        while (dot != std::string::npos) {
            const std::size_t next = name.find('.', dot + 1);
            const std::string part =
                name.substr(dot + 1, next == std::string::npos ? std::string::npos : next - dot - 1);
            if (!found.type.is(E::Block)) {
                diagnostics_.error(Code::UnknownName, place_in(source_, span),
                                   fmt::format("'{}' is {} and has no part '{}'", name.substr(0, dot),
                                               type_name(found.type.elementary), part));
                return std::nullopt;
            }
            Layout& block = logic_.blocks[static_cast<std::size_t>(found.type.block)];
            Field* field = block.find(part);
            if (field == nullptr || field->section > Section::Output || field->section == Section::Local) {
                std::vector<std::string> known;
                for (const Field& f : block.fields) {
                    if (f.section == Section::Input || f.section == Section::Output) known.push_back(f.name);
                }
                diagnostics_.error(
                    Code::UnknownName, place_in(source_, span),
                    fmt::format("{} '{}' has no input or output '{}'", block.name, name.substr(0, dot), part),
                    base::name_hint(part, known));
                return std::nullopt;
            }
            field->read = true;
            found.binding.offset += field->binding.offset;
            found.type = field->type;
            found.writable = field->section == Section::Input;
            found.why_not_writable = "it is an output of the block";
            dot = next;
        }
        return found;
    }

    static void mark(Field& field, Access access, bool part) {
        if (access == Access::Read || part) field.read = true;
        if (access == Access::Write || part) field.written = true;
    }

    std::optional<Found> find_direct(const std::string& name, Span span, Access access) {
        std::string why;
        const auto address = parse_address(name, why);
        if (!address) {
            diagnostics_.error(Code::BadAddress, place_in(source_, span), fmt::format("'{}' is no address", name), why);
            return std::nullopt;
        }
        static constexpr E kTypes[] = {E::Byte, E::Word, E::None, E::Dword, E::None, E::None, E::None, E::Lword};
        std::uint32_t& size = address->area == Area::Input    ? logic_.input_bytes
                              : address->area == Area::Output ? logic_.output_bytes
                                                              : logic_.marker_bytes;
        size = std::max(size, address->byte + static_cast<std::uint32_t>(address->size));
        Found found;
        found.binding = {space_of(address->area), address->byte, address->bit};
        found.type.elementary = address->bit >= 0 ? E::Bool : kTypes[address->size - 1];
        found.writable = !(access == Access::Write && address->area == Area::Input);
        found.why_not_writable = "it is an input of the controller";
        return found;
    }

    static std::vector<std::string> names_of(const Layout& layout) {
        std::vector<std::string> names;
        for (const Field& f : layout.fields) names.push_back(f.name);
        return names;
    }
    std::vector<std::string> known_names() const {
        std::vector<std::string> names = names_of(unit_);
        for (const Field& f : logic_.globals.fields) names.push_back(f.name);
        return names;
    }

    CheckedLogic& logic_;
    Layout& unit_;
    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
};

/// Everything that is executed: the bodies.
class BodyChecker {
  public:
    BodyChecker(CheckedLogic& logic, Layout& layout, ProgramUnit& unit, base::Diagnostics& diagnostics)
        : logic_(logic),
          source_(unit.source),
          scope_(logic, layout, source_, diagnostics),
          expressions_(source_, scope_, diagnostics) {}

    void body(StatementList& list) {
        for (Statement& s : list) statement(s);
    }

  private:
    void statement(Statement& s) {
        switch (s.kind) {
            case StatementKind::Assign: return assign(*s.target, s.value);
            case StatementKind::Call: return call(*s.value);
            case StatementKind::If: return branches(s, "the condition of IF");
            case StatementKind::Case: return case_statement(s);
            case StatementKind::For: return for_statement(s);
            case StatementKind::While:
            case StatementKind::Repeat:
                expressions_.check(s.value, E::Bool, "the condition of the loop");
                ++loops_;
                body(s.branches[0].body);
                --loops_;
                return;
            case StatementKind::Exit:
            case StatementKind::Continue:
                if (loops_ == 0) expressions_.error(Code::Syntax, s.span, "EXIT and CONTINUE stand only inside a loop");
                return;
            case StatementKind::Return: return;
        }
    }

    void branches(Statement& s, const char* what) {
        for (Branch& b : s.branches) {
            if (b.condition) expressions_.check(b.condition, E::Bool, what);
            body(b.body);
        }
    }

    /// Binds the left side of an assignment; its type, or None after a report.
    E target(Expression& left) {
        if (left.kind != ExpressionKind::Name && left.kind != ExpressionKind::Direct) {
            expressions_.error(Code::NotAssignable, left.span, "only a variable can be assigned to");
            return E::None;
        }
        const auto found = scope_.find(left.name, left.span, Access::Write);
        if (!found) return E::None;
        if (found->type.is(E::Block)) {
            expressions_.error(
                Code::NotAssignable, left.span,
                fmt::format("'{}' is a function block; call it, or assign to one of its inputs", left.name));
            return E::None;
        }
        if (!found->writable) {
            expressions_.error(Code::NotAssignable, left.span,
                               fmt::format("'{}' cannot be written: {}", left.name, found->why_not_writable));
            return E::None;
        }
        left.binding = found->binding;
        left.type = found->type;
        return found->type.elementary;
    }

    void assign(Expression& left, ExpressionPtr& right) {
        const E type = target(left);
        if (type == E::None) {
            expressions_.infer(right);
            return;
        }
        expressions_.check(right, type, fmt::format("'{}'", left.name));
    }

    void call(Expression& e) {
        const auto found = scope_.find(e.name, e.span, Access::Write);
        if (!found) return;
        if (!found->type.is(E::Block)) {
            expressions_.error(
                Code::WrongCall, e.span,
                fmt::format("'{}' is {}, not a function block", e.name, type_name(found->type.elementary)));
            return;
        }
        e.binding = found->binding;
        e.type = found->type;
        Layout& block = logic_.blocks[static_cast<std::size_t>(found->type.block)];
        std::size_t position = 0;
        for (Argument& a : e.arguments) argument(block, a, position);
    }

    void argument(Layout& block, Argument& a, std::size_t& position) {
        if (a.name.empty()) {
            while (position < block.fields.size() && block.fields[position].section != Section::Input) ++position;
            if (position == block.fields.size()) {
                expressions_.error(Code::WrongCall, a.value->span, fmt::format("{} has no more inputs", block.name));
                return;
            }
            a.field = static_cast<int>(position++);
        } else {
            const auto found = block.by_name.find(base::fold(a.name));
            const Section wanted = a.output ? Section::Output : Section::Input;
            if (found == block.by_name.end() ||
                block.fields[static_cast<std::size_t>(found->second)].section != wanted) {
                std::vector<std::string> known;
                for (const Field& f : block.fields) {
                    if (f.section == wanted) known.push_back(f.name);
                }
                expressions_.error(Code::WrongCall, a.span,
                                   fmt::format("{} has no {} '{}'", block.name, a.output ? "output" : "input", a.name),
                                   base::name_hint(a.name, known));
                expressions_.infer(a.value);
                return;
            }
            a.field = found->second;
        }
        Field& field = block.fields[static_cast<std::size_t>(a.field)];
        field.read = field.written = true;
        if (!a.output) {
            expressions_.check(a.value, field.type.elementary, fmt::format("input {} of {}", field.name, block.name));
            return;
        }
        const E type = target(*a.value);
        if (type != E::None && !(type == field.type.elementary)) {
            expressions_.error(Code::TypeMismatch, a.value->span,
                               fmt::format("output {} is {}, but '{}' is {}", field.name,
                                           type_name(field.type.elementary), a.value->name, type_name(type)));
        }
    }

    void case_statement(Statement& s) {
        E type = expressions_.check_any(s.value);
        if (type != E::None && !is_integer(type) && !is_bit_string(type)) {
            expressions_.error(Code::TypeMismatch, s.value->span,
                               fmt::format("CASE needs a whole number, not {}", type_name(type)));
            type = E::None;
        }
        for (Branch& b : s.branches) {
            for (CaseLabel& label : b.labels) {
                for (ExpressionPtr* part : {&label.low, &label.high}) {
                    if (*part && type != E::None) case_label(*part, type);
                }
            }
            body(b.body);
        }
    }

    void case_label(ExpressionPtr& label, E type) {
        if (!expressions_.check(label, type, "the CASE")) return;
        const Expression* e = label.get();
        while (e->kind == ExpressionKind::Convert) e = e->operands[0].get();
        if (e->kind == ExpressionKind::Literal) return;
        const Field* field = e->kind == ExpressionKind::Name ? constant(e->name) : nullptr;
        if (field == nullptr)
            expressions_.error(Code::WrongValue, label->span, "a CASE label is a number or a CONSTANT");
    }

    const Field* constant(const std::string& name) {
        const Field* f = logic_.globals.find(name);
        for (Layout& block : logic_.blocks) {
            if (block.unit != nullptr && block.unit->source == source_ && f == nullptr) f = block.find(name);
        }
        return f != nullptr && f->constant ? f : nullptr;
    }

    void for_statement(Statement& s) {
        const E type = target(*s.target);
        if (type != E::None && !is_integer(type)) {
            expressions_.error(
                Code::TypeMismatch, s.target->span,
                fmt::format("FOR counts with a whole number, '{}' is {}", s.target->name, type_name(type)));
        } else if (type != E::None) {
            scope_.find(s.target->name, s.target->span, Access::Read);
            expressions_.check(s.value, type, "the start of FOR");
            expressions_.check(s.limit, type, "the end of FOR");
            if (s.step) expressions_.check(s.step, type, "the step of FOR");
        }
        ++loops_;
        body(s.branches[0].body);
        --loops_;
    }

    CheckedLogic& logic_;
    base::SourcePtr source_;
    UnitScope scope_;
    ExpressionChecker expressions_;
    int loops_ = 0;
};

/// Initial values are literals (a sign is folded in by the parser).
void check_initial(Declaration& d, const TypeRef& type, const base::SourcePtr& source, CheckedLogic& logic,
                   base::Diagnostics& diagnostics) {
    if (!d.initial) return;
    if (type.is(E::Block) || type.is(E::None)) {
        if (type.is(E::Block))
            diagnostics.error(Code::NotSupported, place_in(source, d.initial->span),
                              "initial values of function block instances are not supported by this version");
        return;
    }
    if (d.initial->kind != ExpressionKind::Literal) {
        diagnostics.error(Code::WrongValue, place_in(source, d.initial->span), "an initial value is a literal");
        return;
    }
    Layout none;
    UnitScope scope(logic, none, source, diagnostics);
    ExpressionChecker(source, scope, diagnostics).check(d.initial, type.elementary, fmt::format("'{}'", d.name));
    if (d.initial->kind == ExpressionKind::Convert) {  // INT#5 for a DINT: keep the literal, of the wider type
        ExpressionPtr inner = std::move(d.initial->operands[0]);
        if (is_real(type.elementary) && !is_real(inner->type.elementary))
            inner->real = static_cast<double>(inner->integer) * (inner->negative ? -1.0 : 1.0);
        inner->type = type;
        d.initial = std::move(inner);
    }
}

void warn_unused(const Layout& layout, base::Diagnostics& diagnostics) {
    for (const Field& f : layout.fields) {
        if (f.declaration == nullptr || f.address || f.section == Section::Global) continue;
        const bool interface = f.section == Section::Input || f.section == Section::Output;
        if (!f.read && !f.written && !interface) {
            diagnostics.warning(Code::UnusedVariable, place_in(f.source, f.declaration->span),
                                fmt::format("'{}' is never used", f.name));
        } else if (f.read && !f.written && f.section == Section::Local && !f.constant && !f.declaration->initial &&
                   !f.type.is(E::Block)) {
            diagnostics.warning(Code::NeverWritten, place_in(f.source, f.declaration->span),
                                fmt::format("'{}' is read, but nothing ever writes it", f.name));
        }
    }
}

}  // namespace

CheckedLogic check_logic(std::vector<SyntaxFile> files, base::Diagnostics& diagnostics) {
    CheckedLogic logic;
    logic.files = std::move(files);
    DeclarationChecker(logic, diagnostics).run();
    for (SyntaxFile& file : logic.files) {
        for (Declaration& d : file.globals) {
            if (const Field* f = logic.globals.find(d.name)) check_initial(d, f->type, file.source, logic, diagnostics);
        }
        for (ProgramUnit& unit : file.units) {
            Layout* layout = nullptr;
            for (Layout& block : logic.blocks) {
                if (block.unit == &unit) layout = &block;
            }
            if (layout == nullptr) continue;
            for (Declaration& d : unit.declarations) {
                const Field* f = layout->find(d.name);
                if (d.section == Section::Global) f = logic.globals.find(d.name);
                if (f != nullptr) check_initial(d, f->type, file.source, logic, diagnostics);
            }
            BodyChecker(logic, *layout, unit, diagnostics).body(unit.body);
        }
    }
    if (!diagnostics.has_errors()) {
        for (const Layout& block : logic.blocks) warn_unused(block, diagnostics);
    }
    return logic;
}

}  // namespace vyard::logic
