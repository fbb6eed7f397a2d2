#include "report/logic_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <iterator>

#include "report/table.hpp"

namespace vyard::report {

using logic::DrawnElement;
using logic::ElementKind;
using logic::Grid;
using logic::Live;
using logic::Network;

namespace {

/// A line character by its sides, as logic::LineLinks.
const char* line_character(int sides, bool live, bool ascii) {
    static constexpr std::array<const char*, 16> kThin = {" ", "─", "─", "─", "│", "┘", "└", "┴",
                                                          "│", "┐", "┌", "┬", "│", "┤", "├", "┼"};
    static constexpr std::array<const char*, 16> kHeavy = {" ", "━", "━", "━", "┃", "┛", "┗", "┻",
                                                           "┃", "┓", "┏", "┳", "┃", "┫", "┣", "╋"};
    const auto at = static_cast<std::size_t>(sides & 15);
    if (!ascii) return live ? kHeavy[at] : kThin[at];
    if (sides <= 3) return live ? "=" : "-";
    return live ? "#" : (sides & 3) == 0 ? "|" : "+";
}

class NetworkText {
  public:
    NetworkText(const Grid& grid, const logic::SeenNetwork& seen, LogicTextStyle style)
        : network_(*seen.network), seen_(seen), cells_(seen), style_(style), grid_(grid) {}

    std::string run() {
        std::string out;
        for (int r = network_.first_row; r < network_.last_row; ++r) {
            std::string row;
            // A rung that is written in one line is shown as that.
            if (network_.cells.empty()) row = grid_.text(r, 0, grid_.width(r)).text;
            for (int c = 0; c < grid_.width(r) && !network_.cells.empty(); ++c) row += character(r, c);
            out += "  " + row + "\n";
        }
        return fmt::format("{}{}{}", out, values(), changes());
    }

  private:
    std::string character(int row, int column) const {
        const logic::Cell& cell = grid_.at(row, column);
        if (const logic::DrawnCell* line = cells_.line_at(row, column))
            return line_character(line->sides, cells_.live(*line), style_.ascii);
        if (const DrawnElement* e = cells_.symbol_at(row, column)) return symbol(*e, row, column, cell);
        return cell.blank() ? " " : grid_.text(row, column, column + 1).text;
    }

    std::string symbol(const DrawnElement& e, int row, int column, const logic::Cell& cell) const {
        const bool left = column == e.column, right = column == e.column + e.width - 1;
        if (e.kind == ElementKind::Contact && (left || right)) {
            const bool passes = cells_.on(e);
            if (style_.ascii) return passes ? (left ? "[" : "]") : "|";
            return left ? (passes ? "┫" : "┤") : (passes ? "┣" : "├");
        }
        if (e.kind == ElementKind::Coil && !left && !right && cell.blank() && e.width == 3)
            return cells_.on(e) ? (style_.ascii ? "*" : "●") : " ";
        if (e.kind == ElementKind::Box && !style_.ascii) {
            const bool top = row == e.row, bottom = row == e.row + e.height - 1;
            if (top || bottom) {
                if (left) return top ? "┌" : "└";
                if (right) return top ? "┐" : "┘";
                if (cell.links != 0) return "─";
            } else if (left || right) {
                return "│";
            }
        }
        return cell.blank() ? " " : grid_.text(row, column, column + 1).text;
    }

    /// "delay.Q = FALSE", each once, in the order of the drawing, wrapped.
    std::string values() const {
        std::vector<std::string> parts;
        for (const auto& [place, text] : seen_.values) {
            const DrawnElement& e = base::at(network_.elements, place.first);
            if (e.kind == ElementKind::Coil) continue;
            const std::string name = pin_name(e, place.second);
            std::string part = fmt::format("{} = {}", name, text);
            if (name != text && std::find(parts.begin(), parts.end(), part) == parts.end())
                parts.push_back(std::move(part));
        }
        return wrapped(parts, "");
    }

    static std::string wrapped(const std::vector<std::string>& parts, const std::string& word) {
        std::string out, row;
        const auto close = [&] {
            if (!row.empty()) fmt::format_to(std::back_inserter(out), "    {}{}\n", word, row);
            row.clear();
        };
        for (const std::string& part : parts) {
            if (row.size() + part.size() > 90) close();
            row = row.empty() ? part : fmt::format("{}, {}", row, part);
        }
        close();
        return out;
    }

    /// What was not so at the time that is compared with.
    std::string changes() const {
        std::vector<std::string> parts;
        for (const auto& [place, then] : seen_.before) {
            const DrawnElement& e = base::at(network_.elements, place.first);
            const bool on = seen_.state(place.first, place.second) == Live::On;
            const auto value = seen_.values.find(place);
            std::string now = e.kind == ElementKind::Contact && place.second < logic::kFirstOperand
                                  ? (on ? "closed" : "open")
                              : value != seen_.values.end() ? value->second
                                                            : (on ? "TRUE" : "FALSE");
            std::string part = fmt::format("{} {} -> {}", pin_name(e, place.second), then, now);
            if (std::find(parts.begin(), parts.end(), part) == parts.end()) parts.push_back(std::move(part));
        }
        return wrapped(parts, "changed: ");
    }

