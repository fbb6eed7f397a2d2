#include "figures/plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "core/plant/plant.hpp"
#include "figures/item_colours.hpp"
#include "figures/labels.hpp"
#include "figures/scene.hpp"

namespace vyard::figures {

namespace {

constexpr double kMargin = 28, kTitle = 52;
constexpr double kText = Labels::kText;
using Points = std::vector<std::pair<double, double>>;
using plant::Side;
using plant::Tile;

class PlanDrawing {
  public:
    PlanDrawing(const Scene& scene, const Frame& frame, Canvas& canvas, PlanFrame how)
        : scene_(scene), frame_(frame), canvas_(canvas), page_(how == PlanFrame::Page) {}

    void run() {
        order_tiles();
        alerts();
        tiles_height_ = tile_rows() * kTileHeight + (page_ ? 26 : 8);
        fit();
        if (page_) title();
        for (const Shape& s : frame_.below) shape(s);
        pipes();
        items();
        for (const Shape& s : frame_.above) shape(s);
        place_labels();
        tiles();
        if (page_) legend();
    }

  private:
    // --- scale ---
    void fit() {
        const plant::Rectangle& r = scene_.bounds;
        const double room_x = canvas_.width() - 2 * kMargin,
                     room_y = canvas_.height() - title_height() - tiles_height_ - legend_height() - (page_ ? 90 : 60);
        scale_ =
            std::min(room_x / std::max(r.x1_m - r.x0_m, 0.5), room_y / std::max(r.y1_m - r.y0_m + kLabelRoom_m, 0.5));
        origin_x_ = kMargin + (room_x - (r.x1_m - r.x0_m) * scale_) / 2 - r.x0_m * scale_;
        origin_y_ = title_height() + (page_ ? 60 : 30) + (room_y - (r.y1_m - r.y0_m) * scale_) / 2 + r.y1_m * scale_;
    }
    double title_height() const { return page_ ? kTitle : 0; }
    double legend_height() const { return page_ ? kLegend + kAlertLine * static_cast<double>(alerts_.size()) : 0; }
    double px(double x_m) const { return origin_x_ + x_m * scale_; }
    double py(double y_m) const { return origin_y_ - y_m * scale_; }
    Box box(const plant::Rectangle& r) const {
        return {px(r.x0_m), py(r.y1_m), (r.x1_m - r.x0_m) * scale_, (r.y1_m - r.y0_m) * scale_};
    }
    Points on_page(const std::vector<plant::Vector2>& points) const {
        Points out;
        out.reserve(points.size());
        for (const plant::Vector2& p : points) out.emplace_back(px(p.x_m), py(p.y_m));
        return out;
    }

    const FrameDevice& now(int device) const { return base::at(frame_.devices, device); }
    const SceneDevice& what(int device) const { return base::at(scene_.devices, device); }
    Box around(int device) const { return box(now(device).area.bounds()); }
    void outline(const Points& points, Colour fill, Colour stroke, double width, bool dashed = false) {
        canvas_.polygon(points, fill);
        for (std::size_t i = 0; width > 0 && i < points.size(); ++i) {
            const auto& [x0, y0] = points[i];
            const auto& [x1, y1] = points[(i + 1) % points.size()];
            canvas_.line(x0, y0, x1, y1, stroke, width, dashed);
        }
    }

    void title() {
        canvas_.text(kMargin, 32, scene_.name, 20, palette::kInk, Align::Left, true);
        canvas_.text(canvas_.width() - kMargin, 32, fmt::format("plan at {}", base::clock_text(frame_.at)), 16,
                     palette::kInk, Align::Right);
        canvas_.line(kMargin, 42, canvas_.width() - kMargin, 42, palette::kFaint);
    }

