// Sequential function charts of an exchange file in the textual form. Which steps a transition leads from and to
// follows from the connections, through the divergences and convergences between them.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <set>
#include <sstream>

#include "core/logic/logic.hpp"
#include "files/exchange/reading.hpp"

namespace vyard::files {

using base::Code;

namespace {

class ChartReader {
  public:
    ChartReader(Reading& reading, pugi::xml_node unit, pugi::xml_node body, const std::string& unit_text,
                std::vector<std::string>& declarations, TextMaker& out)
        : reading_(reading), unit_(unit), body_(body), unit_text_(unit_text), declarations_(declarations), out_(out) {}

    void read() {
        reading_.read(body_);
        for (const pugi::xml_node node : reading_.elements(body_)) {
            const std::string id = node.attribute("localId").value();
            if (!id.empty() && !by_id_.emplace(id, node).second)
                reading_.error(node, Code::DuplicateName,
                               fmt::format("two elements have the localId '{}'", id.substr(0, 40)));
            for (const std::string& from : sources(node)) leads_to_[from].push_back(node);
        }
        named();
        for (const pugi::xml_node node : reading_.elements(body_)) {
            const std::string_view kind = local_name(node);
            if (kind == "step") {
                step(node);
            } else if (kind == "transition") {
                transition(node);
            } else if (passes(kind) || kind == "jumpStep" || kind == "actionBlock") {
                reading_.read(node);
                points(node);
            } else if (kind == "comment") {
                reading_.read(node);
                const pugi::xml_node content = reading_.child(node, "content");
                for (const pugi::xml_node c : reading_.elements(content)) reading_.read(c);
                out_.comment(reading_.xml().text(content), reading_.origin(node));
            } else if (kind == "macroStep") {
                reading_.error(node, Code::NotSupported, "macro steps are not read", "put their steps in their place");
            } else {
                continue;  // of a condition that is drawn; what leads nowhere is left out with a warning
            }
        }
        for (const pugi::xml_node a : inline_actions_) action(a, inline_names_[a.internal_object()]);
        for (const pugi::xml_node a : reading_.children(reading_.child(unit_, "actions"), "action"))
            action(a, reading_.name(a));
    }

  private:
    static bool passes(std::string_view kind) {
        return kind == "selectionDivergence" || kind == "selectionConvergence" || kind == "simultaneousDivergence" ||
               kind == "simultaneousConvergence";
    }

    /// Connection points within an element count as read.
    void points(pugi::xml_node node) {
        for (const pugi::xml_node c : reading_.elements(node)) {
            if (!local_name(c).starts_with("connection")) continue;
            reading_.read(c);
            points(c);
        }
    }

    static std::vector<std::string> sources(pugi::xml_node node) {
        std::vector<std::string> out;
        for (const pugi::xml_node point : children(node, "connectionPointIn")) {
            for (const pugi::xml_node c : children(point, "connection"))
                out.emplace_back(c.attribute("refLocalId").value());
        }
        return out;
    }

    void named() {
        for (const pugi::xml_node t : reading_.children(reading_.child(unit_, "transitions"), "transition"))
            transitions_.emplace(base::fold(t.attribute("name").value()), t);
    }

    // --- steps ---

    std::string step_name(pugi::xml_node node) {
        return reading_.name(node, local_name(node) == "jumpStep" ? "targetName" : "name");
    }

    void step(pugi::xml_node node) {
        reading_.read(node);
        points(node);
        const bool initial = std::string_view(node.attribute("initialStep").value()) == "true" ||
                             std::string_view(node.attribute("initialStep").value()) == "1";
        const std::string name = step_name(node);
        out_.blank();
        out_.comment(reading_.documentation(node), reading_.origin(node));
        out_.line(fmt::format("{} {}:", initial ? "INITIAL_STEP" : "STEP", name), reading_.origin(node));
        out_.in();
        for (const pugi::xml_node block : leads_to_[node.attribute("localId").value()]) {
            if (local_name(block) != "actionBlock") continue;
            for (const pugi::xml_node a : reading_.children(block, "action")) association(a, name);
        }
        out_.out();
        out_.line("END_STEP", reading_.origin(node));
    }

