#include "core/logic/why.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/logic/check/model.hpp"
#include "core/logic/infix_text.hpp"
#include "core/logic/inspector.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

constexpr int kMostDepth = 3;  ///< Blocks within blocks that an answer looks into.

}  // namespace

/// A condition around an assignment.
struct Guard {
    const Expression* condition = nullptr;  ///< Of an IF; of a CASE its selector.
    bool negated = false;
    const std::vector<CaseLabel>* labels = nullptr;  ///< Of a CASE.
};

struct Assignment {
    std::uint32_t offset = 0;
    int bit = -1;
    const Expression* value = nullptr;
    base::Place place;
    std::string unit;
    bool drawn = false;
    std::vector<Guard> guards;
    Bases bases;
};

/// A call of an instance of a standard block.
struct BlockCall {
    const Expression* call = nullptr;
    Bases bases;
};

struct Why::Work {
    Work(const Program& p, std::vector<std::byte> m, std::int64_t now)
        : program(p), logic(*p.checked), inspector(p, std::move(m), now) {
        for (const UnitPlace& u : unit_places(program)) statements(u.layout->unit->body, *u.layout, u.bases, u.path);
    }

    // --- what is assigned where ---
    void statements(const StatementList& list, const Layout& layout, const Bases& bases, const std::string& path) {
        for (const Statement& s : list) {
            if (s.network > 0) network = s.network;
            if (s.kind == StatementKind::Drawn) ladder = s.drawing->form == DrawnForm::Ladder;
            if (s.kind == StatementKind::Assign) {
                assignment(s, *s.target, s.value.get(), layout, bases, path);
            } else if (s.kind == StatementKind::Call) {
                call(s, layout, bases, path);
            } else {
                branches(s, layout, bases, path);
            }
            if (s.kind == StatementKind::Drawn) network = 0;
        }
    }
    /// "main", or "rung 3 of main".
    std::string place_name(const std::string& path) const {
        return network == 0 ? path : fmt::format("{} {} of {}", ladder ? "rung" : "network", network, path);
    }

    void branches(const Statement& s, const Layout& layout, const Bases& bases, const std::string& path) {
        const std::size_t before = guards.size();
        const bool choice = s.kind == StatementKind::If;
        for (const Branch& b : s.branches) {
            const std::size_t outer = guards.size();
            if (choice && b.condition) guards.push_back({b.condition.get(), false, nullptr});
            if (s.kind == StatementKind::Case && !b.labels.empty()) guards.push_back({s.value.get(), false, &b.labels});
            statements(b.body, layout, bases, path);
            guards.resize(outer);
            // What follows in the chain is done only when this was not.
            if (choice && b.condition) guards.push_back({b.condition.get(), true, nullptr});
        }
        guards.resize(before);
    }

    /// A place that needs no code to be found; null for others.
    std::optional<std::pair<std::uint32_t, int>> fixed_place(const Expression& e, const Bases& bases) const {
        if (!is_place(e.kind) || !computable(e)) return std::nullopt;
        CodeWriter writer(0);
        const Place place = ExpressionWriter(writer, bases, &logic).place(e);
        if (place.indirect || !writer.code.empty()) return std::nullopt;
        return std::pair(place.at, place.bit);
    }

    void assignment(const Statement& s, const Expression& target, const Expression* value, const Layout& layout,
                    const Bases& bases, const std::string& path) {
        if (!target.type.is(E::Bool)) return;
        const auto place = fixed_place(target, bases);
        if (!place) return;
        const std::size_t number = assignments.size();
        assignments.push_back({place->first, place->second, value,
                               place_in(layout.unit->source, s.target ? target.span : s.span), place_name(path),
                               network > 0, guards, bases});
        by_place[*place].push_back(number);
    }

    void call(const Statement& s, const Layout& layout, const Bases& bases, const std::string& path) {
        const Expression& e = *s.value;
        if (e.kind != ExpressionKind::Call || e.call != CallKind::Block || e.operands.empty()) return;
        const auto place = fixed_place(*e.operands[0], bases);
        if (!place) return;
        calls[place->first] = {&e, bases};
        for (const Argument& a : e.arguments) {
            if (a.output && a.value && !a.negated) assignment(s, *a.value, nullptr, layout, bases, path);
        }
    }

    // --- computing parts ---
    std::optional<bool> truth(const Expression& e, const Bases& bases) {
        const auto value = e.type.is(E::Bool) ? inspector.value(e, bases) : std::nullopt;
        return value ? std::optional(value->bits != 0) : std::nullopt;
    }

    /// Whether the selector of a CASE is at one of its labels.
    std::optional<bool> at_label(const Guard& g, const Bases& bases) {
        const auto selected = inspector.value(*g.condition, bases);
        if (!selected) return std::nullopt;
        const std::int64_t value = signed_of(*selected);
        const auto literal = [](const Expression& e) {
            return static_cast<std::int64_t>(e.negative ? 0U - e.integer : e.integer);
        };
        return std::any_of(g.labels->begin(), g.labels->end(), [&](const CaseLabel& l) {
            const std::int64_t low = literal(*l.low), high = l.high ? literal(*l.high) : low;
            return value >= low && value <= high;
        });
    }