    void shape(const Shape& s) {
        const Points at = on_page(s.points);
        switch (s.form) {
            case Shape::Form::Box: outline(at, colour(s.fill), colour(s.line), s.line.width, s.line.dashed); break;
            case Shape::Form::Disc:
                canvas_.circle(at[0].first, at[0].second, s.size * scale_, colour(s.fill), colour(s.line),
                               s.line.width);
                break;
            case Shape::Form::Line:
                canvas_.line(at[0].first, at[0].second, at[1].first, at[1].second, colour(s.line), s.line.width,
                             s.line.dashed);
                break;
            case Shape::Form::Path: canvas_.path(at, colour(s.line), s.line.width); break;
            case Shape::Form::Polygon: canvas_.polygon(at, colour(s.fill)); break;
            case Shape::Form::Mark: mark(s, at[0].first, at[0].second); break;
            case Shape::Form::Number:
            case Shape::Form::LevelBar:
            case Shape::Form::LevelArea: within(s, around(s.device)); break;
            case Shape::Form::LevelMark: level_mark(s, around(s.on_device)); break;
            case Shape::Form::Label: label(s, at[0].first, at[0].second); break;
            case Shape::Form::KeepClear:
                labels_.reserve(
                    {std::min(at[0].first, at[1].first) - s.size / 2, std::min(at[0].second, at[1].second) - s.size / 2,
                     std::abs(at[0].first - at[1].first) + s.size, std::abs(at[0].second - at[1].second) + s.size});
                break;
        }
    }

    void mark(const Shape& s, double x, double y) {
        const double r = s.size, width = s.line.width;
        switch (s.mark) {
            case plant::Mark::Dot: canvas_.circle(x, y, r, colour(s.fill), colour(s.line), width); break;
            case plant::Mark::Square:
                canvas_.rectangle({x - r, y - r + 1, 2 * r, 2 * r - 2}, colour(s.fill), colour(s.line), width);
                break;
            case plant::Mark::Diamond:
                diamond(x, y, r, colour(s.line));
                diamond(x, y, r - width, colour(s.fill));
                break;
            case plant::Mark::Arrow:
                canvas_.polygon({{x - r, y - r}, {x - r, y + r}, {x + r, y}}, colour(s.fill));
                break;
            case plant::Mark::Cross:
                canvas_.line(x - r, y, x + r, y, colour(s.line), width);
                canvas_.line(x, y - r, x, y + r, colour(s.line), width);
                break;
        }
    }
    void diamond(double x, double y, double r, Colour fill) {
        canvas_.polygon({{x, y - r}, {x + r, y}, {x, y + r}, {x - r, y}}, fill);
    }

    /// At the bar of its tank, which stands where within() draws it.
    void level_mark(const Shape& s, const Box& b) {
        const double y = b.y + 6 + (b.height - 12) * (1 - std::clamp(s.size, 0.0, 1.0)), x = b.x + b.width - 6;
        canvas_.line(x - 14, y, x + 4, y, palette::kInk, 1.4);
        canvas_.circle(x + 6, y, 3, colour(s.fill), palette::kInk, 1);
        labels_.want({x + 12, y + 4, s.text, Side::Right, now(s.device).fault});
    }

    void within(const Shape& s, const Box& b) {
        if (s.form == Shape::Form::Number) {
            canvas_.text(b.x + b.width / 2, b.y + b.height / 2 + 7, fmt::format("{:.0f}", s.size), 20, palette::kInk,
                         Align::Centre, true);
        } else if (s.form == Shape::Form::LevelBar) {
            const Box bar{b.x + b.width - 16, b.y + 6, 10, b.height - 12};
            canvas_.rectangle(bar, palette::kPaper, palette::kBlue, 1);
            canvas_.rectangle({bar.x, bar.y + bar.height * (1 - s.size), bar.width, bar.height * s.size},
                              palette::kBlue, palette::kBlue, 0);
        } else {
            canvas_.rectangle({b.x + 2, b.y + b.height * (1 - s.size), b.width - 4, b.height * s.size - 2},
                              colour(s.fill), palette::kInk, 0);
        }
    }

    void label(const Shape& s, double x, double y) {
        const bool fault = now(s.device).fault;
        const double right = s.side == Side::Right ? s.size : s.side == Side::Left ? -s.size : 0.0;
        const double down = s.side == Side::Below ? s.size : s.side == Side::Above ? -s.size : 0.0;
        labels_.want({x + right, y + down, fault ? s.text + "  FAULT" : s.text, s.side, fault});
    }

