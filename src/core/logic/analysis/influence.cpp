#include "core/logic/analysis/influence.hpp"

#include <algorithm>
#include <optional>
#include <vector>

#include "core/logic/infix_text.hpp"

namespace vyard::logic {

namespace {

constexpr Pull kTowards{true, false}, kBoth{true, true};

Pull turned(Pull p) {
    return {p.down, p.up};
}
/// A pull on what has itself a pull.
Pull through(Pull first, Pull second) {
    return {(first.up && second.up) || (first.down && second.down),
            (first.up && second.down) || (first.down && second.up)};
}

}  // namespace

/// Walks the bodies of checked logic.
class InfluenceReader {
  public:
    using Pulls = Influence::Pulls;

    InfluenceReader(const CheckedLogic& logic, Influence& out) : logic_(logic), out_(out) {}

    void run() {
        for (const Field& f : logic_.globals.fields) {
            const std::string name = base::fold(f.name);
            out_.globals_[name] = node_at(logic_, f.binding, -1);
            if (f.declaration != nullptr) out_.places_[name] = place_in(f.source, f.declaration->span);
        }
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
            const Layout& block = logic_.blocks[b];
            if (block.unit == nullptr) continue;
            unit_ = static_cast<int>(b);
            read_of_unit_.clear();
            body(block.unit->body, {});
            globals_read_[unit_] = read_of_unit_;
        }
        // A block's outputs come of the globals that its body reads, too.
        for (const auto& [instance, block] : instances_) {
            for (const Node& read : globals_read_[block]) add(out_.from_[instance], read, kBoth);
        }
    }

  private:
    static void add(Pulls& pulls, const Node& node, Pull pull) {
        Pull& p = pulls[node];
        p = {p.up || pull.up, p.down || pull.down};
    }
    static void add_all(Pulls& pulls, const Pulls& more, Pull by) {
        for (const auto& [node, pull] : more) add(pulls, node, through(pull, by));
    }

    /// What an expression comes of, and how that pulls what it is for by `pull`.
    void read(const Expression& e, Pulls& out, Pull pull) {
        if (const auto node = node_of(logic_, e, unit_)) {
            add(out, *node, pull);
            if (node->unit == -1) read_of_unit_.insert(*node);
        }
        const bool joins = e.kind == ExpressionKind::Binary && e.type.is(Elementary::Bool) &&
                           (e.op == Operator::And || e.op == Operator::Or);
        const bool part = e.kind == ExpressionKind::Member || &written(e) != &e;
        const bool turns = e.kind == ExpressionKind::Unary && e.op == Operator::Not;
        const Pull inner = turns ? turned(pull) : joins || part ? pull : kBoth;
        for (const ExpressionPtr& o : e.operands) read(*o, out, inner);
        for (const Argument& a : e.arguments) {
            if (a.value) read(*a.value, out, kBoth);
        }
        if (e.kind == ExpressionKind::Member && !e.operands.empty()) step_time(e);
        if (e.kind == ExpressionKind::Call) call(e, {});
    }
    /// STEP.T: how long a step of a chart lasts.
    void step_time(const Expression& e) {
        const TypeRef& type = e.operands[0]->type;
        if (!type.is(Elementary::Block) || logic_.block(type.index).standard != Op::ChartStep ||
            base::fold(e.name) != "t")
            return;
        if (const auto root = root_of(logic_, e, unit_)) out_.timers_.insert(*root);
    }

    void write(const Expression& target, const Pulls& because) {
        const auto node = root_of(logic_, target, unit_);
        if (!node || target.kind == ExpressionKind::Dereference) {
            out_.untold_ = true;
            return;
        }
        if (target.kind == ExpressionKind::Direct || target.kind == ExpressionKind::Partial) out_.untold_ = true;
        Pulls& from = out_.from_[*node];
        add_all(from, because, kTowards);
        for (const ExpressionPtr& o : target.operands) read(*o, from, kBoth);
    }

    /// How an input of a standard block pulls its Q.
    static Pull of_input(const Layout& block, const std::string& field) {
        const std::string name = base::fold(field);
        if (block.name == "F_TRIG") return name == "clk" ? turned(kTowards) : kBoth;
        if (block.name == "TON" || block.name == "TOF" || block.name == "TP" || block.name == "R_TRIG")
            return name == "in" || name == "clk" ? kTowards : kBoth;
        if (block.name == "SR" || block.name == "RS") return name[0] == 's' ? kTowards : turned(kTowards);
        return kBoth;
    }

