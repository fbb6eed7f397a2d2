#include <fmt/format.h>

#include <algorithm>
#include <tuple>

#include "figures/logic_pieces.hpp"

namespace vyard::figures {

using logic::DrawnElement;
using logic::ElementKind;
using logic::Live;

namespace {

constexpr double kHalf = kRow / 2, kName = 12, kSmall = 9.5, kTiny = 8;
constexpr double kThin = 1.2, kThick = 3;

class NetworkFigure {
  public:
    NetworkFigure(const logic::SeenNetwork& seen, const LogicMarks& marks, Canvas& canvas, double x, double y)
        : network_(*seen.network), seen_(seen), cells_(seen), marks_(marks), canvas_(canvas), x_(x), y_(y) {}

    void draw() {
        for (const logic::DrawnCell& c : network_.cells) line(c);
        draw_lines();
        for (int i = 0; i < static_cast<int>(network_.elements.size()); ++i) element(i);
    }

  private:
    struct Line {
        bool upright = false, live = false;
        double at = 0, begin = 0, end = 0;  ///< Its height or, upright, its column; from where to where.

        bool operator<(const Line& other) const {
            return std::tie(upright, live, at, begin, end) <
                   std::tie(other.upright, other.live, other.at, other.begin, other.end);
        }
        bool goes_on(const Line& first, double from) const {
            return upright == first.upright && live == first.live && at == first.at && begin <= from + 0.01;
        }
    };
    struct Joint {
        double x = 0, y = 0;
        bool live = false;
    };

    double column(double c) const { return x_ + c * kColumn; }
    double row(double r) const { return y_ + (r - network_.first_row) * kRow; }
    double middle(int r) const { return row(r) + kHalf; }

    // --- lines ---

    /// From the middle of a cell to its sides.
    void line(const logic::DrawnCell& c) {
        const double x = column(c.column + 0.5), y = middle(c.row);
        const bool crossing = c.across != c.upright && c.across >= 0 && c.upright >= 0 && c.sides == 12;
        const double left = column(c.column), right = column(c.column + 1), low = row(c.row + 1);
        if (crossing) lines_.push_back({false, marks_.state && cells_.live(c, false), y, left, right});
        if (c.sides & logic::kLeft) lines_.push_back({false, part(c, false), y, left, x});
        if (c.sides & logic::kRight) lines_.push_back({false, part(c, false), y, x, right});
        if (c.sides & logic::kUp) lines_.push_back({true, part(c, true), x, row(c.row), y});
        if (c.sides & logic::kDown) lines_.push_back({true, part(c, true), x, y, low});
        const bool joint = (c.sides & 3) != 0 && (c.sides & 12) != 0 && c.sides != 3 && count(c.sides) > 2;
        if (joint) joints_.push_back({x, y, part(c, true)});
    }
    /// What follows one another is one line.
    void draw_lines() {
        std::sort(lines_.begin(), lines_.end());
        for (std::size_t i = 0; i < lines_.size();) {
            const Line& first = lines_[i];
            double end = first.end;
            for (++i; i < lines_.size() && lines_[i].goes_on(first, end); ++i) end = std::max(end, lines_[i].end);
            if (first.upright) {
                stretch(first.at, first.begin, first.at, end, first.live);
            } else {
                stretch(first.begin, first.at, end, first.at, first.live);
            }
        }
        for (const Joint& j : joints_) {
            const Colour colour = j.live ? kLive : palette::kInk;
            canvas_.circle(j.x, j.y, 2.4, colour, colour, 0.5);
        }
    }
    static int count(int sides) { return (sides & 1) + (sides >> 1 & 1) + (sides >> 2 & 1) + (sides >> 3 & 1); }
    bool part(const logic::DrawnCell& c, bool upright) const {
        return marks_.state && cells_.live(c, upright && c.upright >= 0);
    }
    void stretch(double x0, double y0, double x1, double y1, bool live) {
        // A little longer, so that pieces of one line meet without a gap.
        const double dx = x1 > x0 ? 0.4 : 0, dy = y1 > y0 ? 0.4 : 0;
        canvas_.line(x0 - dx, y0 - dy, x1 + dx, y1 + dy, live ? kLive : palette::kInk, live ? kThick : kThin);
    }

