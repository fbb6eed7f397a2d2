#include "report/logic_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

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
        : network_(*seen.network), seen_(seen), style_(style), grid_(grid) {
        for (const logic::DrawnCell& c : network_.cells) cells_[{c.row, c.column}] = &c;
    }

    std::string run() {
        std::string out;
        for (int r = network_.first_row; r < network_.last_row; ++r) {
            std::string row;
            // A rung that is written in one line is shown as that.
            if (network_.cells.empty()) row = grid_.text(r, 0, grid_.width(r)).text;
            for (int c = 0; c < grid_.width(r) && !network_.cells.empty(); ++c) row += character(r, c);
            out += "  " + row + "\n";
        }
        return out + values();
    }

  private:
    bool live(int net) const { return net >= 0 && base::at(seen_.nets, net) == Live::On; }
    bool on(const DrawnElement& e) const {
        return seen_.state(static_cast<int>(&e - network_.elements.data())) == Live::On;
    }

    const DrawnElement* element_at(int row, int column) const {
        for (const DrawnElement& e : network_.elements) {
            const bool symbol =
                e.kind == ElementKind::Contact || e.kind == ElementKind::Coil || e.kind == ElementKind::Box;
            if (symbol && row >= e.row && row < e.row + e.height && column >= e.column && column < e.column + e.width)
                return &e;
        }
        return nullptr;
    }

    std::string character(int row, int column) const {
        const logic::Cell& cell = grid_.at(row, column);
        if (const auto found = cells_.find({row, column}); found != cells_.end()) return line(*found->second, cell);
        if (const DrawnElement* e = element_at(row, column)) return symbol(*e, row, column, cell);
        return cell.blank() ? " " : grid_.text(row, column, column + 1).text;
    }

    /// Right behind an open contact a line is dead up to the joint at which others feed it.
    bool fed(const logic::DrawnCell& at) const {
        int c = at.column - 1;
        while (cells_.contains({at.row, c}) && grid_.at(at.row, c).horizontal()) --c;
        const DrawnElement* e = cells_.contains({at.row, c}) ? nullptr : element_at(at.row, c);
        if (e == nullptr || e->kind != ElementKind::Contact || base::at(network_.nets, at.across).from.size() < 2)
            return true;
        return live(e->pins[0].net) && on(*e);
    }

    std::string line(const logic::DrawnCell& at, const logic::Cell& cell) const {
        const bool has_power = cell.horizontal() ? live(at.across) && fed(at) : live(at.upright);
        return line_character(at.sides, has_power, style_.ascii);
    }

    std::string symbol(const DrawnElement& e, int row, int column, const logic::Cell& cell) const {
        const bool left = column == e.column, right = column == e.column + e.width - 1;
        if (e.kind == ElementKind::Contact && (left || right)) {
            const bool passes = on(e);
            if (style_.ascii) return passes ? (left ? "[" : "]") : "|";
            return left ? (passes ? "┫" : "┤") : (passes ? "┣" : "├");
        }
        if (e.kind == ElementKind::Coil && !left && !right && cell.blank() && e.width == 3)
            return on(e) ? (style_.ascii ? "*" : "●") : " ";
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
            std::string name = e.name.text;
            if (e.kind == ElementKind::Contact)
                name = fmt::format("{} {} {}", e.name.text, e.comparison, e.second.text);
            if (e.kind == ElementKind::Box) {
                const std::string& pin = base::at(e.pins, place.second).name.text;
                name = e.name.empty() ? e.type.text + (pin.empty() ? "" : "." + pin)
                                      : fmt::format("{}.{}", e.name.text, pin);
            }
            std::string part = fmt::format("{} = {}", name, text);
            if (name != text && std::find(parts.begin(), parts.end(), part) == parts.end())
                parts.push_back(std::move(part));
        }
        std::string out, row;
        const auto close = [&] {
            if (!row.empty()) out += "    " + row + "\n";
            row.clear();
        };
        for (const std::string& part : parts) {
            if (row.size() + part.size() > 90) close();
            row += (row.empty() ? "" : ", ") + part;
        }
        close();
        return out;
    }

    const Network& network_;
    const logic::SeenNetwork& seen_;
    LogicTextStyle style_;
    const Grid& grid_;
    std::map<std::pair<int, int>, const logic::DrawnCell*> cells_;
};

}  // namespace

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
