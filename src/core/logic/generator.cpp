#include "core/logic/generator.hpp"

#include <algorithm>
#include <deque>
#include <map>

#include "core/logic/code_writer.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

std::uint32_t round_up(std::uint32_t n) {
    return (n + 7) / 8 * 8;
}

class Generator {
  public:
    explicit Generator(const CheckedLogic& logic)
        : logic_(logic), bases_(place()), writer_(data_end_), expressions_(writer_, bases_) {}

    Program declare() {
        initial_.resize(data_end_);
        describe();
        writer_.emit(Op::End, 0, 0, 0, {});
        finish();
        return std::move(program_);
    }

    Program run() {
        for (const SyntaxFile& file : logic_.files) program_.sources.push_back(file.source);
        initial_.resize(data_end_);
        describe();
        for (std::size_t i = 0; i < logic_.programs.size(); ++i) {
            unit(logic_.blocks[static_cast<std::size_t>(logic_.programs[i])], program_bases_[i]);
        }
        writer_.emit(Op::End, 0, 0, 0, {});
        while (!waiting_.empty()) {
            const auto [block, base] = waiting_.front();
            waiting_.pop_front();
            instance(block, base);
        }
        for (const auto& [call, key] : calls_) writer_.land(call, entries_.at(key));
        finish();
        return std::move(program_);
    }

  private:
    using InstanceKey = std::pair<int, std::uint32_t>;
    Bases place() {
        Bases b;
        std::uint32_t at = 0;
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
        for (const int p : logic_.programs)
            program_bases_.push_back(take(logic_.blocks[static_cast<std::size_t>(p)].size));
        data_end_ = at;
        return b;
    }

    // --- the variable list and initial values ---
    void describe() {
        describe_layout(logic_.globals, bases_.globals, "", false);
        for (std::size_t i = 0; i < logic_.programs.size(); ++i) {
            const Layout& p = logic_.blocks[static_cast<std::size_t>(logic_.programs[i])];
            describe_layout(p, program_bases_[i], p.name + ".", false);
        }
    }

    void describe_layout(const Layout& layout, std::uint32_t base, const std::string& prefix, bool nested) {
        Bases bases = bases_;
        bases.instance = base;
        for (const Field& f : layout.fields) {
            if (f.section == Section::External || f.binding.space == Space::None) continue;
            const std::uint32_t offset = bases.of(f.binding.space) + f.binding.offset;
            if (f.type.is(E::Block)) {
                describe_layout(logic_.blocks[static_cast<std::size_t>(f.type.block)], offset, prefix + f.name + ".",
                                true);
                continue;
            }
            Variable v;
            v.path = prefix + f.name;
            v.type = f.type.elementary;
            v.offset = offset;
            v.bit = f.binding.bit;
            v.section = f.section;
            if (f.address) v.address = *f.address;
            v.is_tag = !nested && (f.section == Section::Global || f.address.has_value());
            v.constant = f.constant;
            v.read = f.read;
            v.written = f.written;
            if (f.declaration != nullptr) {
                v.place = place_in(f.source, f.declaration->span);
                v.description = f.declaration->description;
                if (f.declaration->initial) write_initial(v, *f.declaration->initial);
            }
            program_.by_path.emplace(base::fold(v.path), static_cast<int>(program_.variables.size()));
            program_.variables.push_back(std::move(v));
        }
    }

    void write_initial(const Variable& v, const Expression& literal) {
        if (v.bit >= 0) {
            write_number(initial_.data(), v.type, v.offset, v.bit, static_cast<double>(literal.integer));
            return;
        }
        std::vector<std::byte> bytes(8);
        CodeWriter scratch(0);
        scratch.constant(v.type, literal);
        scratch.fill(bytes);
        std::copy_n(bytes.begin(), type_size(v.type), initial_.begin() + v.offset);
    }

    // --- code ---
    void unit(const Layout& layout, std::uint32_t base) {
        bases_.instance = base;
        returns_.clear();
        const auto file = std::find_if(logic_.files.begin(), logic_.files.end(),
                                       [&](const SyntaxFile& f) { return f.source == layout.unit->source; });
        writer_.source = static_cast<int>(file - logic_.files.begin());
        body(layout.unit->body);
        for (const std::uint32_t jump : returns_) writer_.land(jump, writer_.here());
    }

    void instance(int block, std::uint32_t base) {
        const Layout& layout = logic_.blocks[static_cast<std::size_t>(block)];
        entries_[{block, base}] = writer_.here();
        unit(layout, base);
        writer_.emit(Op::Return, 0, 0, 0, layout.unit->span);
    }

    void body(const StatementList& list) {
        for (const Statement& s : list) {
            writer_.release_temporaries();
            statement(s);
        }
    }

