// Bodies and charts of our text in the exchange format.
#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "files/exchange/writing.hpp"

namespace vyard::files {

using logic::Extent;
using logic::Statement;
using logic::StatementKind;
using logic::StatementList;

namespace {

bool blank(std::string_view text) {
    return text.find_first_not_of(" \t\r\n\f") == std::string_view::npos;
}

/// Whole lines, without blank ones at either end.
std::string trimmed(std::string_view text) {
    std::string plain;
    for (const char c : text) {
        if (c != '\r') plain += c == '\f' ? ' ' : c;
    }
    std::size_t begin = 0;
    while (begin < plain.size()) {
        const std::size_t end = std::min(plain.find('\n', begin), plain.size());
        if (!blank(std::string_view(plain).substr(begin, end - begin))) break;
        begin = end + 1;
    }
    if (begin >= plain.size()) return {};
    if (begin == 0) begin = plain.find_first_not_of(" \t");  // behind a word of the same line
    return plain.substr(begin, plain.find_last_not_of(" \t\n") + 1 - begin);
}

/// Whether all that stands in a text is comments.
bool only_comments(const std::string& text) {
    const base::SourcePtr piece = base::make_source("", text);
    base::Diagnostics ignored;
    return logic::tokenize(piece, ignored).size() <= 1;
}

}  // namespace

BodyWriter::BodyWriter(Writing& writing, const base::SourcePtr& source, Comments& comments)
    : writing_(writing), source_(source), comments_(comments) {
    base::Diagnostics ignored;  // they were reported when the text was checked
    for (logic::Drawing& d : logic::drawings_of(source, ignored)) {
        const std::size_t offset = d.offset;
        drawings_.emplace(offset, std::move(d));
    }
}

std::vector<BodyPiece> BodyWriter::pieces(const StatementList& body, const Extent& written) {
    const std::string_view text = source_->text;
    std::vector<BodyPiece> out;
    std::size_t at = written.begin;
    std::string above;
    const auto words = [&](std::size_t end) {
        const std::string piece = trimmed(text.substr(at, end - at));
        if (piece.empty()) return;
        if (!only_comments(piece)) return out.push_back({piece, nullptr, ""});
        comments_.pass(static_cast<std::uint32_t>(at));
        above = comments_.up_to(static_cast<std::uint32_t>(end));
    };
    for (const Statement& s : body) {
        if (s.kind != StatementKind::Drawn) continue;
        // The words LADDER and END_LADDER have lines of their own.
        const std::size_t begin = text.rfind('\n', s.drawing->offset >= 2 ? s.drawing->offset - 2 : 0) + 1;
        const std::size_t behind = s.drawing->offset + s.drawing->text.size();
        words(std::max(begin, at));
        out.push_back({"", &base::at(drawings_, s.drawing->offset), std::move(above)});
        above.clear();
        at = std::min(text.find('\n', behind), static_cast<std::size_t>(written.end));
    }
    words(written.end);
    if (!above.empty()) out.push_back({trimmed(text.substr(at, written.end - at)), nullptr, ""});
    comments_.pass(written.end);
    return out;
}

void BodyWriter::piece(pugi::xml_node body, const BodyPiece& p) {
    if (p.drawing != nullptr) {
        add_drawing(body, *p.drawing, writing_);
    } else {
        add_text(add(body, "ST"), p.text);
    }
    add_documentation(body, p.documentation);
}

void BodyWriter::bodies(pugi::xml_node pou, const StatementList& body, const Extent& written) {
    std::size_t all = 0;
    logic::each_drawing(body, [&](const Statement&) { ++all; });
    const auto top = static_cast<std::size_t>(
        std::count_if(body.begin(), body.end(), [](const Statement& s) { return s.kind == StatementKind::Drawn; }));
    if (all > top) return this->body(add(pou, "body"), body, written, body.front().span);
    std::vector<BodyPiece> found = pieces(body, written);
    if (found.empty()) found.push_back({});
    for (const BodyPiece& p : found) piece(add(pou, "body"), p);
}

void BodyWriter::body(pugi::xml_node parent, const StatementList& body, const Extent& written, logic::Span at) {
    std::size_t all = 0;
    logic::each_drawing(body, [&](const Statement&) { ++all; });
    const bool drawn_alone = all == 1 && body.size() == 1 && body[0].kind == StatementKind::Drawn;
    if (drawn_alone) {
        const std::vector<BodyPiece> found = pieces(body, written);
        if (found.size() == 1) return piece(parent, found[0]);
    }
    if (all > 0)
        writing_.warn(source_, at,
                      "a drawing among statements has no form of its own: it is carried over as text that others "
                      "cannot read");
    comments_.pass(written.end);
    piece(parent, {trimmed(written.of(*source_)), nullptr, ""});
}

// --- charts ---

namespace {

/// Steps and transitions of a chart with what stands between them, by their numbers in the format.
class ChartXml {
  public:
    ChartXml(pugi::xml_node sfc, const logic::Chart& chart, const base::SourcePtr& source, Comments& comments)
        : root_(sfc), chart_(chart), source_(source), comments_(comments) {}

