#include "core/logic/analysis/doubts.hpp"

#include <fmt/format.h>

#include <map>
#include <optional>
#include <set>
#include <tuple>

#include "core/logic/analysis/node.hpp"
#include "core/logic/check/constants.hpp"
#include "core/logic/infix_text.hpp"

namespace vyard::logic {

namespace {

using base::Code;
using E = Elementary;

/// Its value, when it is one of literals and constants.
std::optional<std::int64_t> constant_of(const Expression& e) {
    const ExpressionPtr copy = clone(e);
    if (!fold(*copy) || copy->kind != ExpressionKind::Literal) return std::nullopt;
    return literal_integer(*copy);
}

/// How a variable is written, over all bodies.
struct Writes {
    int holding = 0;  ///< x := x OR ..., or x := TRUE under a condition.
    int others = 0;
    base::SourcePtr source;
    Span span;
    std::string name;
    bool mixed = false;  ///< x := x OR a AND b
    bool sets = false;   ///< The first of them is x := TRUE.
};

/// A block that stores one bit: SR or RS.
struct Bistable {
    base::Place place;
    std::string name, kind, reset;
    bool can_reset = false;
};

class Doubts {
  public:
    Doubts(const CheckedLogic& logic, base::Diagnostics& diagnostics) : logic_(logic), diagnostics_(diagnostics) {}

    void run() {
        for (std::size_t b = 0; b < logic_.blocks.size(); ++b) {
            const Layout& block = logic_.blocks[b];
            if (block.unit == nullptr) continue;
            unit_ = static_cast<int>(b);
            source_ = block.unit->source;
            own_ = !source_->path.starts_with("library/");
            body(block.unit->body);
        }
        for (const auto& [variable, w] : writes_) {
            if (w.holding == 0 || w.others > 0) continue;
            diagnostics_.warning(Code::NeverOff, place_in(w.source, w.span),
                                 fmt::format("once '{}' is TRUE, nothing makes it FALSE again", w.name),
                                 w.mixed  ? "AND binds closer than OR: write (" + w.name + " OR ...) AND ..."
                                 : w.sets ? "set it to FALSE where what it stands for is over"
                                          : "let what ends it stand behind an AND, or reset it elsewhere");
        }
        for (const auto& [node, b] : bistables_) {
            if (b.can_reset || written_inside_.contains(node)) continue;
            diagnostics_.warning(Code::NeverOff, b.place,
                                 fmt::format("once '{}' ({}) is set, nothing resets it", b.name, b.kind),
                                 fmt::format("give its input {} what ends it", b.reset));
        }
        steps();
        unread();
    }

  private:
    struct Case {
        const Statement* statement = nullptr;
        Node selector;
        base::SourcePtr source;
        std::vector<int> writes;  ///< By branch.
    };

    void body(const StatementList& list) {
        for (const Statement& s : list) statement(s);
    }

    void statement(const Statement& s) {
        if (s.target) note_write(s);
        for (const Expression* e : {s.value.get(), s.limit.get(), s.step.get()}) {
            if (e != nullptr) note_calls(*e);
        }
        if (s.kind == StatementKind::For && own_) for_loop(s);
        if (s.kind == StatementKind::Case) return case_statement(s);
        const std::size_t around = conditions_.size();
        for (const Branch& b : s.branches) {
            if (b.condition) {
                note_calls(*b.condition);
                conditions_.push_back(b.condition.get());
            }
            body(b.body);
        }
        conditions_.resize(around);
    }

    void add_other(const Node& v) {
        ++writes_[v].others;
        for (auto& [c, branch] : open_) {
            if (base::at(cases_, c).selector == v) ++base::at(base::at(cases_, c).writes, branch);
        }
        bool within = false;
        for (const auto& [c, branch] : open_) within = within || base::at(cases_, c).selector == v;
        if (!within) ++outside_[v];
    }

    void note_write(const Statement& s) {
        if (s.target->kind == ExpressionKind::Member) note_input(*s.target);
        const auto v = variable_of(*s.target);
        if (!v) return;
        const bool looks = s.kind == StatementKind::Assign && own_ && !s.generated && s.value &&
                           s.target->type.is(E::Bool) && s.target->kind == ExpressionKind::Name &&
                           v->space != Space::Frame;
        const bool sets = looks && sets_under_condition(s, *v);
        if (!sets && !(looks && stays(*s.value, *v))) return add_other(*v);
        Writes& w = writes_[*v];
        if (w.holding++ > 0) return;
        w.source = source_;
        w.span = s.target->span;
        w.name = s.target->name;
        w.mixed = !sets && mixes(*s.value);
        w.sets = sets;
    }
    /// x := TRUE where a condition stands around it; not one that says it once: IF NOT x THEN ... x := TRUE.
    bool sets_under_condition(const Statement& s, const Node& v) const {
        return !conditions_.empty() && constant_of(*s.value) == 1 &&
               std::none_of(conditions_.begin(), conditions_.end(), [&](const Expression* c) { return names(*c, v); });
    }
    bool names(const Expression& e, const Node& v) const {
        return variable_of(e) == v ||
               std::any_of(e.operands.begin(), e.operands.end(), [&](const auto& o) { return names(*o, v); });
    }
    /// block.input, written outside of a call.
    void note_input(const Expression& e) {
        if (e.operands.empty() || !e.operands[0]->type.is(E::Block)) return;
        if (const auto instance = variable_of(*e.operands[0])) written_inside_.insert(*instance);
    }