    void statement(const Statement& s) {
        switch (s.kind) {
            case StatementKind::Assign: return expressions_.assign(s.target->binding, *s.value);
            case StatementKind::Call: return call(*s.value);
            case StatementKind::If: return if_statement(s);
            case StatementKind::Case: return case_statement(s);
            case StatementKind::For: return for_statement(s);
            case StatementKind::While: return while_statement(s);
            case StatementKind::Repeat: return repeat_statement(s);
            case StatementKind::Exit: loops_.back().exits.push_back(jump(s.span)); return;
            case StatementKind::Continue: loops_.back().continues.push_back(jump(s.span)); return;
            case StatementKind::Return: returns_.push_back(jump(s.span)); return;
        }
    }

    std::uint32_t jump(Span span) { return writer_.emit(Op::Jump, 0, 0, 0, span); }

    void call(const Expression& e) {
        const auto number = static_cast<std::size_t>(e.type.block);
        const Layout& block = logic_.blocks[number];
        const std::uint32_t base = expressions_.address(e.binding);
        for (const Argument& a : e.arguments) {
            if (!a.output)
                expressions_.into(*a.value, base + block.fields[static_cast<std::size_t>(a.field)].binding.offset);
        }
        if (block.standard) {
            writer_.emit(*block.standard, 0, base, 0, e.span);
        } else {
            const InstanceKey key{e.type.block, base};
            if (entries_.try_emplace(key, 0).second) waiting_.push_back(key);
            calls_.emplace_back(writer_.emit(Op::Call, 0, 0, 0, e.span), key);
        }
        for (const Argument& a : e.arguments) {
            if (!a.output) continue;
            const Field& field = block.fields[static_cast<std::size_t>(a.field)];
            const std::uint32_t from = base + field.binding.offset;
            const Binding& to = a.value->binding;
            if (to.bit >= 0) {
                writer_.emit(Op::StoreBit, expressions_.address(to), from, static_cast<std::uint32_t>(to.bit), a.span);
            } else {
                expressions_.move(field.type.elementary, expressions_.address(to), from, a.span);
            }
        }
    }

    void if_statement(const Statement& s) {
        std::vector<std::uint32_t> ends;
        for (std::size_t i = 0; i < s.branches.size(); ++i) {
            const Branch& b = s.branches[i];
            writer_.release_temporaries();
            const bool last = i + 1 == s.branches.size();
            if (!b.condition) {
                body(b.body);
                break;
            }
            const std::uint32_t skip = expressions_.jump_unless(*b.condition);
            body(b.body);
            if (!last) ends.push_back(jump(s.span));
            writer_.land(skip, writer_.here());
        }
        for (const std::uint32_t end : ends) writer_.land(end, writer_.here());
    }

    void case_statement(const Statement& s) {
        const E type = s.value->type.elementary;
        const bool variable = s.value->kind == ExpressionKind::Name || s.value->kind == ExpressionKind::Direct;
        std::uint32_t selector = expressions_.value(*s.value);
        if (!variable && s.value->kind != ExpressionKind::Literal) {
            const std::uint32_t kept = writer_.keep(8);  // bodies reuse the temporaries
            expressions_.move(type, kept, selector, s.value->span);
            selector = kept;
        }
        std::vector<std::uint32_t> ends;
        for (const Branch& b : s.branches) {
            if (b.labels.empty()) {
                body(b.body);
                continue;
            }
            std::vector<std::uint32_t> hits;
            for (const CaseLabel& label : b.labels) {
                writer_.release_temporaries();
                hits.push_back(case_test(label, selector, type));
            }
            const std::uint32_t miss = jump(s.span);
            for (const std::uint32_t hit : hits) writer_.land(hit, writer_.here());
            body(b.body);
            ends.push_back(jump(s.span));
            writer_.land(miss, writer_.here());
        }
        for (const std::uint32_t end : ends) writer_.land(end, writer_.here());
    }

    std::uint32_t case_test(const CaseLabel& label, std::uint32_t selector, E type) {
        const Span span = label.low->span;
        const std::uint32_t hit = writer_.temporary();
        if (!label.high) {
            writer_.emit(pick(Op::EqualI8, type), hit, selector, expressions_.value(*label.low), span);
        } else {
            const std::uint32_t below = writer_.temporary();
            writer_.emit(pick(Op::LessEqualI8, type), hit, expressions_.value(*label.low), selector, span);
            writer_.emit(pick(Op::LessEqualI8, type), below, selector, expressions_.value(*label.high), span);
            writer_.emit(Op::BoolAnd, hit, hit, below, span);
        }
        return writer_.emit(Op::JumpIf, 0, 0, hit, span);
    }

    struct Loop {
        std::vector<std::uint32_t> exits;
        std::vector<std::uint32_t> continues;
    };

