#include "core/logic/code/generator.hpp"

#include <algorithm>
#include <map>

#include "core/logic/code/statement_writer.hpp"
#include "core/logic/code/variable_lister.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

std::uint32_t round_up(std::uint32_t n) {
    return (n + 7) / 8 * 8;
}

class Generator {
  public:
    Generator(const CheckedLogic& logic, bool coverage)
        : coverage_(coverage), logic_(logic), bases_(place()), writer_(data_end_) {}

    Program run(bool with_code) {
        memory_.resize(data_end_);
        VariableLister lister(logic_, bases_, program_, memory_);
        lister.globals();
        for (std::size_t i = 0; i < logic_.programs.size(); ++i) {
            const ProgramInstance& p = logic_.programs[i];
            lister.instance(logic_.block(p.block), program_bases_[i], p.name + ".");
            configure(p, program_bases_[i]);
        }
        lister.direct_addresses();
        for (const SyntaxFile& file : logic_.files) program_.sources.push_back(file.source);
        if (with_code) {
            for (std::size_t i = 0; i < logic_.files.size(); ++i)
                source_numbers_[logic_.files[i].source.get()] = static_cast<int>(i);
            reserve_frames();
            tasks();
            units();
            link();
        } else {
            program_.tasks.push_back({"", base::Nanoseconds{}, 0, writer_.emit(Op::End, 0, 0, 0, {})});
        }
        finish();
        return std::move(program_);
    }

  private:
    Bases place() {
        Bases b;
        std::uint32_t at = 8;  // nothing lies at address 0, which is NULL
        const auto take = [&](std::uint32_t bytes) {
            const std::uint32_t begin = at;
            at += round_up(bytes);
            return begin;
        };
        b.inputs = take(logic_.input_bytes);
        b.outputs = take(logic_.output_bytes);
        b.markers = take(logic_.marker_bytes);
        b.globals = take(logic_.globals.size);
        tags_end_ = at;
        for (const ProgramInstance& p : logic_.programs) program_bases_.push_back(take(logic_.block(p.block).size));
        data_end_ = at;
        return b;
    }

    void reserve_frames() {
        const std::size_t count = logic_.blocks.size();
        calls_.frames.resize(count);
        calls_.regions.resize(count);
        calls_.method_numbers.resize(count);
        calls_.standard_routines.resize(count);
        std::map<std::string, std::uint32_t> numbers;
        std::vector<std::uint32_t> sizes;
        for (std::size_t i = 0; i < count; ++i) {
            const Layout& layout = logic_.blocks[i];
            if (layout.frame_size > 0) calls_.frames[i] = writer_.keep(layout.frame_size);
            if (layout.kind != LayoutKind::Method) continue;
            const auto [number, fresh] =
                numbers.try_emplace(base::fold(layout.unit->name), static_cast<std::uint32_t>(numbers.size()));
            calls_.method_numbers[i] = number->second;
            if (fresh) sizes.push_back(0);
            sizes[number->second] = std::max(sizes[number->second], layout.parameter_size);
        }
        std::vector<std::uint32_t> regions;
        regions.reserve(sizes.size());
        for (const std::uint32_t size : sizes) regions.push_back(writer_.keep(std::max(size, 8U)));
        for (std::size_t i = 0; i < count; ++i) {
            if (logic_.blocks[i].kind == LayoutKind::Method) calls_.regions[i] = regions[calls_.method_numbers[i]];
        }
        program_.methods = static_cast<std::uint32_t>(numbers.size());
    }

    void body_of(const Layout& layout, std::uint32_t instance, std::uint32_t frame) {
        Bases bases = bases_;
        bases.instance = instance;
        bases.frame = frame;
        writer_.begin_unit();
        writer_.source = source_numbers_.at(layout.unit->source.get());
        const bool ours = !layout.unit->source->path.starts_with("library/");
        const bool owned = layout.kind == LayoutKind::Method;
        const std::string name =
            owned ? logic_.block(layout.owner).unit->name + "." + layout.unit->name : layout.unit->name;
        StatementWriter(writer_, bases, logic_, calls_, coverage_ && ours ? &cover_ : nullptr)
            .unit(layout.unit->body, name, layout.unit->span);
    }

    /// VAR_TEMP starts anew with every call.
    void clear_temporaries(const Layout& layout, std::uint32_t frame) {
        if (layout.frame_size > 0 && (layout.kind == LayoutKind::Program || layout.kind == LayoutKind::FunctionBlock))
            writer_.emit(Op::CopyBytes, frame, writer_.blob(layout.frame_image), layout.frame_size, layout.unit->span);
    }