    /// x := x OR ...: TRUE once it was.
    bool stays(const Expression& value, const Node& v) const {
        if (value.kind == ExpressionKind::Binary && value.op == Operator::Or)
            return stays(*value.operands[0], v) || stays(*value.operands[1], v);
        return variable_of(value) == v;
    }
    bool mixes(const Expression& value) const {
        if (value.kind != ExpressionKind::Binary) return false;
        if (value.op == Operator::And) return true;
        return value.op == Operator::Or && (mixes(*value.operands[0]) || mixes(*value.operands[1]));
    }

    /// REAL of a quotient of whole numbers, by a conversion that somebody wrote.
    void lost_fraction(const Expression& e) {
        if (e.kind != ExpressionKind::Convert || e.detail != kConvertNamed || !is_real(e.type.elementary)) return;
        const Expression& inner = written(*e.operands[0]);
        const bool quotient = inner.kind == ExpressionKind::Binary && inner.op == Operator::Divide;
        if (!own_ || !quotient || !is_integer(inner.type.elementary)) return;
        diagnostics_.warning(Code::ComputedNarrow, place_in(source_, inner.span),
                             fmt::format("this divides as {} and loses its fraction before it becomes {}",
                                         type_name(inner.type.elementary), type_name(e.type.elementary)),
                             "convert first, and divide then");
    }

    /// Timers and counters: which are called, and of which anything is looked at.
    void note_block(const Expression& e) {
        if (e.kind == ExpressionKind::Name && e.type.is(E::Block)) {
            if (const auto node = node_of(logic_, e, unit_)) looked_at_.insert(*node);
        }
        const bool calls = e.kind == ExpressionKind::Call && e.call == CallKind::Block && e.detail >= 0 &&
                           !e.operands.empty() && e.operands[0]->kind == ExpressionKind::Name;
        const auto node = calls ? node_of(logic_, *e.operands[0], unit_) : std::nullopt;
        if (!node) return;
        const bool taken =
            std::any_of(e.arguments.begin(), e.arguments.end(), [](const Argument& a) { return a.output && a.value; });
        if (taken) looked_at_.insert(*node);
        const Layout& block = logic_.block(e.detail);
        note_bistable(e, block, *node);
        if (block.standard && own_ && (block.find("et") != nullptr || block.find("cv") != nullptr))
            called_.try_emplace(*node, place_in(source_, e.span), e.operands[0]->name, block.name);
    }
    void note_bistable(const Expression& e, const Layout& block, const Node& node) {
        if (!block.standard || !own_ || (block.name != "SR" && block.name != "RS")) return;
        const char* reset = block.name == "SR" ? "R" : "R1";
        Bistable& b =
            bistables_.try_emplace(node, Bistable{place_in(source_, e.span), e.operands[0]->name, block.name, reset})
                .first->second;
        for (const Argument& a : e.arguments) {
            const bool resets = a.value && !a.output && a.field >= 0 &&
                                base::fold(base::at(block.fields, a.field).name) == base::fold(reset);
            if (resets && constant_of(*a.value) != 0) b.can_reset = true;
        }
    }
    void unread() {
        for (const auto& [node, called] : called_) {
            if (looked_at_.contains(node)) continue;
            diagnostics_.warning(Code::NeverRead, std::get<0>(called),
                                 fmt::format("'{}' ({}) is called, and nothing reads what it gives",
                                             std::get<1>(called), std::get<2>(called)));
        }
    }

    /// What calls write: outputs, and whatever is handed over to be written.
    void note_calls(const Expression& e) {
        lost_fraction(e);
        note_block(e);
        for (const ExpressionPtr& o : e.operands) {
            const bool called = e.kind == ExpressionKind::Call && o->kind == ExpressionKind::Name;
            if (!called) note_calls(*o);
        }
        for (const Argument& a : e.arguments) {
            if (!a.value) continue;
            note_calls(*a.value);
            const auto v = variable_of(*a.value);
            if (v && (a.output || handed_over(e, a))) add_other(*v);
        }
    }
    bool handed_over(const Expression& call, const Argument& a) const {
        if (call.kind != ExpressionKind::Call || call.call == CallKind::Standard) return true;  // REF(x)
        if (call.detail < 0 || a.field < 0) return true;
        const Layout& block = logic_.block(call.detail);
        return static_cast<std::size_t>(a.field) >= block.fields.size() ||
               base::at(block.fields, a.field).section != Section::Input;
    }

