// CONFIGURATION: tasks, program instances, VAR_CONFIG (IEC 61131-3, 6.8).
#include <fmt/format.h>

#include <algorithm>

#include "core/logic/check/declaration_checker.hpp"
#include "core/logic/check/expression_checker.hpp"

namespace vyard::logic {

using base::Code;
using E = Elementary;

void DeclarationChecker::add_configurations() {
    bool any = false;
    for (SyntaxFile& file : logic_.files) {
        for (Configuration& c : file.configurations) {
            any = true;
            add_configuration(c);
        }
    }
    if (any) return;
    for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
        if (logic_.blocks[i].kind == LayoutKind::Program) {
            ProgramInstance instance;
            instance.name = logic_.blocks[i].name;
            instance.block = static_cast<int>(i);
            logic_.programs.push_back(std::move(instance));
        }
    }
}

void DeclarationChecker::add_configuration(Configuration& c) {
    for (Resource& r : c.resources) {
        const std::size_t first_task = logic_.tasks.size();
        for (TaskDeclaration& t : r.tasks) add_task(t, c);
        for (ProgramDeclaration& p : r.programs) {
            const int block = unit_named(p.type, {});
            if (block < 0 || logic_.block(block).kind != LayoutKind::Program) {
                std::vector<std::string> known;
                for (const Layout& l : logic_.blocks) {
                    if (l.kind == LayoutKind::Program) known.push_back(l.name);
                }
                error(c.source, p.type_span, Code::UnknownType, fmt::format("no program is named '{}'", p.type),
                      base::name_hint(p.type, known));
                continue;
            }
            int task = -1;
            std::vector<std::string> known;
            for (std::size_t t = first_task; t < logic_.tasks.size(); ++t) {
                known.push_back(logic_.tasks[t].name);
                if (base::fold(logic_.tasks[t].name) == base::fold(p.task)) task = static_cast<int>(t);
            }
            if (!p.task.empty() && task < 0)
                error(c.source, p.task_span, Code::UnknownName, fmt::format("no task is named '{}'", p.task),
                      base::name_hint(p.task, known));
            for (const ProgramInstance& other : logic_.programs) {
                if (base::fold(other.name) == base::fold(p.name))
                    error(c.source, p.span, Code::DuplicateName, fmt::format("program '{}' is declared twice", p.name));
            }
            add_program(p, block, task, c);
        }
    }
    for (const ConfigDeclaration& d : c.config) apply_config(d, c);
}

void DeclarationChecker::add_program(ProgramDeclaration& p, int block, int task, const Configuration& c) {
    ProgramInstance instance;
    instance.name = p.name;
    instance.block = block;
    instance.task = task;
    instance.source = c.source;
    if (p.call) {
        const NameContext none;
        UnitScope scope(checking_, -1, none, c.source);
        p.call->detail = block;
        p.call->call = CallKind::Block;
        if (ExpressionChecker(c.source, scope, checking_.diagnostics).program_arguments(logic_.block(block), *p.call))
            instance.call = std::move(p.call);
    }
    logic_.programs.push_back(std::move(instance));
}

void DeclarationChecker::add_task(TaskDeclaration& t, const Configuration& c) {
    TaskModel task;
    task.name = t.name;
    const NameContext none;
    const Where where{c.source, none, -1};
    if (t.interval) {
        const auto interval = constant(t.interval, {E::Time, -1}, where, "INTERVAL");
        if (interval && *interval <= 0) error(c.source, t.interval->span, Code::OutOfRange, "INTERVAL is more than 0");
        task.interval_ns = interval.value_or(0);
    }
    if (t.priority) {
        const auto priority = constant(t.priority, {E::Uint, -1}, where, "PRIORITY");
        task.priority = priority.value_or(0);
    }
    if (t.single) {
        UnitScope scope(checking_, -1, none, c.source);
        ExpressionChecker(c.source, scope, checking_.diagnostics).check(t.single, E::Bool, "SINGLE");
        task.single = std::move(t.single);
    }
    logic_.tasks.push_back(std::move(task));
}

