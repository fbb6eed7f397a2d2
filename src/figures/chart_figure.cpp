#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "figures/logic_pieces.hpp"

namespace vyard::figures {

namespace {

constexpr double kStepWidth = 150, kStepHeight = 34, kGap = 30, kSize = 12;

/// Something drawn, and a tree of it: what is drawn below a step, from the upper left corner of that.
struct Mark {
    enum class Kind : std::uint8_t { Line, Box, Dashed, Text, Arrow } kind = Kind::Line;
    Box at;  ///< Line: from x, y by width, height.
    Colour colour, fill;
    double size = 1.4;  ///< Of a line its width, of a text its letters.
    std::string text;
    Align align = Align::Left;
    bool bold = false;
};

class Tree {
  public:
    void line(double x0, double y0, double x1, double y1, bool live = false, double width = 0) {
        marks_.push_back({Mark::Kind::Line,
                          {x0, y0, x1 - x0, y1 - y0},
                          live ? kLive : palette::kInk,
                          {},
                          width > 0 ? width
                          : live    ? 3
                                    : 1.4,
                          "",
                          Align::Left,
                          false});
    }
    void box(const Box& box, Colour fill, Colour colour, double width) {
        marks_.push_back({Mark::Kind::Box, box, colour, fill, width, "", Align::Left, false});
        takes(box);
    }
    void mark(const Box& box, Colour colour) {
        marks_.push_back({Mark::Kind::Dashed, box, colour, {}, 1, "", Align::Left, false});
    }
    void text(double x, double y, const std::string& text, double size, Colour colour, Align align = Align::Left,
              bool bold = false) {
        marks_.push_back({Mark::Kind::Text, {x, y, 0, 0}, colour, {}, size, text, align, bold});
        const double width = static_cast<double>(text.size()) * size * 0.62;
        if (align == Align::Left) takes({x, y - size, width, size});
    }
    void arrow(double x, double y) {
        marks_.push_back({Mark::Kind::Arrow, {x, y, 0, 0}, palette::kInk, {}, 1, "", Align::Left, false});
    }
    void takes(const Box& box) { boxes_.push_back(box); }

    /// The least shift to the right at which `other` stands clear of this.
    double clear_of(const Tree& other, double at_least) const {
        double out = at_least;
        for (bool moved = true; moved;) {
            moved = false;
            for (const Box& mine : boxes_) {
                for (const Box& theirs : other.boxes_) {
                    const Box there{theirs.x + out - kGap / 2, theirs.y, theirs.width + kGap, theirs.height};
                    if (!there.overlaps(mine)) continue;
                    out = mine.x + mine.width + kGap / 2 - theirs.x + 0.5;
                    moved = true;
                }
            }
        }
        return out;
    }
    void add(const Tree& other, double x) {
        for (Mark m : other.marks_) {
            m.at.x += x;
            marks_.push_back(std::move(m));
        }
        for (Box b : other.boxes_) {
            b.x += x;
            boxes_.push_back(b);
        }
    }

    double width() const {
        double out = 0;
        for (const Box& b : boxes_) out = std::max(out, b.x + b.width);
        return out;
    }
    double height() const {
        double out = 0;
        for (const Box& b : boxes_) out = std::max(out, b.y + b.height);
        return out;
    }

    void draw(Canvas& canvas, double x, double y) const {
        for (const Mark& m : marks_) {
            const double left = x + m.at.x, top = y + m.at.y;
            switch (m.kind) {
                case Mark::Kind::Line:
                    canvas.line(left, top, left + m.at.width, top + m.at.height, m.colour, m.size);
                    break;
                case Mark::Kind::Box:
                    canvas.rectangle({left, top, m.at.width, m.at.height}, m.fill, m.colour, m.size);
                    break;
                case Mark::Kind::Dashed: mark_box(canvas, {left, top, m.at.width, m.at.height}, m.colour); break;
                case Mark::Kind::Text: canvas.text(left, top, m.text, m.size, m.colour, m.align, m.bold); break;
                case Mark::Kind::Arrow:
                    canvas.polygon({{left - 5, top - 9}, {left + 5, top - 9}, {left, top}}, m.colour);
                    break;
            }
        }
    }