    // --- what stands on them ---

    void element(int number) {
        const DrawnElement& e = base::at(network_.elements, number);
        switch (e.kind) {
            case ElementKind::Contact: return contact(number, e);
            case ElementKind::Coil: return coil(number, e);
            case ElementKind::Box: return box(number, e);
            case ElementKind::Source: return end(number, e, e.name.text, true);
            case ElementKind::Target: return end(number, e, e.name.text, false);
            case ElementKind::Enter: return end(number, e, "▷ " + e.name.text, true);
            case ElementKind::Leave: return end(number, e, e.name.text + " ▷", false);
            case ElementKind::Jump: return end(number, e, "» " + e.name.text, false);
            case ElementKind::Return: return end(number, e, "RETURN", false);
        }
    }

    bool on(int number, int pin = 0) const { return marks_.state && seen_.state(number, pin) == Live::On; }
    std::string value(int number, int pin) const {
        const auto found = seen_.values.find({number, pin});
        return !marks_.state || found == seen_.values.end() ? "" : found->second;
    }

    bool forced(const std::string& name) const { return marks_.state && marks_.forced.contains(base::fold(name)); }

    void name(double x, double y, const std::string& text, Align align) {
        if (forced(text)) {
            const double width = canvas_.text_width(text, kName) + 6;
            const double left = align == Align::Centre ? x - width / 2 : align == Align::Right ? x - width + 3 : x - 3;
            canvas_.rectangle({left, y - kName, width, kName + 5}, kForced, kForced, 0);
        }
        canvas_.text(x, y, text, kName, palette::kInk, align, forced(text));
        const std::string address = marks_.address ? marks_.address(text) : "";
        if (!address.empty()) canvas_.text(x, y - kName, address, 8, palette::kFaint, align);
    }

    /// Below a symbol at `y`, what there is to say of it: that it is forced (the symbol shows what the logic has), that
    /// it was never closed, what it was before, what its variable is described as; the first of these.
    void below(double x, double y, int number, const std::string& variable) {
        const DrawnElement& e = base::at(network_.elements, number);
        const std::string never = marks_.gap(e.span.line, e.span.column);
        const auto changed = seen_.before.find({number, 0});
        const bool was = marks_.state && changed != seen_.before.end();
        if (!never.empty() || was) {
            const Box symbol{column(e.column) - 2, y - 12, e.width * kColumn + 4, 24};
            mark_box(canvas_, symbol, never.empty() ? kChanged : kNever);
        }
        const auto say = [&](const std::string& text, double size, Colour colour) {
            canvas_.text(x, y + 19.5, text, size, colour, Align::Centre);
        };
        if (forced(variable)) {
            say("forced " + marks_.forced.at(base::fold(variable)), kSmall, palette::kVermilion);
        } else if (!never.empty()) {
            say(never, kSmall, kNever);
        } else if (was) {
            say("was " + changed->second, kSmall, kChanged);
        } else {
            say(described(variable, room(e)), kTiny, palette::kFaint);
        }
    }

    /// The width that a text below a symbol may take beside those of its neighbours.
    double room(const DrawnElement& e) const {
        int apart = 18;
        for (const DrawnElement& other : network_.elements) {
            const bool beside = other.row == e.row && other.column != e.column && other.kind != ElementKind::Box;
            if (beside) apart = std::min(apart, std::abs(other.column - e.column));
        }
        return apart * kColumn - 6;
    }