    /// What VAR_CONFIG says: values at power-up, and variables that people see at their address.
    void configure(const ProgramInstance& p, std::uint32_t base) {
        for (const ConfiguredValue& v : p.values)
            std::copy(v.bytes.begin(), v.bytes.end(), memory_.begin() + base + v.offset);
        for (const ConfiguredLink& l : p.links) {
            const auto found = program_.by_path.find(base::fold(p.name + "." + l.path));
            if (found == program_.by_path.end()) continue;
            Variable& v = base::at(program_.variables, found->second);
            const std::uint32_t at = bases_.of(l.binding.space) + l.binding.offset;
            write_number(memory_.data(), v.type, at, l.binding.bit,
                         read_number(memory_.data(), v.type, v.offset, v.bit));
            v.offset = at;
            v.bit = l.binding.bit;
            v.address = l.address;
            v.is_tag = true;
        }
    }

    void program_instance(std::size_t i) {
        const ProgramInstance& p = logic_.programs[i];
        const Layout& layout = logic_.block(p.block);
        const std::uint32_t frame = base::at(calls_.frames, p.block);
        around(p, program_bases_[i], true);
        writer_.source = source_numbers_.at(layout.unit->source.get());
        clear_temporaries(layout, frame);
        body_of(layout, program_bases_[i], frame);
        around(p, program_bases_[i], false);
    }

    /// What the configuration does before and after a program: its arguments, and addresses of what it shares.
    void around(const ProgramInstance& p, std::uint32_t base, bool before) {
        if (p.links.empty() && !p.call) return;
        writer_.begin_unit();
        writer_.source = source_numbers_.at(p.source.get());
        ExpressionWriter expressions(writer_, bases_, &logic_, &calls_);
        for (const ConfiguredLink& l : p.links) {
            const Place inside{base + l.offset, false, 0, -1};
            const Place area{bases_.of(l.binding.space) + l.binding.offset, false, 0, l.binding.bit};
            const bool wanted = l.address.area == Area::Memory || (l.address.area == Area::Input) == before;
            if (wanted) expressions.copy(before ? inside : area, before ? area : inside, l.type, l.span);
        }
        if (p.call && before) expressions.pass_arguments(*p.call, logic_.block(p.block), base);
        if (p.call && !before) expressions.take_arguments(*p.call, logic_.block(p.block), base);
    }

