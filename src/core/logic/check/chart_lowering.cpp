#include "core/logic/check/chart_lowering.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic {

using base::Code;
using tree::argument;
using tree::assignment;
using tree::join;
using tree::member;
using tree::name;
using tree::negation;
using tree::truth;
using tree::when;

namespace {

class ChartLowering {
  public:
    ChartLowering(ProgramUnit& unit, base::Diagnostics& diagnostics)
        : unit_(unit), chart_(unit.chart), diagnostics_(diagnostics) {}

    void run() {
        check_names();
        if (bad_) return;
        declare();
        transitions();
        steps();
        actions();
        for (Statement& s : out_) s.generated = true;
        for (Statement& s : unit_.body) out_.push_back(std::move(s));
        unit_.body = std::move(out_);
    }

  private:
    static constexpr std::size_t kMostLeaving = 500;

    void error(Span span, Code code, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place_in(unit_.source, span), std::move(message), std::move(hint));
        bad_ = true;
    }

    void check_names() {
        std::vector<std::string> known;
        int initial = 0;
        for (const ChartStep& s : chart_.steps) {
            if (!steps_.emplace(base::fold(s.name), &s).second)
                error(s.span, Code::DuplicateName, fmt::format("step '{}' is declared twice", s.name));
            known.push_back(s.name);
            initial += s.initial ? 1 : 0;
        }
        if (initial != 1) {
            const Span span = chart_.steps.empty() ? unit_.span : chart_.steps.front().span;
            error(span, Code::WrongValue, fmt::format("a chart has one INITIAL_STEP, this one has {}", initial));
        }
        std::map<std::string, bool> reached;
        for (const ChartTransition& t : chart_.transitions) {
            for (const auto* side : {&t.from, &t.to}) {
                for (const auto& [step, span] : *side) {
                    if (!steps_.contains(base::fold(step)))
                        error(span, Code::UnknownName, fmt::format("no step is named '{}'", step),
                              base::name_hint(step, known));
                }
            }
            for (const auto& [step, span] : t.to) reached[base::fold(step)] = true;
        }
        index_transitions();
        for (const ChartStep& s : chart_.steps) {
            if (!s.initial && !reached.contains(base::fold(s.name)))
                diagnostics_.warning(Code::UnreachableStep, place_in(unit_.source, s.span),
                                     fmt::format("no transition leads to step '{}'", s.name));
            if (!leaving_.contains(base::fold(s.name)))
                diagnostics_.warning(Code::NoWayOut, place_in(unit_.source, s.span),
                                     fmt::format("no transition leaves step '{}'", s.name),
                                     "let one lead back to the initial step");
        }
        check_actions();
    }

    /// Which transitions leave and enter which step, in their order, so that large charts cost no more than their size.
    void index_transitions() {
        const auto add = [](std::vector<std::size_t>& list, std::size_t i) {
            if (list.empty() || list.back() != i) list.push_back(i);
        };
        for (std::size_t i = 0; i < chart_.transitions.size(); ++i) {
            for (const auto& [step, span] : chart_.transitions[i].from) add(leaving_[base::fold(step)], i);
            for (const auto& [step, span] : chart_.transitions[i].to) add(entering_[base::fold(step)], i);
        }
        for (const ChartStep& s : chart_.steps) {
            // Each of them looks at all before it.
            const auto found = leaving_.find(base::fold(s.name));
            if (found != leaving_.end() && found->second.size() > kMostLeaving)
                error(s.span, Code::TooDeep,
                      fmt::format("more than {} transitions leave step '{}'", kMostLeaving, s.name));
        }
    }