    /// The description of a variable, as much as fits.
    std::string described(const std::string& variable, double width) const {
        std::string text = marks_.description ? marks_.description(variable) : "";
        if (canvas_.text_width(text, kTiny) <= width) return text;
        while (!text.empty() && canvas_.text_width(fmt::format("{}…", text), kTiny) > width) {
            while (!text.empty() && (static_cast<unsigned char>(text.back()) & 0xC0U) == 0x80U) text.pop_back();
            if (!text.empty()) text.pop_back();
        }
        return text.empty() ? text : fmt::format("{}…", text);
    }

    void contact(int number, const DrawnElement& e) {
        const double left = column(e.column + 0.5), right = column(e.column + e.width - 0.5);
        const double centre = (left + right) / 2, y = middle(e.row);
        const Colour colour = on(number) ? kLive : palette::kInk;
        const double width = on(number) ? kThick : kThin + 0.4;
        if (on(number)) canvas_.rectangle({left, y - 8, right - left, 16}, faded(kLive, 0.18), kLive, 0);
        for (const double x : {left, right}) canvas_.line(x, y - 9, x, y + 9, colour, width);
        // The line leads up to the bars.
        stretch(column(e.column), y, left, y, marks_.state && power(e, 0));
        stretch(right, y, column(e.column + e.width), y, on(number) && power(e, 0));
        static constexpr const char* kMarks[] = {"", "", "P", "N", ""};
        const std::string mark =
            e.contact == logic::ContactKind::Compare ? e.comparison : kMarks[static_cast<int>(e.contact)];
        if (e.contact == logic::ContactKind::Closed) canvas_.line(left + 2, y + 8, right - 2, y - 8, colour, width);
        if (!mark.empty()) canvas_.text(centre, y + 4, mark, 11, colour, Align::Centre, true);
        name(centre, row(e.row) - 9, e.name.text, Align::Centre);
        operand(number, logic::kFirstOperand, centre, row(e.row) + 2);
        below(centre, y, number, e.second.empty() ? e.name.text : "");
        if (e.second.empty()) return;
        name(centre, row(e.row + 1) + 13, e.second.text, Align::Centre);
        operand(number, logic::kSecondOperand, centre, row(e.row + 1) + 23);
    }

    bool power(const DrawnElement& e, std::size_t pin) const {
        const int net = pin < e.pins.size() ? e.pins[pin].net : -1;
        return marks_.state && net >= 0 && base::at(seen_.nets, net) == Live::On;
    }

    void operand(int number, int pin, double x, double y) {
        const std::string text = value(number, pin);
        if (!text.empty()) canvas_.text(x, y, text, kSmall, kValue, Align::Centre);
    }

    void coil(int number, const DrawnElement& e) {
        const double centre = column(e.column + e.width / 2.0), y = middle(e.row);
        const double radius = 9.5, half = e.width * kColumn / 2;
        const bool lit = on(number);
        stretch(centre - half, y, centre - radius, y, power(e, 0));
        stretch(centre + radius, y, centre + half, y, power(e, 0));
        canvas_.circle(centre, y, radius, lit ? kLive : palette::kPaper, lit ? kLive : palette::kInk, kThin + 0.4);
        static constexpr const char* kMarks[] = {"", "/", "S", "R", "P", "N"};
        const char* mark = kMarks[static_cast<int>(e.coil)];
        canvas_.text(centre, y + 4, mark, 11, lit ? palette::kPaper : palette::kInk, Align::Centre, true);
        name(centre, row(e.row) - 9, e.name.text, Align::Centre);
        below(centre, y, number, e.name.text);
    }

    /// A value, and what it was before.
    std::string with_before(int number, int pin, std::string shown) const {
        const auto changed = seen_.before.find({number, pin});
        if (!marks_.state || changed == seen_.before.end()) return shown;
        return fmt::format("{} (was {})", shown, changed->second);
    }