  private:
    std::vector<Mark> marks_;
    std::vector<Box> boxes_;
};

/// Steps and transitions from top to bottom. What was drawn already is named by an arrow instead of being drawn again.
class ChartFigure {
  public:
    ChartFigure(const logic::SeenChart& chart, const LogicMarks& marks) : chart_(chart), marks_(marks) {}

    Tree run() {
        Tree out;
        // The initial step first, then whatever cannot be reached from it.
        for (const bool initial : {true, false}) {
            for (const logic::SeenStep& s : chart_.steps) {
                if (placed_.contains(key(s.step->name)) || (initial && !s.step->initial)) continue;
                const Tree tree = step(s, 4);
                out.add(tree, out.width() > 0 ? out.width() + kGap : 4);
            }
        }
        return out;
    }

  private:
    static std::string key(const std::string& name) { return base::fold(name); }
    static constexpr double kMiddle = kStepWidth / 2;

    const logic::SeenStep* named(const std::string& name) const {
        for (const logic::SeenStep& s : chart_.steps) {
            if (key(s.step->name) == key(name)) return &s;
        }
        return nullptr;
    }

    static bool leaves(const logic::SeenTransition& t, const std::string& step) {
        const auto& from = t.transition->from;
        return std::any_of(from.begin(), from.end(), [&](const auto& f) { return key(f.first) == key(step); });
    }

    /// A step at height `y`, and all below it.
    Tree step(const logic::SeenStep& s, double y) {
        placed_.insert(key(s.step->name));
        const bool live = marks_.state && s.active;
        Tree out;
        if (s.step->initial) out.box({-4, y - 4, kStepWidth + 8, kStepHeight + 8}, palette::kPaper, palette::kInk, 1.2);
        out.box({0, y, kStepWidth, kStepHeight}, live ? faded(kLive, 0.25) : palette::kMist,
                live ? kLive : palette::kInk, live ? 3 : 1.4);
        if (marks_.state && s.changed) {
            out.mark({-4, y - 4, kStepWidth + 8, kStepHeight + 8}, kChanged);
            out.text(kStepWidth + 4, y - 3, s.active ? "was not active" : "was active", 9, kChanged);
        }
        const bool elapsed = live && !s.elapsed.empty();
        out.text(kMiddle, y + (elapsed ? 15 : 21), s.step->name, kSize, palette::kInk, Align::Centre, true);
        if (elapsed) out.text(kMiddle, y + 29, s.elapsed, 10, kValue, Align::Centre);
        actions(out, s, y, live);
        std::vector<Tree> ways;
        const auto alternatives = std::count_if(chart_.transitions.begin(), chart_.transitions.end(),
                                                [&](const auto& t) { return leaves(t, s.step->name); });
        const double top = y + kStepHeight, bar = top + (alternatives > 1 ? 14 : 0);
        double last = 0;
        bool first = true;
        for (const logic::SeenTransition& t : chart_.transitions) {
            if (!leaves(t, s.step->name)) continue;
            const Tree way = transition(t, bar + 12, live);
            const double x = first ? 0 : out.clear_of(way, last + kStepWidth + kGap);
            out.line(x + kMiddle, bar, x + kMiddle, bar + 12, live);
            out.add(way, x);
            last = x;
            first = false;
        }
        if (alternatives > 0) out.line(kMiddle, top, kMiddle, bar, live);
        if (alternatives > 1) out.line(kMiddle, bar, last + kMiddle, bar, live);
        return out;
    }