    std::optional<bool> holds(const Guard& g, const Bases& bases) {
        if (g.labels != nullptr) return at_label(g, bases);
        const auto value = truth(*g.condition, bases);
        if (!value) return std::nullopt;
        return *value != g.negated;
    }

    std::string guard_text(const Guard& g) const {
        if (g.labels == nullptr)
            return fmt::format("{}{}", g.negated ? "NOT " : "", infix_in_parentheses(*g.condition, g.negated));
        std::string labels;
        for (const CaseLabel& l : *g.labels) {
            labels += (labels.empty() ? "" : ", ") + label_text(*g.condition, *l.low);
            if (l.high) labels += ".." + label_text(*g.condition, *l.high);
        }
        return fmt::format("{} = {}", infix_text(*g.condition), labels);
    }
    static std::string infix_in_parentheses(const Expression& e, bool always) {
        return always && precedence(written(e)) < 9 ? fmt::format("({})", infix_text(e)) : infix_text(e);
    }
    /// A label by its name where the selector is an enumeration.
    std::string label_text(const Expression& selector, const Expression& label) const {
        const TypeRef type = written(selector).type;
        if (!logic.is_enumeration(type)) return infix_text(label);
        for (const EnumConstant& c : logic.type(type).values) {
            if (static_cast<std::uint64_t>(c.value) == label.integer && !label.negative) return c.name;
        }
        return infix_text(label);
    }

    // --- answers ---
    /// The parts of `e` because of which it is not `wanted`.
    void unmet(const Expression& any, bool wanted, const Bases& bases, int depth, std::vector<std::string>& out) {
        const Expression& e = written(any);
        if (e.kind == ExpressionKind::Unary && e.op == Operator::Not)
            return unmet(*e.operands[0], !wanted, bases, depth, out);
        const bool split = e.kind == ExpressionKind::Binary && (wanted ? e.op == Operator::And : e.op == Operator::Or);
        if (split) {
            unmet(*e.operands[0], wanted, bases, depth, out);
            return unmet(*e.operands[1], wanted, bases, depth, out);
        }
        const auto value = truth(e, bases);
        if (!value || *value == wanted) return;
        if (const Assignment* line = kept_line(e, bases)) return unmet(*line->value, wanted, line->bases, depth, out);
        std::string text = reduced(e, wanted, bases, depth).text;
        if (e.power == Power::Contact)
            text = fmt::format("{}{} is open", wanted ? "" : "/", wanted ? text : infix_text(e));
        if (std::find(out.begin(), out.end(), text) == out.end()) out.push_back(std::move(text));
    }

    /// What computes a line that a drawing splits, or the result of a box; null for what people wrote.
    const Assignment* kept_line(const Expression& e, const Bases& bases) const {
        if (e.kind != ExpressionKind::Name || (e.name.find('$') == std::string::npos && !e.line)) return nullptr;
        const auto place = fixed_place(e, bases);
        const auto found = place ? by_place.find(*place) : by_place.end();
        if (found == by_place.end() || found->second.size() != 1) return nullptr;
        const Assignment& a = assignments[found->second[0]];
        return a.value != nullptr && a.guards.empty() ? &a : nullptr;
    }
    /// The clock of an edge that a drawing looks for; null for others.
    const Expression* edge_clock(const Expression& e, const Bases& bases) const {
        if (e.kind != ExpressionKind::Member || e.operands[0]->name.find(kEdgeDetector) == std::string::npos)
            return nullptr;
        const auto place = fixed_place(*e.operands[0], bases);
        const auto found = place ? calls.find(place->first) : calls.end();
        return found == calls.end() ? nullptr : found->second.call->arguments[0].value.get();
    }

    /// A text and how strongly it binds.
    struct Reduced {
        std::string text;
        int binds = 10;
        std::string within(int least) const { return binds < least ? fmt::format("({})", text) : text; }
    };
    /// What of `any` is not `wanted`, as an expression: of `a AND b OR c` with b and c FALSE, `b OR c`. "" when
    /// nothing.
    Reduced reduced(const Expression& any, bool wanted, const Bases& bases, int depth) {
        const Expression& e = written(any);
        if (e.kind == ExpressionKind::Unary && e.op == Operator::Not)
            return reduced(*e.operands[0], !wanted, bases, depth);
        if (e.kind == ExpressionKind::Binary && (e.op == Operator::And || e.op == Operator::Or)) {
            const bool all_needed = (e.op == Operator::And) == wanted;
            Reduced left = reduced(*e.operands[0], wanted, bases, depth);
            Reduced right = reduced(*e.operands[1], wanted, bases, depth);
            if (!all_needed && (left.text.empty() || right.text.empty())) return {};  // a choice that holds
            if (right.text.empty()) return left;
            if (left.text.empty()) return right;
            const int own = all_needed ? 3 : 1;
            return {fmt::format("{} {} {}", left.within(own), all_needed ? "AND" : "OR", right.within(own)), own};
        }
        if (truth(e, bases) == wanted) return {};
        if (const Assignment* line = kept_line(e, bases)) return reduced(*line->value, wanted, line->bases, depth);
        if (const Expression* clock = edge_clock(e, bases)) {
            const bool rises = logic.block(e.operands[0]->type.index).name == "R_TRIG";
            return {fmt::format("{} {}{}", infix_text(*clock), wanted ? "has not just " : "has just ",
                                rises ? "risen" : "fallen"),
                    2};
        }
        if (!wanted) return {fmt::format("NOT {}", infix_in_parentheses(e, true)), 9};
        return {infix_text(e) + (depth < kMostDepth ? behind(e, bases, depth) : ""), precedence(e)};
    }