    void end(int number, const DrawnElement& e, const std::string& text, bool left) {
        const double y = middle(e.row) + 4;
        const double x = left ? column(e.column + e.width) : column(e.column);
        if (e.kind == ElementKind::Source || e.kind == ElementKind::Target) {
            name(x, y, text, left ? Align::Right : Align::Left);
        } else {
            canvas_.text(x, y, text, kName, palette::kInk, left ? Align::Right : Align::Left, true);
        }
        std::string shown = value(number, 0);
        if (shown == text) shown.clear();
        const bool changed = marks_.state && seen_.before.contains({number, 0});
        if (!shown.empty()) {
            canvas_.text(x, y + 10.5, with_before(number, 0, shown), kSmall, changed ? kChanged : kValue,
                         left ? Align::Right : Align::Left);
        } else if (marks_.description) {
            canvas_.text(x, y + 9.5, described(text, 14 * kColumn), kTiny, palette::kFaint,
                         left ? Align::Right : Align::Left);
        }
    }

    // --- boxes ---

    void box(int number, const DrawnElement& e) {
        const double left = column(e.column + 0.5), right = column(e.column + e.width - 0.5);
        const double top = middle(e.row), bottom = middle(e.row + e.height - 1);
        canvas_.rectangle({left, top, right - left, bottom - top}, palette::kMist, palette::kInk, kThin + 0.3);
        const bool above = e.type.span.line < e.span.line + 1;
        canvas_.text((left + right) / 2, above ? top - 6 : middle(e.row + 1) + 4, e.type.text, kName, palette::kInk,
                     Align::Centre, true);
        if (!e.name.empty()) name((left + right) / 2, top - (above ? 20 : 7), e.name.text, Align::Centre);
        const std::string never = marks_.gap(e.span.line, e.span.column);
        if (!never.empty()) {
            mark_box(canvas_, {left - 4, top - 4, right - left + 8, bottom - top + 8}, kNever);
            canvas_.text((left + right) / 2, bottom + 14, never, kSmall, kNever, Align::Centre);
        }
        if (e.order > 0)
            canvas_.text((left + right) / 2, bottom - 3, std::to_string(e.order), kSmall, palette::kInk, Align::Centre);
        for (int i = 0; i < static_cast<int>(e.pins.size()); ++i) pin(number, i, left, right);
    }

    /// The row of a pin, in the drawing.
    int row_of(const logic::DrawnPin& p, const DrawnElement& e) const {
        return std::max(p.name.span.line - e.span.line, 1) + e.row;
    }

    void pin(int number, int i, double left, double right) {
        const DrawnElement& e = base::at(network_.elements, number);
        const logic::DrawnPin& p = base::at(e.pins, i);
        const double side = p.output ? right : left, way = p.output ? 1 : -1;
        const double y = middle(row_of(p, e));
        canvas_.text(side - way * 4, y + 4, p.name.text, 11, palette::kInk, p.output ? Align::Right : Align::Left);
        if (p.net >= 0) {
            const double end = p.output ? column(p.column) : column(p.column + 1);
            const bool live = marks_.state && base::at(seen_.nets, p.net) == Live::On;
            stretch(side, y, end, y, live);
        }
        if (p.negated) canvas_.circle(side + way * 4, y, 3.6, palette::kPaper, palette::kInk, kThin);
        if (p.edge != logic::PinEdge::None) edge(side, y, p.edge == logic::PinEdge::Rising);
        std::string shown = value(number, i);
        if (shown.empty() || target_shows(p)) return;
        const bool bare = p.net < 0, changed = marks_.state && seen_.before.contains({number, i});
        canvas_.text(side + way * (bare ? 5 : 8), y + (bare ? 3.5 : -3), with_before(number, i, shown), kSmall,
                     changed ? kChanged : kValue, p.output ? Align::Left : Align::Right);
    }