/// `resource.program.variable AT ... : type := value`, or without the resource.
void DeclarationChecker::apply_config(const ConfigDeclaration& d, const Configuration& c) {
    std::vector<std::string> parts;
    for (std::size_t at = 0; at <= d.path.size();) {
        const std::size_t dot = std::min(d.path.find('.', at), d.path.size());
        parts.push_back(d.path.substr(at, dot - at));
        at = dot + 1;
    }
    const bool resource =
        parts.size() > 2 && std::any_of(c.resources.begin(), c.resources.end(),
                                        [&](const Resource& r) { return base::fold(r.name) == base::fold(parts[0]); });
    if (resource) parts.erase(parts.begin());
    const auto program = std::find_if(logic_.programs.begin(), logic_.programs.end(), [&](const ProgramInstance& p) {
        return base::fold(p.name) == base::fold(parts[0]);
    });
    if (parts.size() < 2 || program == logic_.programs.end()) {
        error(c.source, d.span, Code::UnknownName, fmt::format("'{}' names no variable of a program", d.path));
        return;
    }
    parts.erase(parts.begin());
    const auto found = configured(*program, parts, d, c);
    if (!found) return;
    Field* field = found->field;
    const auto same_type = std::count_if(logic_.programs.begin(), logic_.programs.end(),
                                         [&](const ProgramInstance& p) { return p.block == program->block; });
    const bool alone = parts.size() == 1 && same_type == 1;
    const NameContext none;
    const Where where{c.source, none, -1};
    const TypeRef type = resolve(*d.type, where);
    if (!type.is(E::None) && !logic_.same(type, field->type)) {
        error(c.source, d.type->span, Code::TypeMismatch,
              fmt::format("'{}' is {}, not {}", d.path, logic_.text_of(field->type), logic_.text_of(type)));
        return;
    }
    if (!d.address.empty()) {
        if (!field->incomplete_address) {
            error(c.source, d.address_span, Code::BadAddress,
                  fmt::format("'{}' is not declared with an open address such as AT %I*", d.path));
            return;
        }
        Declaration located;
        located.name = parts.back();
        located.address = d.address;
        located.address_span = d.address_span;
        located.span = d.span;
        Field image = *field;
        image.incomplete_address = false;
        image.declaration = &located;
        locate(image, located, c.source);
        if (!image.address) return;
        if (alone) {  // its code can go to the address itself
            image.declaration = field->declaration;
            *field = std::move(image);
        } else {
            program->links.push_back({found->path, found->offset, field->type, image.binding, *image.address, d.span});
        }
    }
    if (!d.initial) return;
    ExpressionPtr& initial = const_cast<ConfigDeclaration&>(d).initial;
    if (alone) {
        settle(*field, {field->source, logic_.block(program->block).unit->context, program->block});
        write_initial(initial, field->type, field->initial.data(), fmt::format("'{}'", d.path), where);
        return;
    }
    ConfiguredValue value{found->offset, default_image(field->type)};
    if (write_initial(initial, field->type, value.bytes.data(), fmt::format("'{}'", d.path), where))
        program->values.push_back(std::move(value));
}

/// The variable at `parts` below a program instance: of the program, of a block in it, of a structure.
std::optional<DeclarationChecker::Configured> DeclarationChecker::configured(const ProgramInstance& program,
                                                                             const std::vector<std::string>& parts,
                                                                             const ConfigDeclaration& d,
                                                                             const Configuration& c) {
    Configured out;
    TypeRef type{E::Block, program.block};
    for (const std::string& part : parts) {
        std::vector<Field*> fields;
        if (type.is(E::Block)) {
            for (Field& f : logic_.block(type.index).fields) fields.push_back(&f);
        } else if (type.is(E::Structure)) {
            for (Field& f : logic_.type(type).fields) fields.push_back(&f);
        }
        std::vector<std::string> known;
        Field* next = nullptr;
        for (Field* f : fields) {
            known.push_back(f->name);
            if (base::fold(f->name) == base::fold(part)) next = f;
        }
        if (next == nullptr) {
            error(c.source, d.span, Code::UnknownName,
                  fmt::format("'{}' names no variable: {} has no '{}'", d.path, logic_.text_of(type), part),
                  base::name_hint(part, known));
            return std::nullopt;
        }
        const bool inside = next->section != Section::InOut && next->section != Section::External &&
                            next->section != Section::Temp && !next->address && !next->type.is(E::None);
        if (!inside) {
            error(c.source, d.span, Code::WrongValue,
                  fmt::format("'{}' is not a variable that VAR_CONFIG can reach", d.path),
                  "VAR_CONFIG is for variables that live in the instance");
            return std::nullopt;
        }
        out.field = next;
        out.offset += next->binding.offset;
        out.path += (out.path.empty() ? "" : ".") + next->name;
        type = next->type;
    }
    return out;
}

}  // namespace vyard::logic