    void loop_body(const Statement& s) {
        loops_.emplace_back();
        body(s.branches[0].body);
        writer_.release_temporaries();
        for (const std::uint32_t c : loops_.back().continues) writer_.land(c, writer_.here());
    }
    void end_loop() {
        for (const std::uint32_t e : loops_.back().exits) writer_.land(e, writer_.here());
        loops_.pop_back();
    }

    void while_statement(const Statement& s) {
        const std::uint32_t top = writer_.here();
        const std::uint32_t leave = expressions_.jump_unless(*s.value);
        loop_body(s);
        writer_.emit(Op::LoopBack, 0, top, 0, s.span);
        writer_.land(leave, writer_.here());
        end_loop();
    }

    void repeat_statement(const Statement& s) {
        const std::uint32_t top = writer_.here();
        loop_body(s);
        const std::uint32_t condition = expressions_.value(*s.value);
        const std::uint32_t leave = writer_.emit(Op::JumpIf, 0, 0, condition, s.span);
        writer_.emit(Op::LoopBack, 0, top, 0, s.span);
        writer_.land(leave, writer_.here());
        end_loop();
    }

    /// Limit and step are taken once, at the start. A counter that would pass the end of its type leaves the loop.
    void for_statement(const Statement& s) {
        const E type = s.target->type.elementary;
        const Binding& target = s.target->binding;
        const std::uint32_t counter = expressions_.address(target);
        const std::uint32_t limit = writer_.keep(8);
        const std::uint32_t step = writer_.keep(8);
        const std::uint32_t test = writer_.keep(8);
        const std::uint32_t next = writer_.keep(8);
        expressions_.into(*s.limit, limit);
        if (s.step) {
            expressions_.into(*s.step, step);
        } else {
            expressions_.move(type, step, writer_.constant_integer(type, 1), s.span);
        }
        expressions_.assign(target, *s.value);
        const std::uint32_t zero = writer_.constant_integer(type, 0);
        const std::uint32_t top = writer_.here();
        const auto compare_by_direction = [&](Op family, std::uint32_t low, std::uint32_t high) {
            const bool known = !s.step || s.step->kind == ExpressionKind::Literal;
            const bool down = known && s.step && s.step->negative;
            if (known) {
                writer_.emit(pick(family, type), test, down ? high : low, down ? low : high, s.span);
                return;
            }
            writer_.emit(pick(Op::LessI8, type), test, step, zero, s.span);
            const std::uint32_t downwards = writer_.emit(Op::JumpIf, 0, 0, test, s.span);
            writer_.emit(pick(family, type), test, low, high, s.span);
            const std::uint32_t join = jump(s.span);
            writer_.land(downwards, writer_.here());
            writer_.emit(pick(family, type), test, high, low, s.span);
            writer_.land(join, writer_.here());
        };
        compare_by_direction(Op::LessEqualI8, counter, limit);
        const std::uint32_t leave = writer_.emit(Op::JumpUnless, 0, 0, test, s.span);
        loop_body(s);
        writer_.emit(pick(Op::AddI8, type), next, counter, step, s.span);
        compare_by_direction(Op::LessEqualI8, counter, next);
        const std::uint32_t wrapped = writer_.emit(Op::JumpUnless, 0, 0, test, s.span);
        expressions_.move(type, counter, next, s.span);
        writer_.emit(Op::LoopBack, 0, top, 0, s.span);
        writer_.land(leave, writer_.here());
        writer_.land(wrapped, writer_.here());
        end_loop();
    }

    void finish() {
        program_.inputs = {bases_.inputs, logic_.input_bytes};
        program_.outputs = {bases_.outputs, logic_.output_bytes};
        program_.markers = {bases_.markers, logic_.marker_bytes};
        program_.tags_end = tags_end_;
        program_.data_end = data_end_;
        program_.initial_memory = std::move(initial_);
        writer_.fill(program_.initial_memory);
        program_.code = std::move(writer_.code);
        program_.places = std::move(writer_.places);
    }

    const CheckedLogic& logic_;
    std::vector<std::uint32_t> program_bases_;
    std::uint32_t data_end_ = 0, tags_end_ = 0;
    Bases bases_;
    CodeWriter writer_;
    ExpressionWriter expressions_;
    Program program_;
    std::vector<std::byte> initial_;
    std::map<InstanceKey, std::uint32_t> entries_;
    std::deque<InstanceKey> waiting_;
    std::vector<std::pair<std::uint32_t, InstanceKey>> calls_;
    std::vector<Loop> loops_;
    std::vector<std::uint32_t> returns_;
};

}  // namespace

Program generate(const CheckedLogic& logic) {
    return Generator(logic).run();
}

Program declare(const CheckedLogic& logic) {
    return Generator(logic).declare();
}

}  // namespace vyard::logic