    static Colour colour_of(plant::Tone tone) {
        switch (tone) {
            case plant::Tone::None:
            case plant::Tone::Paper: return palette::kPaper;
            case plant::Tone::Mist: return palette::kMist;
            case plant::Tone::Faint: return palette::kFaint;
            case plant::Tone::Ink: return palette::kInk;
            case plant::Tone::Runs: return palette::kGreen;
            case plant::Tone::Active: return palette::kOrange;
            case plant::Tone::Out: return palette::kVermilion;
            case plant::Tone::Light: return palette::kYellow;
            case plant::Tone::Water: return palette::kBlue;
            case plant::Tone::Sky: return palette::kSky;
            case plant::Tone::Bulk: return palette::kYellow;
            case plant::Tone::Travel: return palette::kPurple;
        }
        return palette::kInk;
    }
    Colour colour(plant::Fill fill) const {
        const Colour base =
            fill.colour == plant::kNone ? colour_of(fill.tone) : item_colour(scene_.colours, fill.colour);
        return fill.strength < 1.0 ? faded(base, fill.strength) : base;
    }
    static Colour colour(plant::Line line) {
        return line.strength < 1.0 ? faded(colour_of(line.tone), line.strength) : colour_of(line.tone);
    }

    // --- pipes: from tank to tank by way of a pump or valve ---
    void pipes() {
        std::map<std::pair<int, int>, int> between;  // several side by side
        for (std::size_t i = 0; i < scene_.devices.size(); ++i) {
            const SceneDevice& d = scene_.devices[i];
            if (!d.pipe()) continue;
            const int number = between[std::minmax(d.from, d.into)]++;
            pipe(static_cast<int>(i), d, 26.0 * number);
        }
    }

    std::string flow_text(int i) const {
        return fmt::format("{}  {}{}", what(i).name, now(i).reading, now(i).fault ? "  FAULT" : "");
    }

    void pipe_symbol(const SceneDevice& d, double x, double y, bool flows) {
        if (d.tile == Tile::Pump) {
            canvas_.circle(x, y, 9, flows ? palette::kGreen : palette::kPaper, palette::kInk, 1.5);
            canvas_.polygon({{x - 4, y - 5}, {x - 4, y + 5}, {x + 6, y}}, palette::kInk);
        } else {
            canvas_.polygon({{x - 9, y - 6}, {x + 9, y + 6}, {x + 9, y - 6}, {x - 9, y + 6}},
                            flows ? palette::kGreen : palette::kFaint);
        }
        labels_.reserve({x - 11, y - 10, 22, 20});
    }

    /// Tanks that stand beside one another: straight across. False when they do not.
    bool side_by_side(int i, const SceneDevice& d, double aside) {
        Box left = around(d.from);
        Box right = around(d.into);
        if (left.x > right.x) std::swap(left, right);
        const double top = std::max(left.y, right.y), bottom = std::min(left.y + left.height, right.y + right.height);
        const double from = left.x + left.width, to = right.x;
        if (bottom <= top || to <= from) return false;
        const bool flows = now(i).on;
        const double y = (top + bottom) / 2 + aside, x = (from + to) / 2;
        canvas_.line(from - 10, y, to + 10, y, flows ? palette::kBlue : palette::kFaint, flows ? 3 : 1.5);
        pipe_symbol(d, x, y, flows);
        labels_.want({x, y - 8, flow_text(i), Side::Above, now(i).fault});
        return true;
    }

    /// By way of where it is drawn.
    void placed_pipe(int i, const SceneDevice& d) {
        const double x = px(d.at.x_m), y = py(d.at.y_m);
        const bool flows = now(i).on;
        const Colour colour = flows ? palette::kBlue : palette::kFaint;
        Points way;
        const auto reach = [&](int other, double aside) {
            if (other == plant::kNone) return std::pair{x + aside, y};
            const Box b = around(other);
            const bool above = b.y + b.height < y;
            if (x >= b.x && x <= b.x + b.width) return std::pair{x, above ? b.y + b.height : b.y};
            if (y >= b.y && y <= b.y + b.height) return std::pair{x < b.x ? b.x : b.x + b.width, y};
            return std::pair{b.x + b.width / 2, above ? b.y + b.height : b.y};
        };
        for (const auto& [other, aside] : {std::pair{d.from, -40.0}, {d.into, 40.0}}) {
            const auto end = reach(other, aside);
            const Points part = {end, {end.first, y}, {x, y}};
            if (aside < 0)
                way.insert(way.end(), part.begin(), part.end());
            else
                way.insert(way.end(), part.rbegin(), part.rend());
        }
        canvas_.path(way, colour, flows ? 3 : 1.5);
        pipe_symbol(d, x, y, flows);
        labels_.want({x, y + 10, flow_text(i), Side::Below, now(i).fault});
    }