    void run() {
        for (const logic::ChartStep& s : chart_.steps) step_ids_.emplace(base::fold(s.name), next_id_++);
        for (std::size_t i = 0; i < chart_.transitions.size(); ++i) transition_ids_.push_back(next_id_++);
        divide();
        std::size_t step = 0, transition = 0;
        while (step < chart_.steps.size() || transition < chart_.transitions.size()) {
            const bool takes_step = transition == chart_.transitions.size() ||
                                    (step < chart_.steps.size() &&
                                     chart_.steps[step].written.begin < chart_.transitions[transition].written.begin);
            if (takes_step) {
                one_step(chart_.steps[step++]);
            } else {
                one_transition(transition++);
            }
        }
    }

  private:
    pugi::xml_node element(const char* name, int id) {
        pugi::xml_node node = add(root_, name);
        set(node, "localId", fmt::format("{}", id));
        pugi::xml_node p = add(node, "position");
        set(p, "x", "40");
        set(p, "y", fmt::format("{}", y_));
        y_ += 60;
        return node;
    }
    static void connect(pugi::xml_node node, int id) {
        set(add(add(node, "connectionPointIn"), "connection"), "refLocalId", fmt::format("{}", id));
    }

    /// Who leads to whom, before anything is written: the first transition to a step is joined to it, others jump.
    void divide() {
        for (std::size_t t = 0; t < chart_.transitions.size(); ++t) {
            for (const auto& [name, span] : chart_.transitions[t].from) ++leaving_[base::fold(name)];
        }
        for (const logic::ChartStep& s : chart_.steps) {
            if (leaving_[base::fold(s.name)] > 1) divergences_.emplace(base::fold(s.name), next_id_++);
        }
        for (std::size_t t = 0; t < chart_.transitions.size(); ++t) {
            const logic::ChartTransition& transition = chart_.transitions[t];
            const int end = transition.to.size() > 1 ? next_id_++ : transition_ids_[t];
            ends_.push_back(end);
            for (const auto& target : transition.to) {
                const std::string& name = target.first;
                const auto step = std::find_if(chart_.steps.begin(), chart_.steps.end(),
                                               [&](const auto& s) { return base::fold(s.name) == base::fold(name); });
                const bool joined =
                    step != chart_.steps.end() && !step->initial && entries_.emplace(base::fold(name), end).second;
                if (!joined) jumps_.emplace_back(t, name);
            }
        }
    }

    int exit_of(const std::string& step) const {
        const auto divided = divergences_.find(base::fold(step));
        if (divided != divergences_.end()) return divided->second;
        const auto found = step_ids_.find(base::fold(step));
        return found == step_ids_.end() ? 0 : found->second;
    }

    void one_step(const logic::ChartStep& s) {
        const std::string above = comments_.up_to(s.span.line > 0 ? s.written.begin : 0);
        pugi::xml_node node = element("step", step_ids_.at(base::fold(s.name)));
        set(node, "name", s.name);
        set(node, "initialStep", s.initial ? "true" : "false");
        const auto entry = entries_.find(base::fold(s.name));
        if (entry != entries_.end()) {
            connect(node, entry->second);
        } else {
            add(node, "connectionPointIn");
        }
        set(add(node, "connectionPointOut"), "formalParameter", "");
        if (!s.actions.empty()) set(add(node, "connectionPointOutAction"), "formalParameter", "");
        const std::string within = comments_.up_to(s.written.end);
        add_documentation(node, within.empty() ? above : above.empty() ? within : fmt::format("{}\n{}", above, within));
        const auto divided = divergences_.find(base::fold(s.name));
        if (divided != divergences_.end()) {
            pugi::xml_node divergence = element("selectionDivergence", divided->second);
            connect(divergence, step_ids_.at(base::fold(s.name)));
            for (int i = 0; i < leaving_[base::fold(s.name)]; ++i)
                set(add(divergence, "connectionPointOut"), "formalParameter", "");
        }
        if (!s.actions.empty()) actions(s);
    }