    void association(pugi::xml_node a, const std::string& step) {
        const std::string qualifier = std::string(a.attribute("qualifier").as_string("N"));
        std::string duration = a.attribute("duration").value();
        if (!duration.empty()) duration = reading_.expression(a, duration, "the duration");
        std::string name;
        if (const pugi::xml_node reference = reading_.child(a, "reference")) {
            name = reading_.name(reference);
        } else if (const pugi::xml_node written = reading_.child(a, "inline")) {
            int number = static_cast<int>(inline_actions_.size()) + 1;
            do {
                name = fmt::format("{}_action_{}", step, number++);
            } while (unit_text_.find(name) != std::string::npos);
            inline_actions_.push_back(written);
            inline_names_.emplace(written.internal_object(), name);
        } else {
            reading_.error(a, Code::Syntax, "an <action> of a step has a <reference> or stands <inline>");
            return;
        }
        const std::string indicator = a.attribute("indicator").value();
        std::string more = duration.empty() ? "" : fmt::format(", {}", duration);
        if (!indicator.empty()) more = fmt::format("{}, {}", more, reading_.expression(a, indicator, "the indicator"));
        out_.documented(fmt::format("{}({}{});", name, qualifier.empty() ? "N" : qualifier, more),
                        reading_.documentation(a), reading_.origin(a));
        reading_.child(a, "connectionPointOut");
    }

    // --- transitions ---

    /// The steps that lead to a transition, through what stands between.
    void steps_before(pugi::xml_node node, std::vector<std::string>& out, std::set<const void*>& seen) {
        for (const std::string& id : sources(node)) {
            const auto found = by_id_.find(id);
            if (found == by_id_.end()) {
                reading_.error(node, Code::UnknownName,
                               fmt::format("no element has the localId '{}'", id.substr(0, 40)));
                continue;
            }
            const std::string_view kind = local_name(found->second);
            if (kind == "step") {
                out.push_back(step_name(found->second));
            } else if (passes(kind) && seen.insert(found->second.internal_object()).second) {
                steps_before(found->second, out, seen);
            }
        }
    }

    void steps_behind(pugi::xml_node node, std::vector<std::string>& out, std::set<const void*>& seen) {
        for (const pugi::xml_node next : leads_to_[node.attribute("localId").value()]) {
            const std::string_view kind = local_name(next);
            if (kind == "step" || kind == "jumpStep") {
                out.push_back(step_name(next));
            } else if (passes(kind) && seen.insert(next.internal_object()).second) {
                steps_behind(next, out, seen);
            }
        }
    }

    static std::string listed(const std::vector<std::string>& steps) {
        return steps.size() == 1 ? steps[0] : fmt::format("({})", fmt::join(steps, ", "));
    }

    void transition(pugi::xml_node node) {
        reading_.read(node);
        points(node);
        std::vector<std::string> from, to;
        std::set<const void*> seen;
        steps_before(node, from, seen);
        seen.clear();
        steps_behind(node, to, seen);
        if (from.empty() || to.empty()) {
            reading_.error(node, Code::Syntax,
                           fmt::format("this transition leads {} no step", from.empty() ? "from" : "to"));
            return;
        }
        const pugi::xml_node condition = reading_.child(node, "condition");
        pugi::xml_node written = condition;
        std::string name;
        if (const pugi::xml_node reference = reading_.child(condition, "reference")) {
            name = reading_.name(reference);
            const auto found = transitions_.find(base::fold(name));
            if (found == transitions_.end()) {
                reading_.error(reference, Code::UnknownName, fmt::format("the unit has no transition '{}'", name),
                               base::name_hint(name, known_transitions()));
                return;
            }
            written = reading_.child(found->second, "body");
        } else if (const pugi::xml_node in_place = reading_.child(condition, "inline")) {
            const std::string given = in_place.attribute("name").value();
            if (!given.empty()) name = reading_.name(in_place);
            written = in_place;
        }
        const std::string priority = node.attribute("priority").value();
        out_.blank();
        out_.comment(reading_.documentation(node), reading_.origin(node));
        std::string head = "TRANSITION";
        const bool drawn = written == condition || child(written, "LD") || child(written, "FBD");
        if (drawn && name.empty()) {
            name = fmt::format("transition_{}", node.attribute("localId").value());
            while (unit_text_.find(name) != std::string::npos) name += "_";
        }
        if (!name.empty()) head = fmt::format("{} {}", head, name);
        if (!priority.empty()) head = fmt::format("{} (PRIORITY := {})", head, priority);
        head = fmt::format("{} FROM {} TO {}", head, listed(from), listed(to));
        if (drawn) {
            out_.line(fmt::format("{}:", head), reading_.origin(node));
            drawn_condition(written, condition, name);
        } else {
            out_.line(head, reading_.origin(node));
            text_condition(written, name);
        }
        out_.line("END_TRANSITION", reading_.origin(node));
    }