    void pipe(int i, const SceneDevice& d, double aside) {
        const auto middle = [&](int other) {
            const Box b = around(other);
            return std::pair{b.x + b.width / 2 + aside, b.y + b.height / 2};
        };
        const auto end = [&](int other, bool leaves) {
            const Box b = around(other);
            return std::pair{b.x + b.width / 2 + aside, leaves ? b.y + b.height : b.y};
        };
        if (d.placed) return placed_pipe(i, d);
        if (d.from != plant::kNone && d.into != plant::kNone && side_by_side(i, d, aside)) return;
        const bool flows = now(i).on;
        const Colour colour = flows ? palette::kBlue : palette::kFaint;
        std::pair<double, double> a, b;
        if (d.from != plant::kNone && d.into != plant::kNone) {
            const bool down = middle(d.from).second <= middle(d.into).second;
            a = end(d.from, down);
            b = end(d.into, !down);
        } else if (d.from != plant::kNone) {
            a = end(d.from, true);
            b = {a.first + 60, a.second + 34};
        } else {
            b = end(d.into, false);
            a = {b.first - 60, b.second - 34};
        }
        const double half = (a.second + b.second) / 2;
        canvas_.path({a, {a.first, half}, {b.first, half}, b}, colour, flows ? 3 : 1.5);
        const double x = (a.first + b.first) / 2;
        pipe_symbol(d, x, half, flows);
        const bool away = d.into == plant::kNone;
        labels_.want({x, away ? half + 8 : half - 8, flow_text(i), away ? Side::Below : Side::Above, now(i).fault});
        for (const auto& [from, to] : {std::pair{a, std::pair{a.first, half}}, {std::pair{b.first, half}, b}})
            labels_.reserve({from.first - 2, std::min(from.second, to.second), 4, std::abs(to.second - from.second)});
        labels_.reserve({std::min(a.first, b.first), half - 2, std::abs(a.first - b.first), 4});
    }

    /// A stack shows how many it is.
    void items() {
        for (const FrameItem& item : frame_.items) {
            const auto corners = item.form.corners();
            const Points at = on_page({corners.begin(), corners.end()});
            outline(at, item_colour(scene_.colours, item.colour), palette::kInk, item.held ? 3 : 1);
            if (item.stacked > 1)
                canvas_.text(px(item.form.centre.x_m), py(item.form.centre.y_m) + 4, fmt::format("x {}", item.stacked),
                             kText, palette::kInk, Align::Centre, true);
            if (item.stacked == 1) item_label(item);
            for (std::size_t c = 0; item.on_floor && c < 2; ++c)
                canvas_.line(at[c].first, at[c].second, at[c + 2].first, at[c + 2].second, palette::kVermilion, 2);
        }
    }

    /// What a reader would read off it, where there is room.
    void item_label(const FrameItem& item) {
        const Box b = box(item.form.bounds());
        if (item.label.empty() || b.height < kText + 4 || canvas_.text_width(item.label, kText) + 6 > b.width) return;
        const Colour fill = item_colour(scene_.colours, item.colour);
        const bool dark = 0.3 * fill.red + 0.6 * fill.green + 0.1 * fill.blue < 0.5;
        canvas_.text(b.x + b.width / 2, b.y + b.height / 2 + 4, item.label, kText,
                     dark ? palette::kPaper : palette::kInk, Align::Centre);
    }

    // --- labels: placed one after another, each as near to its device as the others leave room ---
    void place_labels() {
        for (std::size_t i = 0; i < scene_.devices.size(); ++i) {
            if (scene_.devices[i].in_plan && scene_.devices[i].covers) labels_.reserve(around(static_cast<int>(i)));
        }
        const double bottom = canvas_.height() - tiles_height_ - legend_height();
        const std::vector<std::string> without = labels_.place(page_ ? 46 : 2, bottom);
        if (!without.empty())
            canvas_.text(kMargin, bottom - 4, fmt::format("no room for: {}", fmt::join(without, "; ")), kText,
                         palette::kInk);
    }

    // --- devices without a place: tiles ---
    static constexpr double kTileWidth = 152, kTileHeight = 44, kLegend = 34, kAlertLine = 16;
    static constexpr double kLabelRoom_m = 0.5;

    int tile_columns() const { return std::max(1, static_cast<int>((canvas_.width() - 2 * kMargin) / kTileWidth)); }
    int tile_rows() const { return (static_cast<int>(tiles_.size()) + tile_columns() - 1) / tile_columns(); }

    /// What belongs together: an assembly, else a family.
    static std::string group_of(const SceneDevice& d) {
        const std::size_t point = d.name.rfind('.');
        return point == std::string::npos ? "family " + d.family : d.name.substr(0, point);
    }