    void actions(const logic::ChartStep& s) {
        pugi::xml_node block = element("actionBlock", next_id_++);
        connect(block, step_ids_.at(base::fold(s.name)));
        for (const logic::StepAction& a : s.actions) {
            pugi::xml_node node = add(block, "action");
            set(node, "qualifier", logic::qualifier_text(a.qualifier));
            if (a.time) set(node, "duration", code_text(source_, a.time->written));
            std::string indicators;
            for (const std::string& i : a.indicators) indicators += (indicators.empty() ? "" : ", ") + i;
            if (!indicators.empty()) set(node, "indicator", indicators);
            set(add(node, "reference"), "name", a.name);
        }
    }

    void one_transition(std::size_t t) {
        const logic::ChartTransition& transition = chart_.transitions[t];
        const std::string above = comments_.up_to(transition.written.end);
        int before = exit_of(transition.from.empty() ? "" : transition.from[0].first);
        if (transition.from.size() > 1) {
            const int id = next_id_++;
            pugi::xml_node convergence = element("simultaneousConvergence", id);
            for (const auto& [name, span] : transition.from) connect(convergence, exit_of(name));
            add(convergence, "connectionPointOut");
            before = id;
        }
        pugi::xml_node node = element("transition", transition_ids_[t]);
        if (transition.priority != 0) set(node, "priority", fmt::format("{}", transition.priority));
        connect(node, before);
        add(node, "connectionPointOut");
        pugi::xml_node condition = add(node, "condition");
        if (!transition.name.empty()) {
            set(add(condition, "reference"), "name", transition.name);
        } else {
            pugi::xml_node written = add(condition, "inline");
            set(written, "name", "");
            add_text(add(written, "ST"), code_text(source_, transition.condition->written));
        }
        add_documentation(node, above);
        if (transition.to.size() > 1) {
            pugi::xml_node divergence = element("simultaneousDivergence", ends_[t]);
            connect(divergence, transition_ids_[t]);
            for (std::size_t i = 0; i < transition.to.size(); ++i)
                set(add(divergence, "connectionPointOut"), "formalParameter", "");
        }
        for (const auto& [from, name] : jumps_) {
            if (from != t) continue;
            pugi::xml_node jump = element("jumpStep", next_id_++);
            set(jump, "targetName", name);
            connect(jump, ends_[t]);
        }
    }

    pugi::xml_node root_;
    const logic::Chart& chart_;
    base::SourcePtr source_;
    Comments& comments_;
    int next_id_ = 1, y_ = 20;
    std::map<std::string, int> step_ids_;
    std::vector<int> transition_ids_, ends_;  ///< By transition; where it ends: itself, or a divergence.
    std::map<std::string, int> leaving_;      ///< Transitions from a step.
    std::map<std::string, int> divergences_;  ///< Behind a step.
    std::map<std::string, int> entries_;      ///< What is joined to a step.
    std::vector<std::pair<std::size_t, std::string>> jumps_;
};

}  // namespace

void BodyWriter::chart(pugi::xml_node pou, const logic::Chart& chart) {
    pugi::xml_node actions = chart.actions.empty() ? pugi::xml_node() : add(pou, "actions");
    const bool named =
        std::any_of(chart.transitions.begin(), chart.transitions.end(), [](const auto& t) { return !t.name.empty(); });
    pugi::xml_node transitions = named ? add(pou, "transitions") : pugi::xml_node();
    // Comments are handed out in the order of the text, so the pieces of bodies, which pass theirs, come last.
    ChartXml(add(add(pou, "body"), "SFC"), chart, source_, comments_).run();
    for (const logic::ChartTransition& t : chart.transitions) {
        if (t.name.empty()) continue;
        pugi::xml_node node = add(transitions, "transition");
        set(node, "name", t.name);
        pugi::xml_node body = add(node, "body");
        if (t.condition) {
            add_text(add(body, "ST"), fmt::format(":= {};", code_text(source_, t.condition->written)));
        } else if (!t.body.empty() && t.body[0].kind == StatementKind::Drawn) {
            piece(body, {"", &base::at(drawings_, t.body[0].drawing->offset), ""});
        }
    }
    for (const logic::ChartAction& a : chart.actions) {
        pugi::xml_node node = add(actions, "action");
        set(node, "name", a.name);
        const std::string above = comments_.up_to(a.written.begin);
        body(add(node, "body"), a.body, a.body_written, a.span);
        add_documentation(node, above);
    }
}

}  // namespace vyard::files
