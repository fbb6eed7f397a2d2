#include "core/logic/influence.hpp"

#include <algorithm>
#include <optional>
#include <vector>

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Walks the bodies of checked logic.
class InfluenceReader {
  public:
    using Node = Influence::Node;
    using Nodes = std::set<Node>;

    InfluenceReader(const CheckedLogic& logic, Influence& out) : logic_(logic), out_(out) {}

    void run() {
        for (const Field& f : logic_.globals.fields) {
            const std::string name = base::fold(f.name);
            out_.globals_[name] = {-1, static_cast<int>(f.binding.space), f.binding.offset, f.binding.bit};
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
            const auto read = globals_read_.find(block);
            if (read != globals_read_.end()) out_.from_[instance].insert(read->second.begin(), read->second.end());
        }
    }

  private:
    std::optional<Node> node_of(const Expression& e) const {
        const bool named = e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Direct;
        if (!named || e.binding.space == Space::None) return std::nullopt;
        const bool own = e.binding.space == Space::Instance || e.binding.space == Space::Frame;
        return Node{own ? unit_ : -1, static_cast<int>(e.binding.space), e.binding.offset, e.binding.bit};
    }
    /// The variable that a place is a part of.
    std::optional<Node> root_of(const Expression& e) const {
        const Expression* at = &e;
        while ((at->kind == ExpressionKind::Member || at->kind == ExpressionKind::Index ||
                at->kind == ExpressionKind::Partial || at->kind == ExpressionKind::Dereference) &&
               !at->operands.empty())
            at = at->operands[0].get();
        return node_of(*at);
    }

    void read(const Expression& e, Nodes& out) {
        if (const auto node = node_of(e)) {
            out.insert(*node);
            if (std::get<0>(*node) == -1) read_of_unit_.insert(*node);
        }
        for (const ExpressionPtr& o : e.operands) read(*o, out);
        for (const Argument& a : e.arguments) {
            if (a.value) read(*a.value, out);
        }
        if (e.kind == ExpressionKind::Call) call(e, {});
    }

    void write(const Expression& target, const Nodes& because) {
        const auto node = root_of(target);
        if (!node || target.kind == ExpressionKind::Dereference) {
            out_.untold_ = true;
            return;
        }
        if (target.kind == ExpressionKind::Direct || target.kind == ExpressionKind::Partial) out_.untold_ = true;
        Nodes& from = out_.from_[*node];
        from.insert(because.begin(), because.end());
        for (const ExpressionPtr& o : target.operands) read(*o, from);
    }

    void call(const Expression& e, const Nodes& around) {
        Nodes given = around;
        for (const Argument& a : e.arguments) {
            if (a.value && !a.output) read(*a.value, given);
        }
        std::optional<Node> instance;
        if (e.call == CallKind::Block && !e.operands.empty()) instance = root_of(*e.operands[0]);
        if (instance) {
            out_.from_[*instance].insert(given.begin(), given.end());
            if (e.detail >= 0) {
                instances_.emplace(*instance, e.detail);
                inputs(e, around);
            }
            given.insert(*instance);
        }
        for (const Argument& a : e.arguments) {
            if (!a.value) continue;
            const bool place = a.value->kind == ExpressionKind::Name || a.value->kind == ExpressionKind::Member ||
                               a.value->kind == ExpressionKind::Index;
            if (a.output || (place && handed_over(e, a))) write(*a.value, given);
        }
    }
    /// What goes into the inputs of a block, for its body.
    void inputs(const Expression& e, const Nodes& around) {
        const Layout& block = logic_.block(e.detail);
        for (const Argument& a : e.arguments) {
            if (!a.value || a.output || a.field < 0 || static_cast<std::size_t>(a.field) >= block.fields.size())
                continue;
            const Binding& b = base::at(block.fields, a.field).binding;
            Nodes& from = out_.from_[Node{e.detail, static_cast<int>(b.space), b.offset, b.bit}];
            from.insert(around.begin(), around.end());
            read(*a.value, from);
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

    void body(const StatementList& list, const Nodes& around) {
        Nodes now = around;
        for (const Statement& s : list) statement(s, now);
    }

    /// What a RETURN, EXIT or jump depends on has a say in all that stands behind it.
    void statement(const Statement& s, Nodes& around) {
        switch (s.kind) {
            case StatementKind::Assign:
            case StatementKind::AssignReference:
            case StatementKind::Attempt: {
                Nodes because = around;
                if (s.value) read(*s.value, because);
                if (s.target) write(*s.target, because);
                return;
            }
            case StatementKind::Call: return call(*s.value, around);
            default: break;
        }
        Nodes inside = around;
        for (const Expression* e : {s.value.get(), s.limit.get(), s.step.get()}) {
            if (e != nullptr) read(*e, inside);
        }
        if (s.target) write(*s.target, inside);
        bool leaves = s.kind == StatementKind::Jump;
        for (const Branch& b : s.branches) {
            // Conditions above have a say in those below: they were FALSE.
            if (b.condition) read(*b.condition, inside);
            body(b.body, inside);
            leaves = leaves || leaves_early(b.body);
        }
        if (leaves) around.insert(inside.begin(), inside.end());
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
    Nodes read_of_unit_;
    std::map<int, Nodes> globals_read_;
    std::map<Node, int> instances_;
};

Influence::Influence(const Program& program) {
    if (program.checked == nullptr) {
        untold_ = true;
        return;
    }
    InfluenceReader(*program.checked, *this).run();
}

bool Influence::has_a_say(const std::string& from, const std::string& to) const {
    const auto source = globals_.find(base::fold(from)), target = globals_.find(base::fold(to));
    if (untold_ || source == globals_.end() || target == globals_.end()) return true;
    std::set<Node> seen = {target->second};
    std::vector<Node> open = {target->second};
    while (!open.empty()) {
        const Node now = open.back();
        open.pop_back();
        if (now == source->second) return true;
        const auto next = from_.find(now);
        if (next == from_.end()) continue;
        for (const Node& n : next->second) {
            if (seen.insert(n).second) open.push_back(n);
        }
    }
    return false;
}

base::Place Influence::declared(const std::string& name) const {
    const auto found = places_.find(base::fold(name));
    return found == places_.end() ? base::Place{} : found->second;
}

}  // namespace vyard::logic