    /// One piece of code a task; what has no task runs in every scan, behind the others.
    void tasks() {
        std::vector<int> order;
        for (std::size_t t = 0; t < logic_.tasks.size(); ++t) order.push_back(static_cast<int>(t));
        std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
            return base::at(logic_.tasks, a).priority < base::at(logic_.tasks, b).priority;
        });
        order.push_back(-1);
        for (const int t : order) {
            const bool any = std::any_of(logic_.programs.begin(), logic_.programs.end(),
                                         [&](const ProgramInstance& p) { return p.task == t; });
            if (!any && !(t < 0 && program_.tasks.empty())) continue;
            Task task;
            task.entry = writer_.here();
            const TaskModel* model = t >= 0 ? &base::at(logic_.tasks, t) : nullptr;
            std::optional<std::uint32_t> skip;
            if (model != nullptr) {
                task.name = model->name;
                task.priority = model->priority;
                if (model->single) {
                    skip = on_rising(*model->single);
                } else {
                    task.interval = base::Nanoseconds(model->interval_ns);
                }
            }
            for (std::size_t i = 0; i < logic_.programs.size(); ++i) {
                if (logic_.programs[i].task == t) program_instance(i);
            }
            if (skip) writer_.land(*skip, writer_.here());
            writer_.emit(Op::End, 0, 0, 0, {});
            program_.tasks.push_back(std::move(task));
        }
    }

    /// SINGLE: the task runs once each time its condition rises (IEC 61131-3, 6.8.2).
    std::uint32_t on_rising(const Expression& single) {
        writer_.begin_unit();
        ExpressionWriter expressions(writer_, bases_, &logic_, &calls_);
        const std::uint32_t now = writer_.keep(1), last = writer_.keep(1), rises = writer_.keep(1);
        expressions.into(single, now);
        writer_.emit(Op::BoolAndNot, rises, now, last, single.span);
        writer_.emit(Op::Move8, last, now, 0, single.span);
        return writer_.emit(Op::JumpUnless, 0, 0, rises, single.span);
    }

    void units() {
        entries_.resize(logic_.blocks.size());
        lengths_.resize(logic_.blocks.size());
        for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
            const Layout& layout = logic_.blocks[i];
            if (layout.kind == LayoutKind::Interface || layout.kind == LayoutKind::Program ||
                layout.kind == LayoutKind::Globals)
                continue;
            const bool prototype =
                layout.kind == LayoutKind::Method && logic_.block(layout.owner).kind == LayoutKind::Interface;
            if (prototype) continue;
            const bool standard = layout.standard.has_value();
            if (standard && !calls_.standard_routines[i]) continue;
            entries_[i] = writer_.here();
            if (standard) {
                writer_.emit(*layout.standard, 0, kSelf, 0, {});
                writer_.emit(Op::Return, 0, 0, 0, {});
            } else {
                unit(layout, static_cast<int>(i));
            }
            lengths_[i] = writer_.here() - entries_[i];
        }
        // A routine of a standard block may have been asked for by a unit behind it.
        for (std::size_t i = 0; i < logic_.blocks.size(); ++i) {
            if (!logic_.blocks[i].standard || !calls_.standard_routines[i] || lengths_[i] != 0) continue;
            entries_[i] = writer_.here();
            writer_.emit(*logic_.blocks[i].standard, 0, kSelf, 0, {});
            writer_.emit(Op::Return, 0, 0, 0, {});
            lengths_[i] = 2;
        }
    }

    void unit(const Layout& layout, int number) {
        const std::uint32_t frame = base::at(calls_.frames, number);
        const std::uint32_t region = base::at(calls_.regions, number);
        const bool method = layout.kind == LayoutKind::Method;
        writer_.source = source_numbers_.at(layout.unit->source.get());
        const Span span = layout.unit->span;
        if (method && layout.frame_size > 0) {
            writer_.emit(Op::CopyBytes, frame, writer_.blob(layout.frame_image), layout.frame_size, span);
            if (layout.parameter_size > 0) writer_.emit(Op::CopyBytes, frame, region, layout.parameter_size, span);
        }
        clear_temporaries(layout, frame);
        body_of(layout, kSelf, frame);
        if (method && layout.parameter_size > 0)
            writer_.emit(Op::CopyBytes, region, frame, layout.parameter_size, span);
        writer_.emit(Op::Return, 0, 0, 0, span);
    }

    void link() {
        for (const auto& [at, block] : calls_.calls) {
            const auto number = static_cast<std::size_t>(block);
            writer_.land(at, entries_[number]);
            if (writer_.code[at].op() != Op::CallIndirect) writer_.code[at].b = std::max(lengths_[number], 1U);
        }
        if (program_.methods == 0) return;
        program_.dispatch.assign(logic_.blocks.size() * program_.methods, 0);
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
            if (logic_.blocks[b].kind != LayoutKind::FunctionBlock) continue;
            for (std::size_t m = 0; m < logic_.blocks.size(); ++m) {
                const Layout& method = logic_.blocks[m];
                if (method.kind != LayoutKind::Method || logic_.block(method.owner).kind == LayoutKind::Interface)
                    continue;
                if (logic_.find_method(static_cast<int>(b), base::fold(method.unit->name)) == static_cast<int>(m))
                    program_.dispatch[b * program_.methods + calls_.method_numbers[m]] = entries_[m];
            }
        }
    }

    void finish() {
        program_.inputs = {bases_.inputs, logic_.input_bytes};
        program_.outputs = {bases_.outputs, logic_.output_bytes};
        program_.markers = {bases_.markers, logic_.marker_bytes};
        program_.globals_begin = bases_.globals;
        for (std::size_t i = 0; i < logic_.programs.size(); ++i)
            program_.programs.push_back({logic_.programs[i].name, logic_.programs[i].block, program_bases_[i]});
        program_.tags_end = tags_end_;
        program_.data_end = data_end_;
        program_.initial_memory = std::move(memory_);
        writer_.fill(program_.initial_memory);
        program_.code = std::move(writer_.code);
        program_.tables = std::move(writer_.tables);
        program_.places = std::move(writer_.places);
    }

    bool coverage_;
    const CheckedLogic& logic_;
    std::vector<std::uint32_t> program_bases_;
    std::uint32_t data_end_ = 0, tags_end_ = 0;
    Bases bases_;
    CodeWriter writer_;
    CallTable calls_;
    Program program_;
    CoverList cover_{program_.marks, program_.lines};
    Bytes memory_;
    std::map<const base::SourceText*, int> source_numbers_;
    std::vector<std::uint32_t> entries_, lengths_;
};

}  // namespace

Program generate(const CheckedLogic& logic, bool coverage) {
    return Generator(logic, coverage).run(true);
}
Program declare(const CheckedLogic& logic) {
    return Generator(logic, false).run(false);
}

}  // namespace vyard::logic