    /// What a step does, in boxes to its right.
    static void actions(Tree& out, const logic::SeenStep& s, double y, bool live) {
        double x = kStepWidth;
        for (const logic::StepAction& a : s.step->actions) {
            const std::string shown = fmt::format("{}  {}", logic::qualifier_text(a.qualifier), a.name);
            const double needs = 14 + static_cast<double>(shown.size()) * 7.2;
            const double gap = x > kStepWidth ? 6 : 12;
            out.line(x, y + 17, x + gap, y + 17, live);
            x += gap;
            out.box({x, y + 6, needs, 22}, palette::kPaper, live ? kLive : palette::kInk, live ? 2 : 1);
            out.text(x + 7, y + 21, shown, 11, palette::kInk);
            x += needs;
        }
    }

    Tree transition(const logic::SeenTransition& t, double y, bool live) {
        Tree out;
        out.takes({kMiddle - 2, y - 26, 4, 26});  // the line that leads here
        const auto& from = t.transition->from;
        const auto& to = t.transition->to;
        const bool last = ++met_[t.transition] >= static_cast<int>(from.size());
        if (from.size() > 1) {  // several steps end here together: a double line
            for (const double d : {0.0, 4.0}) out.line(0, y + d, kStepWidth, y + d);
            out.takes({0, y, kStepWidth, 4});
            y += 4;
        }
        if (!last) {
            out.text(kMiddle + 8, y + 16, fmt::format("together with {}", from.back().first), 10, palette::kFaint);
            return out;
        }
        out.line(kMiddle, y, kMiddle, y + 8, live);
        out.line(kMiddle - 14, y + 8, kMiddle + 14, y + 8, false, 3);
        out.takes({kMiddle - 14, y, 28, 16});
        out.text(kMiddle + 22, y + 12, t.condition, 11, palette::kInk);
        const std::string never = marks_.gap(t.transition->span.line, t.transition->span.column);
        if (!never.empty()) {
            out.mark({kMiddle - 18, y + 2, 36, 12}, kNever);
            out.text(kMiddle + 30 + static_cast<double>(t.condition.size()) * 6.9, y + 12, never, 10, kNever);
        }
        const std::string values = logic::names_text(t.names);
        const bool shown = marks_.state && live && !values.empty();
        if (shown) out.text(kMiddle + 22, y + 25, values, 10, kValue);
        const double below = y + (to.size() > 1 ? 30 : shown ? 24 : 18);
        out.line(kMiddle, y + 8, kMiddle, below);
        targets(out, to, below);
        return out;
    }

    void targets(Tree& out, const std::vector<std::pair<std::string, logic::Span>>& to, double y) {
        double last = 0;
        const double top = y + (to.size() > 1 ? 4 : 0);
        for (std::size_t i = 0; i < to.size(); ++i) {
            const Tree next = target(to[i].first, top);
            last = i == 0 ? 0 : out.clear_of(next, last + kStepWidth + kGap);
            out.add(next, last);
        }
        for (const double d : {0.0, 4.0}) {
            if (to.size() > 1) out.line(0, y + d, last + kStepWidth, y + d);
        }
    }

    Tree target(const std::string& name, double y) {
        const logic::SeenStep* next = named(name);
        if (next != nullptr && !placed_.contains(key(name))) {
            Tree out = step(*next, y + 14);
            out.line(kMiddle, y, kMiddle, y + 14);
            return out;
        }
        Tree out;
        out.line(kMiddle, y, kMiddle, y + 12);
        out.arrow(kMiddle, y + 19);
        out.text(kMiddle + 10, y + 18, name, kSize, palette::kInk, Align::Left, true);
        return out;
    }

    const logic::SeenChart& chart_;
    const LogicMarks& marks_;
    std::set<std::string> placed_;
    std::map<const logic::ChartTransition*, int> met_;
};

}  // namespace

Piece chart_piece(const logic::SeenChart& chart, const LogicMarks& marks) {
    const auto tree = std::make_shared<Tree>(ChartFigure(chart, marks).run());
    Piece out;
    out.width = tree->width() + 60;
    out.height = tree->height() + 40;
    out.draw = [tree](Canvas& canvas, double x, double y) { tree->draw(canvas, x + 30, y + 14); };
    return out;
}

}  // namespace vyard::figures
