#include "core/logic/analysis/written.hpp"

#include <algorithm>

#include "core/logic/infix_text.hpp"
#include "core/logic/library/standard_functions.hpp"

namespace vyard::logic {

namespace {

using E = Elementary;

class WriteReader {
  public:
    explicit WriteReader(const CheckedLogic& logic) : logic_(logic) {}

    Written run() {
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
            const Layout& block = logic_.blocks[b];
            const int number = static_cast<int>(b);
            if (block.owner >= 0) out_.shared.insert(home_of(logic_, number));
            if (block.parent >= 0) {
                out_.shared.insert(number);
                out_.shared.insert(home_of(logic_, number));
                out_.shared.insert(block.parent);
            }
            if (block.unit == nullptr) continue;
            unit_ = number;
            body(block.unit->body);
        }
        for (const ProgramInstance& p : logic_.programs) {
            if (p.call == nullptr && p.values.empty() && p.links.empty()) continue;
            for (const Field& f : logic_.block(p.block).fields) out_.opaque.insert(node_at(logic_, f.binding, p.block));
        }
        areas();
        return std::move(out_);
    }

  private:
    /// Variables that share bits, and those of an area that is written by address.
    void areas() {
        struct Located {
            Node node;
            std::uint32_t end;
        };
        std::map<Space, std::vector<Located>> all;
        const auto collect = [&](const Layout& layout, int unit) {
            for (const Field& f : layout.fields) {
                const Space space = f.binding.space;
                if (space != Space::Inputs && space != Space::Outputs && space != Space::Markers) continue;
                const std::uint32_t size = f.binding.bit >= 0 ? 1 : logic_.size_of(f.type);
                all[space].push_back({node_at(logic_, f.binding, unit), f.binding.offset + std::max(size, 1U)});
            }
        };
        collect(logic_.globals, -1);
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) collect(logic_.blocks[b], static_cast<int>(b));
        for (auto& [space, list] : all) {
            std::sort(list.begin(), list.end(), [](const Located& a, const Located& b) { return a.node < b.node; });
            const Located* before = nullptr;
            for (const Located& l : list) {
                const bool bits = before != nullptr && before->node.bit >= 0 && l.node.bit >= 0;
                if (before != nullptr && !bits && l.node.offset < before->end && l.node != before->node) {
                    out_.opaque.insert(l.node);
                    out_.opaque.insert(before->node);
                }
                if (by_address_.contains(space)) out_.opaque.insert(l.node);
                if (before == nullptr || l.end > before->end) before = &l;
            }
        }
    }

    void body(const StatementList& list) {
        for (const Statement& s : list) statement(s);
    }

    void statement(const Statement& s) {
        const bool loops =
            s.kind == StatementKind::For || s.kind == StatementKind::While || s.kind == StatementKind::Repeat;
        if (loops) around_.push_back(&s);
        if (loops) out_.loops[&s];
        if (s.kind == StatementKind::Exit || s.kind == StatementKind::Return || s.kind == StatementKind::Jump) {
            for (const Statement* loop : around_) out_.loops[loop].leaves = true;
        }
        if (s.target) target(*s.target);
        for (const Expression* e : {s.value.get(), s.limit.get(), s.step.get()}) {
            if (e != nullptr) expression(*e);
        }
        for (const Branch& b : s.branches) {
            if (b.condition) expression(*b.condition);
            for (const CaseLabel& label : b.labels) case_label(s, label);
            body(b.body);
        }
        if (loops) around_.pop_back();
    }

    void write(const Node& node) {
        out_.by[node].insert(unit_);
        for (const Statement* loop : around_) out_.loops[loop].nodes.insert(node);
    }

    void target(const Expression& e) {
        for (const ExpressionPtr& o : e.operands) expression(*o);
        if (e.kind == ExpressionKind::Direct) by_address_.insert(e.binding.space);
        if (e.kind == ExpressionKind::Name) {
            if (const auto node = node_of(logic_, e, unit_)) write(*node);
            return;
        }
        if (const auto node = field_of(e)) return write(*node);
        if (e.kind == ExpressionKind::Member && !e.operands.empty() && e.operands[0]->type.is(E::Block) &&
            logic_.block(e.operands[0]->type.index).standard) {
            if (const auto root = root_of(logic_, e, unit_)) out_.opaque.insert(*root);
            return;
        }
        if (const auto root = root_of(logic_, e, unit_)) out_.opaque.insert(*root);
    }