    /// Groups in the order of their first device.
    void order_tiles() {
        std::vector<std::string> groups;
        for (const SceneDevice& d : scene_.devices) {
            if (d.tiled() && std::find(groups.begin(), groups.end(), group_of(d)) == groups.end())
                groups.push_back(group_of(d));
        }
        for (const std::string& group : groups) {
            for (std::size_t i = 0; i < scene_.devices.size(); ++i) {
                if (scene_.devices[i].tiled() && group_of(scene_.devices[i]) == group)
                    tiles_.push_back(static_cast<int>(i));
            }
        }
    }

    void tiles() {
        const double top = canvas_.height() - tiles_height_ - legend_height() - (page_ ? 0 : 14);
        if (page_ && tile_rows() > 0)
            canvas_.text(kMargin, top + 8, "Panel and devices without a place in the plan", 12, palette::kInk,
                         Align::Left, true);
        for (std::size_t n = 0; n < tiles_.size(); ++n) {
            const int row = static_cast<int>(n) / tile_columns(), column = static_cast<int>(n) % tile_columns();
            const Box b{kMargin + column * kTileWidth, top + 16 + row * kTileHeight, kTileWidth - 6, kTileHeight - 6};
            const bool same_as_next = n + 1 < tiles_.size() && column + 1 < tile_columns() &&
                                      group_of(what(tiles_[n])) == group_of(what(tiles_[n + 1]));
            // One plate behind the tiles of a group.
            canvas_.rectangle({b.x - 3, b.y - 3, b.width + (same_as_next ? 6 : 3), b.height + 6},
                              faded(palette::kFaint, 0.35), palette::kMist, 0);
        }
        for (std::size_t n = 0; n < tiles_.size(); ++n) {
            const int row = static_cast<int>(n) / tile_columns(), column = static_cast<int>(n) % tile_columns();
            tile(tiles_[n],
                 {kMargin + column * kTileWidth, top + 16 + row * kTileHeight, kTileWidth - 6, kTileHeight - 6});
        }
    }

    void tile(int device, const Box& b) {
        const FrameDevice& d = now(device);
        canvas_.rectangle(b, palette::kPaper, d.fault ? palette::kVermilion : palette::kFaint, d.fault ? 2 : 1);
        const double x = b.x + 16, y = b.y + b.height / 2;
        if (d.lamps.size() > 1)
            lamps(d.lamps, x, b);
        else
            tile_symbol(what(device).tile, x, y, d.on);
        if (d.lamps.size() == 1)  // around its knob
            canvas_.circle(x, y, 11.5, {1, 1, 1, 0}, d.lamps[0].second ? colour_of(d.lamps[0].first) : palette::kFaint,
                           3);
        canvas_.fitted(b.x + 32, b.y + 15, what(device).name, b.width - 36, kText,
                       d.fault ? palette::kVermilion : palette::kInk, true);
        canvas_.fitted(b.x + 32, b.y + 30, d.reading, b.width - 36, kText, palette::kInk);
    }

    /// A column, the first on top.
    void lamps(const std::vector<std::pair<plant::Tone, bool>>& all, double x, const Box& b) {
        const double each = (b.height - 6) / static_cast<double>(std::max<std::size_t>(all.size(), 3));
        double y = b.y + 3;
        for (const auto& [tone, lit] : all) {
            canvas_.rectangle({x - 7, y, 14, each - 1}, lit ? colour_of(tone) : palette::kMist, palette::kInk, 1);
            y += each;
        }
    }

    void tile_symbol(Tile tile, double x, double y, bool on) {
        switch (tile) {
            case Tile::Knob:
                canvas_.circle(x, y, 9, palette::kMist, palette::kInk, 1.5);
                canvas_.circle(x, y, 5, on ? palette::kOrange : palette::kPaper, palette::kInk, 1);
                break;
            case Tile::Light:
                canvas_.circle(x, y, 9, on ? palette::kYellow : palette::kPaper, palette::kInk, 1.5);
                break;
            case Tile::Signal:
                canvas_.circle(x, y, 9, on ? palette::kOrange : palette::kPaper, palette::kInk, 1.5);
                break;
            case Tile::Motor:
                canvas_.circle(x, y, 9, on ? palette::kGreen : palette::kPaper, palette::kInk, 1.5);
                canvas_.text(x, y + 4, "M", 10, palette::kInk, Align::Centre, true);
                break;
            case Tile::Valve:
                canvas_.polygon({{x - 9, y - 6}, {x + 9, y + 6}, {x + 9, y - 6}, {x - 9, y + 6}},
                                on ? palette::kGreen : palette::kFaint);
                break;
            case Tile::Pump:
            case Tile::Box:
                canvas_.rectangle({x - 7, y - 7, 14, 14}, on ? palette::kOrange : palette::kPaper, palette::kInk, 1.5);
        }
    }

