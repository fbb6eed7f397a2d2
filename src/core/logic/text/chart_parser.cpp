// Sequential function charts in the textual form of IEC 61131-3, 6.7: STEP, TRANSITION, ACTION.
#include "core/logic/text/parsers.hpp"

namespace vyard::logic {

using base::Code;

bool StatementParser::at_chart() const {
    if (is_word("initial_step")) return true;
    const bool name_next = at_ + 1 < tokens_.size() && tokens_[at_ + 1].kind == TokenKind::Identifier;
    if (is_word("step") || is_word("action")) return name_next && symbol_at(at_ + 2, ":");
    return is_word("transition") && (word_at(at_ + 1, "from") || symbol_at(at_ + 1, "(") ||
                                     (name_next && (word_at(at_ + 2, "from") || symbol_at(at_ + 2, "("))));
}

Chart StatementParser::chart() {
    Chart out;
    while (at_chart()) {
        if (accept_word("initial_step")) {
            chart_step(out, true);
        } else if (accept_word("step")) {
            chart_step(out, false);
        } else if (accept_word("transition")) {
            chart_transition(out);
        } else {
            ++at_;
            chart_action(out);
        }
        accept(";");
    }
    return out;
}

void StatementParser::chart_step(Chart& chart, bool initial) {
    ChartStep step;
    const std::size_t begin = at_ - 1;
    step.initial = initial;
    step.span = current().span;
    if (const auto name = identifier("a step's name")) step.name = *name;
    expect(":");
    while (!at_end() && !is_word("end_step")) {
        if (is_statement_end() || !step_action(step)) {
            while (!at_end() && !is_word("end_step") && !is_statement_end()) ++at_;
            break;
        }
    }
    expect_word("end_step");
    step.written = from(begin);
    chart.steps.push_back(std::move(step));
}

/// name(); name(N); name(D, T#2s); name(D, T#2s, indicator) -- indicators are passed over.
bool StatementParser::step_action(ChartStep& step) {
    static constexpr std::pair<std::string_view, Qualifier> kQualifiers[] = {
        {"n", Qualifier::N},   {"r", Qualifier::R},   {"s", Qualifier::S},   {"l", Qualifier::L},
        {"d", Qualifier::D},   {"p", Qualifier::P},   {"p0", Qualifier::P0}, {"p1", Qualifier::P1},
        {"sd", Qualifier::SD}, {"ds", Qualifier::DS}, {"sl", Qualifier::SL}};
    StepAction action;
    action.span = current().span;
    const auto name = identifier("an action's name");
    if (!name) return false;
    action.name = *name;
    if (accept("(") && !accept(")")) {
        bool known = false;
        for (const auto& [word, value] : kQualifiers) {
            if (is_word(word)) {
                action.qualifier = value;
                known = true;
            }
        }
        if (!known) {
            error_here(fmt::format("expected an action qualifier, found {}", found_text()),
                       "known: N, R, S, L, D, P, P0, P1, SD, DS, SL");
            return false;
        }
        ++at_;
        if (accept(",")) action.time = expression();
        const bool timed =
            action.qualifier == Qualifier::L || action.qualifier == Qualifier::D || action.qualifier >= Qualifier::SD;
        if (timed && !action.time)
            error(Code::Syntax, action.span,
                  fmt::format("the qualifier {} needs a time, such as {}({}, T#2s)", qualifier_text(action.qualifier),
                              action.name, qualifier_text(action.qualifier)));
        while (accept(",")) {
            if (const auto indicator = identifier("an indicator variable")) action.indicators.push_back(*indicator);
        }
        if (!expect(")")) return false;
    }
    step.actions.push_back(std::move(action));
    if (!accept(";")) {
        error(Code::Syntax, behind_previous(), "expected ';' behind the action");
        return current().span.line > previous().span.line;
    }
    return true;
}

std::vector<std::pair<std::string, Span>> StatementParser::step_names() {
    std::vector<std::pair<std::string, Span>> out;
    const bool several = accept("(");
    do {
        const Span span = current().span;
        const auto name = identifier("a step's name");
        if (!name) break;
        out.emplace_back(*name, span);
    } while (several && accept(","));
    if (several) expect(")");
    return out;
}

void StatementParser::chart_transition(Chart& chart) {
    ChartTransition t;
    const std::size_t begin = at_ - 1;
    t.span = current().span;
    if (!is_word("from") && !is_symbol("(")) {
        if (const auto name = identifier("FROM or a transition's name")) t.name = *name;
    }
    if (accept("(")) {
        if (!is_word("priority")) error_here(fmt::format("expected PRIORITY, found {}", found_text()));
        skip();
        expect(":=");
        if (current().kind == TokenKind::Integer) {
            t.priority = static_cast<std::int64_t>(std::min<std::uint64_t>(current().integer, 1'000'000));
            ++at_;
        } else {
            error_here(fmt::format("expected a whole number, found {}", found_text()));
        }
        expect(")");
    }
    expect_word("from");
    t.from = step_names();
    expect_word("to");
    t.to = step_names();
    const bool colon = accept(":");
    if (current().kind == TokenKind::Drawing) {
        if (t.name.empty())
            error(Code::Syntax, t.span,
                  "a transition that is drawn needs a name, which a coil or an output of it writes");
        t.body = statements();
        expect_word("end_transition");
        t.written = from(begin);
        chart.transitions.push_back(std::move(t));
        return;
    }
    if (colon || expect(":=")) t.condition = expression();
    if (!accept(";")) error(Code::Syntax, behind_previous(), "expected ';' behind the condition");
    while (!at_end() && !is_word("end_transition") && !is_statement_end()) ++at_;
    expect_word("end_transition");
    t.written = from(begin);
    if (t.condition) chart.transitions.push_back(std::move(t));
}

void StatementParser::chart_action(Chart& chart) {
    ChartAction action;
    const std::size_t begin = at_ - 1;
    action.span = current().span;
    if (const auto name = identifier("an action's name")) action.name = *name;
    expect(":");
    action.body_written.begin = from(begin).end;
    action.body = statements();
    action.body_written.end = offset_of(current());
    expect_word("end_action");
    action.written = from(begin);
    chart.actions.push_back(std::move(action));
}

}  // namespace vyard::logic