    /// " (IN: line_run)" of a timer's Q, " (start_pb)" of an output of an instance: what is behind a leaf that is
    /// FALSE.
    std::string behind(const Expression& e, const Bases& bases, int depth) {
        if (e.kind != ExpressionKind::Member) return {};
        const Expression& instance = *e.operands[0];
        if (!instance.type.is(E::Block)) return {};
        const auto place = fixed_place(instance, bases);
        if (!place) return {};
        std::vector<std::string> parts;
        const auto called = calls.find(place->first);
        if (logic.block(instance.type.index).standard && called != calls.end()) {
            inputs_of(*called->second.call, called->second.bases, depth, parts);
        } else if (const auto at = fixed_place(e, bases)) {
            for (const KeptOff& k : of(*at, depth + 1)) parts.insert(parts.end(), k.missing.begin(), k.missing.end());
        }
        return parts.empty() ? "" : fmt::format(" ({})", fmt::join(parts, "; "));
    }

    /// Which inputs of a latch or timer do not let its output come on.
    void inputs_of(const Expression& call, const Bases& bases, int depth, std::vector<std::string>& out) {
        const Layout& block = logic.block(call.operands[0]->type.index);
        for (const Argument& a : call.arguments) {
            if (a.output || !a.value || a.field < 0 || !a.value->type.is(E::Bool)) continue;
            const std::string& name = base::at(block.fields, a.field).name;
            const std::string folded = base::fold(name);
            const bool resets = folded == "r" || folded == "r1" || folded == "reset";
            std::vector<std::string> parts;
            unmet(*a.value, !resets, bases, depth + 1, parts);
            for (const std::string& part : parts) out.push_back(fmt::format("{}: {}", name, part));
        }
    }

    std::vector<KeptOff> of(std::pair<std::uint32_t, int> place, int depth) {
        std::vector<KeptOff> out;
        const auto found = by_place.find(place);
        if (found == by_place.end()) return out;
        for (const std::size_t number : found->second) {
            const Assignment& a = assignments[number];
            KeptOff kept{a.unit, a.drawn, a.place, {}};
            const bool constant = a.value != nullptr && a.value->kind == ExpressionKind::Literal;
            const bool resets = constant && a.value->integer == 0;
            std::vector<std::string> around;
            bool all = true;
            for (const Guard& g : a.guards) {
                const auto value = holds(g, a.bases);
                all = all && value.value_or(false);
                if (value.value_or(true)) continue;
                if (g.labels != nullptr) {
                    around.push_back(guard_text(g));
                } else {
                    unmet(*g.condition, !g.negated, a.bases, depth, around);
                }
            }
            if (resets) {
                if (!all || a.guards.empty()) continue;
                std::string text = "it is reset while ";
                for (std::size_t i = 0; i < a.guards.size(); ++i)
                    text += (i > 0 ? " AND " : "") + guard_text(a.guards[i]);
                kept.missing.push_back(std::move(text));
            } else {
                kept.missing = std::move(around);
                if (a.value != nullptr && !constant) unmet(*a.value, true, a.bases, depth, kept.missing);
            }
            if (!kept.missing.empty()) out.push_back(std::move(kept));
        }
        return out;
    }

    const Program& program;
    const CheckedLogic& logic;
    Inspector inspector;
    std::vector<Guard> guards;
    int network = 0;  ///< Of the statements that are walked.
    bool ladder = false;
    std::vector<Assignment> assignments;
    std::map<std::pair<std::uint32_t, int>, std::vector<std::size_t>> by_place;
    std::map<std::uint32_t, BlockCall> calls;  ///< By place of the instance; the last one written.
};

Why::Why(const Program& program, const std::vector<std::byte>& memory, std::int64_t now_ns) {
    if (program.checked != nullptr) work_ = std::make_unique<Work>(program, memory, now_ns);
}
Why::~Why() = default;

std::vector<KeptOff> Why::kept_off(std::uint32_t offset, int bit) {
    return work_ == nullptr ? std::vector<KeptOff>() : work_->of({offset, bit}, 0);
}

}  // namespace vyard::logic