    void check_actions() {
        std::vector<std::string> known;
        for (ChartAction& a : chart_.actions) {
            if (!bodies_.emplace(base::fold(a.name), &a).second)
                error(a.span, Code::DuplicateName, fmt::format("action '{}' is declared twice", a.name));
            known.push_back(a.name);
        }
        for (const ChartStep& s : chart_.steps) {
            for (const StepAction& a : s.actions) {
                const std::string folded = base::fold(a.name);
                auto& uses = uses_[folded];
                if (uses.empty()) order_.push_back(folded);
                uses.emplace_back(&s, &a);
            }
        }
        for (const ChartAction& a : chart_.actions) {
            if (!uses_.contains(base::fold(a.name)))
                diagnostics_.warning(Code::UnusedVariable, place_in(unit_.source, a.span),
                                     fmt::format("action '{}' belongs to no step", a.name));
        }
    }

    void variable(const std::string& name, const char* type, Span span, ExpressionPtr initial = nullptr) {
        Declaration d = tree::variable(name, type, span);
        d.generated = name.find('$') != std::string::npos;
        d.initial = std::move(initial);
        unit_.declarations.push_back(std::move(d));
    }

    static std::string control(const std::string& action) { return fmt::format("{}$control", action); }

    void declare() {
        for (const ChartStep& s : chart_.steps) {
            ExpressionPtr initial;
            if (s.initial) {
                initial = std::make_unique<Expression>();
                initial->kind = ExpressionKind::Fields;
                initial->span = s.span;
                Argument a;
                a.name = std::string("X");
                a.span = s.span;
                a.value = truth(true, s.span);
                initial->arguments.push_back(std::move(a));
            }
            variable(s.name, "CHART_STEP", s.span, std::move(initial));
        }
        for (std::size_t i = 0; i < chart_.transitions.size(); ++i)
            variable(fired_name(i), "BOOL", chart_.transitions[i].span);
        for (const std::string& action : order_)
            variable(control(action), "ACTION_CONTROL", uses_[action].front().second->span);
        variable("chart$started", "BOOL", unit_.span);
    }