    // --- steps of a CASE ---
    void case_statement(const Statement& s) {
        note_calls(*s.value);
        const auto selector = variable_of(written(*s.value));
        int number = -1;
        if (selector && own_ && !s.generated) {
            number = static_cast<int>(cases_.size());
            cases_.push_back({&s, *selector, source_, std::vector<int>(s.branches.size(), 0)});
        }
        for (std::size_t b = 0; b < s.branches.size(); ++b) {
            if (number >= 0) open_.emplace_back(number, static_cast<int>(b));
            body(s.branches[b].body);
            if (number >= 0) open_.pop_back();
        }
    }

    /// Of a variable that steps of its CASE set and nothing else does: those that do not.
    void steps() {
        for (const Case& c : cases_) {
            const auto outside = outside_.find(c.selector);
            const bool moves = std::any_of(c.writes.begin(), c.writes.end(), [](int n) { return n > 0; });
            if (!moves || (outside != outside_.end() && outside->second > 0)) continue;
            for (std::size_t b = 0; b < c.writes.size(); ++b) {
                const Branch& branch = c.statement->branches[b];
                if (c.writes[b] > 0 || branch.labels.empty()) continue;
                diagnostics_.warning(
                    Code::NoWayOut, place_in(c.source, branch.labels[0].low->span),
                    fmt::format("this step cannot be left: nothing in it sets '{}', and nothing else does",
                                written(*c.statement->value).name),
                    "set the next step here, or somewhere that is always executed");
            }
        }
    }

    // --- loops over arrays ---
    void for_loop(const Statement& s) {
        const auto i = variable_of(*s.target);
        const std::int64_t step = s.step ? constant_of(*s.step).value_or(0) : 1;
        if (!i || s.branches.empty() || step == 0) return;
        for (const Statement& inner : s.branches[0].body) {
            if (inner.kind == StatementKind::Assign) copies(inner, *i, step);
        }
    }

    /// a[i + 1] := a[i] with rising i: each time what has just been written.
    void copies(const Statement& s, const Node& i, std::int64_t step) {
        const Expression &to = *s.target, &from = written(*s.value);
        if (to.kind != ExpressionKind::Index || from.kind != ExpressionKind::Index || to.operands.size() != 2 ||
            from.operands.size() != 2)
            return;
        const auto a = variable_of(*to.operands[0]), b = variable_of(*from.operands[0]);
        const auto written = beyond(*to.operands[1], i), read = beyond(*from.operands[1], i);
        if (!a || a != b || !written || !read || (*written - *read) * step <= 0) return;
        diagnostics_.warning(Code::CopiesOver, place_in(source_, s.span),
                             fmt::format("each round reads what the one before has just written: '{}' ends up with one "
                                         "value in all its elements",
                                         to.operands[0]->name),
                             step > 0 ? "go through it downwards: FOR ... TO ... BY -1" : "go through it upwards");
    }

    std::optional<Node> variable_of(const Expression& e) const {
        return e.kind == ExpressionKind::Name && !e.binding.indirect ? node_of(logic_, e, unit_) : std::nullopt;
    }
    /// i + c, i - c or i: c.
    std::optional<std::int64_t> beyond(const Expression& index, const Node& i) const {
        const Expression& e = written(index);
        if (variable_of(e) == i) return 0;
        if (e.kind != ExpressionKind::Binary || e.operands.size() != 2) return std::nullopt;
        const bool adds = e.op == Operator::Add, takes = e.op == Operator::Subtract;
        if (!adds && !takes) return std::nullopt;
        if (variable_of(written(*e.operands[0])) == i) {
            const auto c = constant_of(*e.operands[1]);
            return c ? std::optional(adds ? *c : -*c) : std::nullopt;
        }
        if (!adds || variable_of(written(*e.operands[1])) != i) return std::nullopt;
        return constant_of(*e.operands[0]);
    }

    const CheckedLogic& logic_;
    base::Diagnostics& diagnostics_;
    int unit_ = -1;
    bool own_ = true;
    base::SourcePtr source_;
    std::map<Node, Writes> writes_;
    std::map<Node, std::tuple<base::Place, std::string, std::string>> called_;  ///< Place, name, kind.
    std::map<Node, Bistable> bistables_;
    std::set<Node> written_inside_;              ///< Blocks of which somebody outside writes a field.
    std::vector<const Expression*> conditions_;  ///< Around where it is.
    std::set<Node> looked_at_;
    std::map<Node, int> outside_;
    std::vector<Case> cases_;
    std::vector<std::pair<int, int>> open_;  ///< Cases and branches around.
};

}  // namespace

void warn_doubts(const CheckedLogic& logic, base::Diagnostics& diagnostics) {
    Doubts(logic, diagnostics).run();
}

}  // namespace vyard::logic