    /// Mishaps, faults and forces, a line of the page after the other.
    void alerts() {
        std::vector<std::string> all;
        for (const std::string& m : frame_.mishaps) all.push_back("mishap: " + m);
        for (const std::string& f : frame_.faults) all.push_back("fault: " + f);
        for (const std::string& f : frame_.forces) all.push_back(f);
        for (const std::string& text : all) {
            const double room = canvas_.width() - 2 * kMargin;
            if (!alerts_.empty() && canvas_.text_width(alerts_.back() + "; " + text, kText, true) <= room)
                alerts_.back() += "; " + text;
            else
                alerts_.push_back(text);
        }
    }

    void legend() {
        const double y = canvas_.height() - 14 - kAlertLine * static_cast<double>(alerts_.size());
        double x = kMargin;
        const auto entry = [&](Colour colour, const char* text) {
            canvas_.rectangle({x, y - 9, 12, 10}, colour, palette::kInk, 1);
            canvas_.text(x + 17, y, text, kText, palette::kInk);
            x += 17 + canvas_.text_width(text, kText) + 18;
        };
        entry(palette::kGreen, "runs");
        entry(palette::kOrange, "seen, on");
        entry(palette::kVermilion, "out, raised");
        const auto any_item = [&](auto holds) { return std::any_of(frame_.items.begin(), frame_.items.end(), holds); };
        const auto sign = [&](const char* text, auto draw) {
            draw(x, y - 9);
            canvas_.text(x + 17, y, text, kText, palette::kInk);
            x += 17 + canvas_.text_width(text, kText) + 18;
        };
        const bool overhead = std::any_of(scene_.devices.begin(), scene_.devices.end(), [](const SceneDevice& d) {
            return d.in_plan && d.layer == plant::Layer::Overhead;
        });
        if (overhead)
            sign("where a gantry can go", [&](double left, double top) {
                canvas_.rectangle({left, top, 12, 10}, faded(palette::kPurple, 0.1), palette::kPurple, 1.2, true);
            });
        if (any_item([](const FrameItem& i) { return i.held; }))
            sign("held", [&](double left, double top) {
                canvas_.rectangle({left, top, 12, 10}, palette::kPaper, palette::kInk, 3);
            });
        if (any_item([](const FrameItem& i) { return i.on_floor; }))
            sign("fallen to the floor", [&](double left, double top) {
                canvas_.rectangle({left, top, 12, 10}, palette::kPaper, palette::kInk, 1);
                canvas_.line(left, top, left + 12, top + 10, palette::kVermilion, 2);
                canvas_.line(left, top + 10, left + 12, top, palette::kVermilion, 2);
            });
        for (std::size_t c = 0; c < scene_.colours.size(); ++c)
            entry(item_colour(scene_.colours, static_cast<int>(c)), scene_.colours[c].c_str());
        for (std::size_t i = 0; i < alerts_.size(); ++i)
            canvas_.text(kMargin, y + kAlertLine * static_cast<double>(i + 1), alerts_[i], kText, palette::kVermilion,
                         Align::Left, true);
    }

    const Scene& scene_;
    const Frame& frame_;
    Canvas& canvas_;
    bool page_;
    Labels labels_{canvas_};
    std::vector<int> tiles_;           ///< Devices, group by group.
    std::vector<std::string> alerts_;  ///< Lines.
    double scale_ = 1, origin_x_ = 0, origin_y_ = 0, tiles_height_ = 0;
};

}  // namespace

std::unique_ptr<Canvas> draw_plan(const session::Session& session, const PlanView& view) {
    auto canvas = std::make_unique<Canvas>(view.width, view.height);
    Scene scene = scene_of(session.model());
    if (!view.title.empty()) scene.name = view.title;
    const Frame now = frame_of(session);
    PlanDrawing(scene, now, *canvas, view.frame).run();
    return canvas;
}

}  // namespace vyard::figures