    bool goes_before(std::size_t a, std::size_t b) const {
        const auto rank = [&](std::size_t i) { return std::pair(chart_.transitions[i].priority, i); };
        return rank(a) < rank(b);
    }
    /// Those that leave one of its steps and are judged before it, in that order.
    std::vector<std::size_t> rivals_before(std::size_t transition) const {
        std::vector<std::size_t> out;
        for (const auto& [step, span] : chart_.transitions[transition].from) {
            for (const std::size_t other : leaving_.at(base::fold(step))) {
                if (other != transition && goes_before(other, transition)) out.push_back(other);
            }
        }
        std::sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) { return goes_before(a, b); });
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }

    /// A drawn condition is worked out while its steps are active, into a variable of the transition's name.
    void drawn_condition(ChartTransition& t) {
        if (t.body.empty()) return;
        const auto writes = [&](const DrawnElement& e) {
            return (e.kind == ElementKind::Coil || e.kind == ElementKind::Target) &&
                   base::fold(e.name.text) == base::fold(t.name);
        };
        const bool written = std::any_of(t.body.begin(), t.body.end(), [&](const Statement& s) {
            if (s.kind != StatementKind::Drawn) return true;
            return std::any_of(s.drawing->networks.begin(), s.drawing->networks.end(), [&](const Network& n) {
                return std::any_of(n.elements.begin(), n.elements.end(), writes);
            });
        });
        if (!written && !t.name.empty())
            error(t.span, Code::WrongValue, fmt::format("nothing of this drawing writes '{}'", t.name),
                  "a coil or an output of the transition's name is its condition");
        Declaration d = tree::variable(t.name, "BOOL", t.span);
        d.generated = true;
        unit_.declarations.push_back(std::move(d));
        out_.push_back(assignment(name(t.name, t.span), truth(false, t.span)));
        ExpressionPtr active;
        for (const auto& [step, span] : t.from)
            active = join(Operator::And, std::move(active), member(step, "X", span));
        if (active) out_.push_back(when(std::move(active), std::move(t.body)));
        t.condition = name(t.name, t.span);
    }

    /// All transitions are judged on the steps as they are; of those that leave one step only the first fires.
    void transitions() {
        for (ChartTransition& t : chart_.transitions) drawn_condition(t);
        std::vector<std::size_t> order(chart_.transitions.size());
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
        std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return goes_before(a, b); });
        StatementList judged;
        for (std::size_t k = 0; k < order.size(); ++k) {
            ChartTransition& t = chart_.transitions[order[k]];
            ExpressionPtr condition;
            for (const auto& [step, span] : t.from)
                condition = join(Operator::And, std::move(condition), member(step, "X", span));
            for (const std::size_t rival : rivals_before(order[k]))
                condition = join(Operator::And, std::move(condition), negation(name(fired_name(rival), t.span)));
            condition = join(Operator::And, std::move(condition), std::move(t.condition));
            judged.push_back(assignment(name(fired_name(order[k]), t.span), std::move(condition)));
            judged.back().generated = true;
        }
        if (!judged.empty()) out_.push_back(when(name("chart$started", unit_.span), std::move(judged)));
        out_.push_back(assignment(name("chart$started", unit_.span), truth(true, unit_.span)));
    }

    ExpressionPtr any_fired(const std::string& step, bool into) {
        ExpressionPtr out;
        const auto& index = into ? entering_ : leaving_;
        if (const auto found = index.find(base::fold(step)); found != index.end()) {
            for (const std::size_t i : found->second)
                out = join(Operator::Or, std::move(out), name(fired_name(i), chart_.transitions[i].span));
        }
        return out ? std::move(out) : truth(false, unit_.span);
    }

    void steps() {
        for (const ChartStep& s : chart_.steps) {
            std::vector<Argument> arguments;
            arguments.push_back(argument("ENTER", any_fired(s.name, true)));
            arguments.push_back(argument("LEAVE", any_fired(s.name, false)));
            out_.push_back(tree::call(name(s.name, s.span), std::move(arguments), s.span));
        }
    }

    void actions() {
        for (const std::string& action : order_) {
            std::map<Qualifier, ExpressionPtr> inputs;
            const Span span = uses_[action].front().second->span;
            for (const auto& [step, use] : uses_[action]) {
                ExpressionPtr& input = inputs[use->qualifier];
                input = join(Operator::Or, std::move(input), member(step->name, "X", use->span));
                if (!use->time) continue;
                StatementList set;
                set.push_back(assignment(member(control(action), "T", use->span), clone(*use->time)));
                set.back().generated = true;
                out_.push_back(when(member(step->name, "X", use->span), std::move(set)));
            }
            std::vector<Argument> arguments;
            for (auto& [qualifier, value] : inputs)
                arguments.push_back(argument(qualifier_text(qualifier), std::move(value)));
            out_.push_back(tree::call(name(control(action), span), std::move(arguments), span));
        }
        for (const std::string& action : order_) {
            const StepAction& use = *uses_[action].front().second;
            const auto body = bodies_.find(action);
            if (body == bodies_.end()) {
                out_.push_back(assignment(name(use.name, use.span), member(control(action), "Q", use.span)));
                continue;
            }
            ChartAction& a = *body->second;
            out_.push_back(when(member(control(action), "Q", use.span), std::move(a.body)));
            out_.back().name = a.name;
        }
    }

    ProgramUnit& unit_;
    Chart& chart_;
    base::Diagnostics& diagnostics_;
    std::map<std::string, const ChartStep*> steps_;
    std::map<std::string, ChartAction*> bodies_;
    std::map<std::string, std::vector<std::size_t>> leaving_, entering_;  ///< Transitions by folded step.
    std::map<std::string, std::vector<std::pair<const ChartStep*, const StepAction*>>> uses_;
    std::vector<std::string> order_;  ///< Actions by first use.
    StatementList out_;
    bool bad_ = false;
};

}  // namespace

std::string fired_name(std::size_t transition) {
    return fmt::format("transition${}", transition + 1);
}

void lower_chart(ProgramUnit& unit, base::Diagnostics& diagnostics) {
    if (!unit.chart.empty()) ChartLowering(unit, diagnostics).run();
    for (ProgramUnit& method : unit.methods) lower_chart(method, diagnostics);
}

}  // namespace vyard::logic