    std::vector<std::string> known_transitions() const {
        std::vector<std::string> out;
        for (const auto& [name, node] : transitions_) out.push_back(name);
        return out;
    }

    void drawn_condition(pugi::xml_node written, pugi::xml_node condition, const std::string& name) {
        if (written == condition) {
            points(condition);
            return read_drawn_condition(reading_, body_, condition, name, out_);
        }
        for (const pugi::xml_node form : reading_.elements(written))
            read_body(reading_, form, unit_text_, declarations_, out_);
    }

    /// A condition in Structured Text: an expression, with or without what it is assigned to.
    void text_condition(pugi::xml_node written, const std::string& name) {
        const std::vector<pugi::xml_node> forms = reading_.elements(written);
        if (forms.size() != 1 || local_name(forms[0]) != "ST") {
            reading_.error(written, Code::NotSupported, "a condition is Structured Text, or drawn",
                           "known: ST, LD, FBD");
            return;
        }
        TextMaker body;
        read_body(reading_, forms[0], unit_text_, declarations_, body);
        const base::SourcePtr text = body.source("");
        std::string plain = text->text;
        for (const logic::Extent& c : logic::comments_of(text)) {
            out_.comment(fmt::format("{}", fmt::join(comment_words(c.of(*text)), " ")), reading_.origin(forms[0]));
            for (std::uint32_t i = c.begin; i < c.end; ++i) plain[i] = ' ';
        }
        std::string_view rest = plain;
        const auto trim = [&] {
            while (!rest.empty() && std::string_view(" \t\n\r").find(rest.front()) != std::string_view::npos)
                rest.remove_prefix(1);
            while (!rest.empty() && std::string_view(" \t\n\r;").find(rest.back()) != std::string_view::npos)
                rest.remove_suffix(1);
        };
        trim();
        const std::size_t assign = rest.find(":=");
        if (assign != std::string_view::npos) {
            std::string_view target = rest.substr(0, assign);
            while (target.ends_with(' ')) target.remove_suffix(1);
            if (target.empty() || base::fold(target) == base::fold(name)) rest.remove_prefix(assign + 2);
        }
        trim();
        out_.in();
        out_.line(fmt::format(":= {};", reading_.expression(forms[0], std::string(rest), "the condition")),
                  text->origins.empty() ? reading_.origin(forms[0]) : inexact(text->origins.front()));
        out_.out();
    }
    /// Of a comment, without its marks.
    static std::vector<std::string> comment_words(std::string_view comment) {
        std::vector<std::string> out;
        std::istringstream words{std::string(comment)};
        for (std::string word; words >> word;) {
            if (word.starts_with("(*") || word.starts_with("//") || word.starts_with("/*")) word.erase(0, 2);
            if (word.ends_with("*)") || word.ends_with("*/")) word.erase(word.size() - 2);
            if (!word.empty()) out.push_back(word);
        }
        return out;
    }
    static base::LineOrigin inexact(base::LineOrigin origin) {
        origin.exact = false;
        origin.shifts.clear();
        return origin;
    }

    // --- actions ---

    void action(pugi::xml_node node, const std::string& name) {
        const pugi::xml_node holder = local_name(node) == "inline" ? node : reading_.child(node, "body");
        out_.blank();
        out_.comment(reading_.documentation(node), reading_.origin(node));
        out_.line(fmt::format("ACTION {}:", name), reading_.origin(node));
        for (const pugi::xml_node form : reading_.elements(holder))
            read_body(reading_, form, unit_text_, declarations_, out_);
        out_.line("END_ACTION", reading_.origin(node));
    }

    Reading& reading_;
    pugi::xml_node unit_, body_;
    const std::string& unit_text_;
    std::vector<std::string>& declarations_;
    TextMaker& out_;
    std::map<std::string, pugi::xml_node> by_id_;
    std::map<std::string, std::vector<pugi::xml_node>> leads_to_;  ///< By localId.
    std::map<std::string, pugi::xml_node> transitions_;            ///< Named ones of the unit, folded.
    std::vector<pugi::xml_node> inline_actions_;
    std::map<const void*, std::string> inline_names_;
};

}  // namespace

void read_chart(Reading& reading, pugi::xml_node unit, pugi::xml_node body, const std::string& unit_text,
                std::vector<std::string>& declarations, TextMaker& out) {
    ChartReader(reading, unit, body, unit_text, declarations, out).read();
}

}  // namespace vyard::files