    /// Where a value stands: a variable, or a pin of a box.
    static std::string pin_name(const DrawnElement& e, int pin) {
        if (e.kind == ElementKind::Contact && pin == logic::kSecondOperand) return e.second.text;
        if (e.kind != ElementKind::Box) return e.name.text;
        const std::string& name = base::at(e.pins, pin).name.text;
        if (!e.name.empty()) return fmt::format("{}.{}", e.name.text, name);
        return name.empty() ? e.type.text : fmt::format("{}.{}", e.type.text, name);
    }

    const Network& network_;
    const logic::SeenNetwork& seen_;
    logic::SeenCells cells_;
    LogicTextStyle style_;
    const Grid& grid_;
};

/// Steps with what they do, and below each the transitions that leave it.
std::string chart_text(const logic::SeenChart& chart, LogicTextStyle style) {
    std::string out;
    const char* thin = style.ascii ? "[ ]" : "□";
    const char* heavy = style.ascii ? "[*]" : "■";
    for (const logic::SeenStep& s : chart.steps) {
        std::string does;
        for (const logic::StepAction& a : s.step->actions)
            does += fmt::format("{}{} {}", does.empty() ? ": " : ", ", logic::qualifier_text(a.qualifier), a.name);
        const std::string since = s.active && !s.elapsed.empty() ? ", active " + s.elapsed : "";
        const char* changed = !s.changed ? "" : s.active ? " (was not active)" : " (was active)";
        out += fmt::format("  {} {}{}{}{}\n", s.active ? heavy : thin, s.step->name, since, changed, does);
        for (const logic::SeenTransition& t : chart.transitions) {
            const auto& from = t.transition->from;
            const auto is = [&](const auto& f) { return base::fold(f.first) == base::fold(s.step->name); };
            if (std::none_of(from.begin(), from.end(), is)) continue;
            std::string to;
            for (const auto& [name, span] : t.transition->to)
                fmt::format_to(std::back_inserter(to), "{}{}", to.empty() ? "" : ", ", name);
            const std::string values = s.active ? logic::names_text(t.names) : "";
            out += fmt::format("      {} {}   {}{}\n", style.ascii ? "->" : "→", to, t.condition,
                               values.empty() ? "" : fmt::format("   ({})", values));
        }
    }
    return out;
}

/// The first characters of UTF-8, the last two of them dots.
std::string shortened(const std::string& text, std::size_t width) {
    std::string out;
    std::size_t shown = 0;
    for (std::size_t i = 0; i < text.size() && shown + 2 < width;) {
        std::size_t end = i + 1;
        while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) ++end;
        out.append(text, i, end - i);
        ++shown;
        i = end;
    }
    return out + "..";
}

std::string lines_text(const std::vector<logic::SeenLine>& lines, LogicTextStyle style) {
    std::size_t widest = 0;
    for (const logic::SeenLine& line : lines) {
        if (!line.names.empty()) widest = std::max(widest, shown_width(line.text));
    }
    widest = std::min<std::size_t>(widest, 100);
    // Behind the number, and with so much left for values.
    if (style.columns > 0)
        widest = std::min(widest, style.columns - std::min(style.columns, 10 + style.columns * 2 / 5));
    std::string out;
    for (const logic::SeenLine& line : lines) {
        const bool cut = style.columns > 0 && !line.names.empty() && shown_width(line.text) > widest;
        const std::string text = cut ? shortened(line.text, widest) : line.text;
        std::string row = fmt::format("{:5}  {}", line.number, text);
        if (!line.names.empty()) {
            const std::size_t gap = widest - std::min(widest, shown_width(text));
            row +=
                fmt::format("{} {} {}", std::string(gap, ' '), style.ascii ? "|" : "│", logic::names_text(line.names));
        }
        fmt::format_to(std::back_inserter(out), "{}\n", row);
    }
    return out;
}

}  // namespace

std::string unit_text(const logic::SeenUnit& unit, LogicTextStyle style) {
    std::string out;
    if (unit.chart) out = fmt::format("\n{}", chart_text(*unit.chart, style));
    for (const logic::SeenPart& part : unit.parts) {
        out += '\n';
        out += part.drawing ? drawing_text(*part.drawing, style) : lines_text(part.lines, style);
    }
    return out;
}

std::string drawing_text(const logic::SeenDrawing& drawing, LogicTextStyle style) {
    const Grid grid(drawing.drawing->text, drawing.drawing->offset, drawing.drawing->span.line + 1);
    std::string out;
    for (const logic::SeenNetwork& network : drawing.networks) {
        std::string title = network.network->title;
        std::replace(title.begin(), title.end(), '\n', ' ');
        out += fmt::format("{}{} {}{}{}\n{}", out.empty() ? "" : "\n",
                           network.form == logic::DrawnForm::Ladder ? "rung" : "network", network.network->number,
                           title.empty() ? "" : ": ", title, NetworkText(grid, network, style).run());
    }
    return out;
}

}  // namespace vyard::report
