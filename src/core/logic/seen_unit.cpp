#include "core/logic/seen_unit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "core/logic/check/model.hpp"
#include "core/logic/inspector.hpp"
#include "core/logic/text/token.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

namespace {

class UnitReader {
  public:
    UnitReader(const Program& program, const std::vector<std::byte>& memory, const std::string& path,
               const ProgramUnit& unit)
        : program_(program), memory_(memory), path_(path), unit_(unit) {
        base::Diagnostics ignored;
        tokens_ = tokenize(unit.source, ignored);
        find_body();
    }

    SeenUnit read(std::vector<SeenDrawing> drawings) {
        SeenUnit out;
        out.path = path_;
        out.unit = &unit_;
        if (!unit_.chart.empty()) out.chart = chart();
        std::sort(drawings.begin(), drawings.end(), [](const SeenDrawing& a, const SeenDrawing& b) {
            return a.drawing->span.line < b.drawing->span.line;
        });
        int line = first_;
        for (SeenDrawing& d : drawings) {
            add_lines(out, line, d.drawing->span.line);
            out.parts.emplace_back();
            line = end_of(*d.drawing);
            out.parts.back().drawing = std::move(d);
        }
        add_lines(out, line, last_);
        return out;
    }

  private:
    static bool word(const Token& t, const char* text) {
        return t.kind == TokenKind::Identifier && base::fold(t.text) == text;
    }

    /// Lines [first_, last_) of the body: from behind the last END_VAR to the end of the unit.
    void find_body() {
        first_ = unit_.span.line + 1;
        last_ = first_;
        for (const Token& t : tokens_) {
            const bool behind = std::pair(t.span.line, t.span.column) > std::pair(unit_.span.line, unit_.span.column);
            if (!behind) continue;
            if (word(t, "end_var")) first_ = t.span.line + 1;
            last_ = t.span.line;
            if (word(t, "end_program") || word(t, "end_function_block") || word(t, "end_class")) break;
        }
    }

    /// The line behind the word that closes a drawing.
    int end_of(const Drawing& d) const {
        return d.span.line + 2 + static_cast<int>(std::count(d.text.begin(), d.text.end(), '\n'));
    }

    /// Of a chart its actions alone: steps and transitions are in its picture.
    bool shown(int line) const {
        if (unit_.chart.empty()) return true;
        bool within = false;
        for (const Token& t : tokens_) {
            if (t.span.line > line) break;
            if (word(t, "action")) within = true;
            if (word(t, "end_action")) within = t.span.line >= line;
        }
        return within;
    }

    void add_lines(SeenUnit& out, int first, int last) {
        SeenPart part;
        for (int n = first; n < last; ++n) {
            if (!shown(n)) continue;
            SeenLine line;
            line.number = n;
            line.text = std::string(unit_.source->line(n));
            while (!line.text.empty() && (line.text.back() == '\r' || line.text.back() == ' ')) line.text.pop_back();
            if (line.text.empty() && part.lines.empty()) continue;
            line.names = names({n, 1}, {n + 1, 1});
            part.lines.push_back(std::move(line));
        }
        while (!part.lines.empty() && part.lines.back().text.empty()) part.lines.pop_back();
        if (!part.lines.empty()) out.parts.push_back(std::move(part));
    }

    using At = std::pair<int, int>;  ///< Line and column.
    static At at(const Token& t) { return {t.span.line, t.span.column}; }

    /// The names between two places whose values are known, each once.
    std::vector<SeenName> names(At from, At to) const {
        std::vector<SeenName> out;
        auto t = std::lower_bound(tokens_.begin(), tokens_.end(), from,
                                  [](const Token& a, At place) { return at(a) < place; });
        while (t != tokens_.end() && at(*t) < to) {
            if (t->kind != TokenKind::Identifier && t->kind != TokenKind::DirectAddress) {
                ++t;
                continue;
            }
            const Token& first = *t;
            std::string name(t->text);
            for (++t; t + 1 != tokens_.end(); t += 2) {
                const bool member = t->text == "." && (t + 1)->kind == TokenKind::Identifier;
                if (!member) break;
                name += '.';
                name += (t + 1)->text;
            }
            if (t + 2 < tokens_.end() && t->text == "[" && (t + 1)->kind == TokenKind::Integer &&
                (t + 2)->text == "]") {
                name += fmt::format("[{}]", (t + 1)->text);
                t += 3;
            }
            const bool known = std::any_of(out.begin(), out.end(), [&](const SeenName& n) { return n.name == name; });
            if (known) continue;
            if (auto seen = look(name)) {
                seen->column = first.span.column - 1;
                out.push_back(std::move(*seen));
            }
        }
        return out;
    }

    const Variable* variable(const std::string& name) const {
        const std::string here = fmt::format("{}.{}", path_, name);
        // Within its block an input with R_EDGE is its edge.
        if (const Variable* edge = program_.find(fmt::format("{}{}.Q", here, kEdgeDetector))) return edge;
        const Variable* v = program_.find(here);
        return v != nullptr ? v : program_.find(name);
    }

    std::optional<SeenName> look(const std::string& name) const {
        const Variable* v = variable(name);
        if (v == nullptr || v->constant) return std::nullopt;
        const Value value = read_value(memory_.data(), v->type, v->offset, v->bit);
        SeenName out;
        out.name = name;
        out.value = value_text(value, v->names.get());
        if (v->type == Elementary::Bool) out.state = value.bits != 0 ? Live::On : Live::Off;
        return out;
    }