    void call(const Expression& e, const Pulls& around) {
        Pulls given;
        add_all(given, around, kBoth);
        const Layout* block = e.call == CallKind::Block && e.detail >= 0 ? &logic_.block(e.detail) : nullptr;
        for (const Argument& a : e.arguments) {
            if (!a.value || a.output) continue;
            const bool told = block != nullptr && block->standard && a.field >= 0;
            read(*a.value, given, told ? of_input(*block, base::at(block->fields, a.field).name) : kBoth);
        }
        std::optional<Node> instance;
        if (e.call == CallKind::Block && !e.operands.empty()) instance = root_of(logic_, *e.operands[0], unit_);
        if (instance) {
            add_all(out_.from_[*instance], given, kTowards);
            if (e.detail >= 0) {
                instances_.emplace(*instance, e.detail);
                if (logic_.holds_timer(e.detail)) out_.timers_.insert(*instance);
                inputs(e, around);
            }
            given = {{*instance, kTowards}};
        }
        for (const Argument& a : e.arguments) {
            if (!a.value) continue;
            const bool place = a.value->kind == ExpressionKind::Name || a.value->kind == ExpressionKind::Member ||
                               a.value->kind == ExpressionKind::Index;
            if (a.output || (place && handed_over(e, a))) write(*a.value, given);
        }
    }
    /// What goes into the inputs of a block, for its body.
    void inputs(const Expression& e, const Pulls& around) {
        const Layout& block = logic_.block(e.detail);
        for (const Argument& a : e.arguments) {
            if (!a.value || a.output || a.field < 0 || static_cast<std::size_t>(a.field) >= block.fields.size())
                continue;
            const Binding& b = base::at(block.fields, a.field).binding;
            Pulls& from = out_.from_[node_at(logic_, b, e.detail)];
            add_all(from, around, kBoth);
            read(*a.value, from, kTowards);
        }
    }
    bool handed_over(const Expression& call, const Argument& a) const {
        if (call.call != CallKind::Block && call.call != CallKind::Function && call.call != CallKind::Method)
            return false;
        if (call.detail < 0 || a.field < 0) return false;
        const Layout& block = logic_.block(call.detail);
        return static_cast<std::size_t>(a.field) < block.fields.size() &&
               base::at(block.fields, a.field).section == Section::InOut;
    }

    void body(const StatementList& list, const Pulls& around) {
        Pulls now = around;
        for (const Statement& s : list) statement(s, now);
    }

    void assign(const Statement& s, const Pulls& around) {
        // A condition around x := TRUE pulls x up, around x := FALSE down.
        const bool literal = s.value && s.value->kind == ExpressionKind::Literal && s.value->type.is(Elementary::Bool);
        Pulls because;
        add_all(because, around, !literal ? kBoth : s.value->integer != 0 ? kTowards : turned(kTowards));
        const bool truth = s.value && s.value->type.is(Elementary::Bool);
        if (s.value) read(*s.value, because, truth ? kTowards : kBoth);
        if (s.target) write(*s.target, because);
    }

    /// What a RETURN, EXIT or jump depends on has a say in all that stands behind it.
    void statement(const Statement& s, Pulls& around) {
        switch (s.kind) {
            case StatementKind::Assign:
            case StatementKind::AssignReference:
            case StatementKind::Attempt: return assign(s, around);
            case StatementKind::Call: return call(*s.value, around);
            default: break;
        }
        Pulls inside = around;
        for (const Expression* e : {s.value.get(), s.limit.get(), s.step.get()}) {
            if (e != nullptr) read(*e, inside, kBoth);
        }
        if (s.target) write(*s.target, inside);
        bool leaves = s.kind == StatementKind::Jump;
        for (const Branch& b : s.branches) {
            // Conditions above have a say in those below: they were FALSE.
            Pulls within = inside;
            if (b.condition) {
                read(*b.condition, within, s.kind == StatementKind::If ? kTowards : kBoth);
                read(*b.condition, inside, s.kind == StatementKind::If ? turned(kTowards) : kBoth);
            }
            body(b.body, within);
            leaves = leaves || leaves_early(b.body);
        }
        if (leaves) add_all(around, inside, kBoth);
    }
    static bool leaves_early(const StatementList& list) {
        return std::any_of(list.begin(), list.end(), [](const Statement& s) {
            return s.kind == StatementKind::Return || s.kind == StatementKind::Exit ||
                   s.kind == StatementKind::Continue || s.kind == StatementKind::Jump ||
                   std::any_of(s.branches.begin(), s.branches.end(),
                               [](const Branch& b) { return leaves_early(b.body); });
        });
    }

    const CheckedLogic& logic_;
    Influence& out_;
    int unit_ = -1;
    std::set<Node> read_of_unit_;
    std::map<int, std::set<Node>> globals_read_;
    std::map<Node, int> instances_;
};

Influence::Influence(const Program& program) {
    if (program.checked == nullptr) {
        untold_ = true;
        return;
    }
    InfluenceReader(*program.checked, *this).run();
}

Pull Influence::pull(const Node& from, const Node& to) const {
    std::map<Node, Pull> seen = {{to, kTowards}};
    std::vector<std::pair<Node, Pull>> open = {{to, kTowards}};
    while (!open.empty()) {
        const auto [now, by] = open.back();
        open.pop_back();
        const auto next = from_.find(now);
        if (next == from_.end()) continue;
        for (const auto& [node, pull] : next->second) {
            const Pull further = through(pull, by);
            Pull& known = seen[node];
            const Pull both{known.up || further.up, known.down || further.down};
            if (both == known) continue;
            known = both;
            open.emplace_back(node, further);
        }
    }
    const auto found = seen.find(from);
    return found == seen.end() ? Pull{} : found->second;
}

Pull Influence::pull(const std::string& from, const std::string& to) const {
    const auto source = globals_.find(base::fold(from)), target = globals_.find(base::fold(to));
    if (untold_ || source == globals_.end() || target == globals_.end()) return kBoth;
    return pull(source->second, target->second);
}

bool Influence::is_timed(const std::string& from) const {
    const auto source = globals_.find(base::fold(from));
    if (untold_ || source == globals_.end()) return true;
    return std::any_of(timers_.begin(), timers_.end(),
                       [&](const Node& timer) { return pull(source->second, timer).any(); });
}

base::Place Influence::declared(const std::string& name) const {
    const auto found = places_.find(base::fold(name));
    return found == places_.end() ? base::Place{} : found->second;
}

}  // namespace vyard::logic