    /// The value stands at the one variable that takes it.
    bool target_shows(const logic::DrawnPin& p) const {
        if (p.net < 0) return false;
        const std::vector<logic::NetEnd>& to = base::at(network_.nets, p.net).to;
        return p.output && to.size() == 1 && base::at(network_.elements, to[0].element).kind == ElementKind::Target;
    }

    void edge(double x, double y, bool rising) {
        const double tip = rising ? x + 8 : x, foot = rising ? x : x + 8;
        canvas_.path({{foot, y - 5}, {tip, y}, {foot, y + 5}}, palette::kInk, kThin);
    }

    const logic::Network& network_;
    const logic::SeenNetwork& seen_;
    logic::SeenCells cells_;
    const LogicMarks& marks_;
    Canvas& canvas_;
    double x_, y_;
    std::vector<Line> lines_;
    std::vector<Joint> joints_;
};

/// Of UTF-8.
double letters(const std::string& text) {
    return static_cast<double>(std::count_if(text.begin(), text.end(),
                                             [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

constexpr double kTitleRow = 16;
constexpr double kTitleCharacter = 7.2;  ///< Of text of 12 points, on average, with some to spare.

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> out;
    for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        out.push_back(text.substr(begin, end - begin));
        begin = end + 1;
    }
    return out;
}

}  // namespace

Piece network_piece(const logic::Grid& grid, const logic::SeenNetwork& seen, const LogicMarks& marks) {
    const logic::Network& n = *seen.network;
    const std::string heading = fmt::format("{}", n.number);
    const std::vector<std::string> title = lines_of(n.title);
    int width = 0;
    for (int r = n.first_row; r < n.last_row; ++r) width = std::max(width, grid.width(r));
    // What was never exercised of it as a whole; marks at its elements are theirs.
    std::string never;
    for (const logic::CoverGap& g : marks.gaps) {
        const int r = g.place.line - grid.span(0, 0).line;
        const bool at_element = std::any_of(n.elements.begin(), n.elements.end(), [&](const DrawnElement& e) {
            return e.span.line == g.place.line && e.span.column == g.place.column;
        });
        if (r >= n.first_row && r < n.last_row && !at_element) never = g.what;
    }
    const double head = title.empty() && never.empty()
                            ? 8
                            : 26 + kTitleRow * static_cast<double>(std::max<std::size_t>(title.size(), 1) - 1);
    const double label = n.label.empty() ? 0 : 22;
    Piece out;
    out.width = 40 + width * kColumn;
    for (std::size_t i = 0; i < title.size(); ++i) {
        const std::string beside = i + 1 == title.size() && !never.empty() ? "  " + never : "";
        out.width = std::max(out.width, 40 + kTitleCharacter * letters(title[i] + beside));
    }
    out.height = head + label + (n.last_row - n.first_row) * kRow + 14;
    out.draw = [&grid, &seen, &marks, &n, heading, title, never, head, label](Canvas& canvas, double x, double y) {
        canvas.text(x + 24, y + head + label + kHalf + 4, heading, 11, palette::kFaint, Align::Right, true);
        double below = y + 16;
        for (std::size_t i = 0; i < title.size(); ++i, below += kTitleRow)
            canvas.text(x + 34, below, title[i], 12, palette::kFaint);
        if (!never.empty()) {
            const double beside = title.empty() ? 0 : canvas.text_width(title.back(), 12) + 16;
            canvas.text(x + 34 + beside, y + head - 10, never, 11, kNever);
        }
        if (label > 0) canvas.text(x + 34, y + head + 14, n.label.text + ":", kName, palette::kInk, Align::Left, true);
        if (n.cells.empty()) {
            canvas.text(x + 34, y + head + label + kHalf + 4, grid.text(n.first_row, 0, grid.width(n.first_row)).text,
                        kName, palette::kInk);
            return;
        }
        NetworkFigure(seen, marks, canvas, x + 34, y + head + label).draw();
    };
    return out;
}

}  // namespace vyard::figures