    // --- charts ---

    SeenChart chart() const {
        SeenChart out;
        for (const ChartStep& s : unit_.chart.steps) {
            SeenStep seen;
            seen.step = &s;
            if (const auto x = look(s.name + ".X")) seen.active = x->state == Live::On;
            if (const auto t = look(s.name + ".T")) seen.elapsed = t->value;
            out.steps.push_back(std::move(seen));
        }
        for (const ChartTransition& t : unit_.chart.transitions) out.transitions.push_back(transition(t));
        return out;
    }

    /// What stands between ':=' and ';' behind the steps of a transition.
    SeenTransition transition(const ChartTransition& t) const {
        SeenTransition out;
        out.transition = &t;
        const Span& last = t.to.empty() ? t.span : t.to.back().second;
        auto begin = std::find_if(tokens_.begin(), tokens_.end(),
                                  [&](const Token& k) { return at(k) > At(last.line, last.column); });
        while (begin != tokens_.end() && begin->text != ":=" && begin->kind != TokenKind::Drawing) ++begin;
        if (begin == tokens_.end()) return out;
        if (begin->kind == TokenKind::Drawing) {
            out.condition = "drawn";
            return out;
        }
        ++begin;
        auto end = std::find_if(begin, tokens_.end(), [](const Token& k) { return k.text == ";"; });
        if (end == tokens_.end() || end == begin) return out;
        const char* from = begin->text.data();
        out.condition = std::string(from, static_cast<std::size_t>(end->text.data() - from));
        for (char& c : out.condition) c = c == '\n' || c == '\r' || c == '\t' ? ' ' : c;
        for (std::size_t two = out.condition.find("  "); two != std::string::npos; two = out.condition.find("  "))
            out.condition.erase(two, 1);
        out.names = names(at(*begin), at(*end));
        return out;
    }

    const Program& program_;
    const std::vector<std::byte>& memory_;
    std::string path_;
    const ProgramUnit& unit_;
    std::vector<Token> tokens_;
    int first_ = 0, last_ = 0;
};

}  // namespace

std::string names_text(const std::vector<SeenName>& names) {
    std::string out;
    for (const SeenName& n : names)
        fmt::format_to(std::back_inserter(out), "{}{} = {}{}", out.empty() ? "" : ", ", n.name, n.value,
                       n.before.empty() ? "" : fmt::format(" (was {})", n.before));
    return out;
}

namespace {

void mark_names(std::vector<SeenName>& now, const std::vector<SeenName>& before) {
    for (SeenName& n : now) {
        for (const SeenName& b : before) {
            if (b.name == n.name && b.value != n.value) n.before = b.value;
        }
    }
}

/// What stood at an element then, in the words of people.
std::string read_then(const SeenNetwork& network, const std::pair<int, int>& at) {
    const auto value = network.values.find(at);
    if (value != network.values.end()) return value->second;
    const bool on = network.state(at.first, at.second) == Live::On;
    const bool contact = base::at(network.network->elements, at.first).kind == ElementKind::Contact;
    if (contact) return on ? "closed" : "open";
    return on ? "TRUE" : "FALSE";
}

void mark_network(SeenNetwork& now, const SeenNetwork& before) {
    for (const auto& [at, value] : now.values) {
        const auto then = before.values.find(at);
        if (then != before.values.end() && then->second != value) now.before[at] = then->second;
    }
    for (const auto& [at, state] : now.states) {
        const auto then = before.states.find(at);
        if (then != before.states.end() && then->second != state) now.before[at] = read_then(before, at);
    }
}

}  // namespace

void mark_changes(SeenUnit& now, const SeenUnit& before) {
    for (std::size_t p = 0; p < now.parts.size() && p < before.parts.size(); ++p) {
        SeenPart& part = now.parts[p];
        const SeenPart& then = before.parts[p];
        for (std::size_t i = 0; i < part.lines.size() && i < then.lines.size(); ++i)
            mark_names(part.lines[i].names, then.lines[i].names);
        if (!part.drawing || !then.drawing) continue;
        for (std::size_t i = 0; i < part.drawing->networks.size(); ++i)
            mark_network(part.drawing->networks[i], base::at(then.drawing->networks, i));
    }
    if (!now.chart || !before.chart) return;
    for (std::size_t i = 0; i < now.chart->steps.size(); ++i)
        now.chart->steps[i].changed = now.chart->steps[i].active != before.chart->steps[i].active;
    for (std::size_t i = 0; i < now.chart->transitions.size(); ++i)
        mark_names(now.chart->transitions[i].names, before.chart->transitions[i].names);
}

std::optional<SeenUnit> seen_unit(const Program& program, const std::vector<std::byte>& memory, std::int64_t now_ns,
                                  const std::string& path) {
    for (const UnitPlace& place : unit_places(program)) {
        if (base::fold(place.path) != base::fold(path)) continue;
        return UnitReader(program, memory, place.path, *place.layout->unit)
            .read(*seen(program, memory, now_ns, place.path));
    }
    return std::nullopt;
}

std::vector<std::string> unit_paths(const Program& program) {
    std::vector<std::string> out;
    for (const UnitPlace& place : unit_places(program)) out.push_back(place.path);
    return out;
}

}  // namespace vyard::logic