    std::optional<Node> field_of(const Expression& e) const {
        if (e.kind != ExpressionKind::Member || e.operands.empty() || !e.operands[0]->type.is(E::Block))
            return std::nullopt;
        const int block = e.operands[0]->type.index;
        const Field* f = logic_.block(block).find(e.name);
        if (logic_.block(block).unit == nullptr || f == nullptr) return std::nullopt;
        return node_at(logic_, f->binding, block);
    }

    void expression(const Expression& e) {
        for (const ExpressionPtr& o : e.operands) expression(*o);
        for (const Argument& a : e.arguments) {
            if (a.value) expression(*a.value);
        }
        if (e.kind == ExpressionKind::Binary && is_comparison(e.op)) comparison(e);
        if (e.kind == ExpressionKind::Call) call(e);
    }

    void call(const Expression& e) {
        if (e.call == CallKind::Standard) {
            const bool reference = static_cast<Function>(e.detail) == Function::Reference;
            for (const Argument& a : e.arguments) {
                if (a.value && reference) touch(*a.value);
                if (a.value && a.output) target(*a.value);
            }
            return;
        }
        const Layout* callee = e.detail >= 0 ? &logic_.block(e.detail) : nullptr;
        if (callee != nullptr && callee->unit != nullptr) {
            for (const Statement* loop : around_) out_.loops[loop].calls = true;
        }
        for (const Argument& a : e.arguments) {
            if (!a.value) continue;
            if (a.output) {
                target(*a.value);
            } else if (callee == nullptr || (a.field < 0 && a.field != kEnable)) {
                touch(*a.value);
            } else if (a.field >= 0) {
                const Field& f = base::at(callee->fields, a.field);
                if (f.section == Section::InOut) touch(*a.value);
                if (callee->unit != nullptr && f.section != Section::InOut) write(node_at(logic_, f.binding, e.detail));
            }
        }
    }
    void touch(const Expression& e) {
        if (const auto root = root_of(logic_, e, unit_)) out_.opaque.insert(*root);
        if (const auto field = field_of(e)) out_.opaque.insert(*field);
    }

    void comparison(const Expression& e) {
        for (int side = 0; side < 2; ++side)
            threshold(written(*base::at(e.operands, side)), written(*base::at(e.operands, 1 - side)));
    }
    void case_label(const Statement& s, const CaseLabel& label) {
        for (const Expression* e : {label.low.get(), label.high.get()}) {
            if (e != nullptr) threshold(written(*s.value), *e);
        }
    }
    void threshold(const Expression& variable, const Expression& number) {
        if (number.kind != ExpressionKind::Literal) return;
        const auto node = field_of(variable) ? field_of(variable) : node_of(logic_, variable, unit_);
        if (!node) return;
        Interval::Number value = is_real(number.type.elementary) ? static_cast<Interval::Number>(number.real)
                                                                 : static_cast<Interval::Number>(number.integer);
        if (!is_real(number.type.elementary) && number.negative) value = -value;
        out_.named[*node].insert(value);
        auto& known = out_.compared_with[*node];
        for (const int apart : {-1, 0, 1}) known.insert(value + apart);
    }

    const CheckedLogic& logic_;
    Written out_;
    int unit_ = -1;
    std::vector<const Statement*> around_;
    std::set<Space> by_address_;
};

}  // namespace

int Written::only_writer(const Node& node) const {
    const auto found = by.find(node);
    if (found == by.end() || found->second.size() != 1 || opaque.contains(node) || node.space == Space::Frame)
        return -1;
    const int unit = *found->second.begin();
    // Of an instance it is its own body, and nobody else's.
    if (node.space == Space::Instance && (unit != node.unit || shared.contains(node.unit))) return -1;
    return unit;
}

Written find_written(const CheckedLogic& logic) {
    return WriteReader(logic).run();
}

}  // namespace vyard::logic
