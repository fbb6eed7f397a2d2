#include "figures/plan.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "core/plant/plant.hpp"
#include "core/session/session.hpp"
#include "figures/item_colours.hpp"
#include "figures/labels.hpp"

namespace vyard::figures {

using plant::DeviceModel;

namespace {

constexpr double kMargin = 28, kTitle = 52;
constexpr double kText = Labels::kText;
using plant::Layer;
using plant::Side;
using plant::Tile;

class PlanDrawing {
  public:
    PlanDrawing(const session::Session& session, Canvas& canvas, PlanFrame frame)
        : session_(session),
          model_(*session.model().plant),
          state_(session.plant()),
          canvas_(canvas),
          page_(frame == PlanFrame::Page) {}

    void run() {
        tiles_height_ = tile_rows() * kTileHeight + (page_ ? 26 : 8);
        fit();
        if (page_) title();
        for (const Layer below : {Layer::Floor, Layer::Carrier, Layer::Inset}) each(below);
        pipes();
        items();
        for (const Layer above : {Layer::Actor, Layer::Sensor, Layer::Overhead}) each(above);
        place_labels();
        tiles();
        if (page_) legend();
    }

  private:
    // --- scale ---
    void fit() {
        double x0 = 1e9, y0 = 1e9, x1 = -1e9, y1 = -1e9;
        const auto grow = [&](const plant::Rectangle& r) {
            x0 = std::min(x0, r.x0_m);
            y0 = std::min(y0, r.y0_m);
            x1 = std::max(x1, r.x1_m);
            y1 = std::max(y1, r.y1_m);
        };
        for (const DeviceModel& d : model_.devices) {
            if (d.in_plan) grow(area(d).bounds());
        }
        if (x0 > x1) x0 = y0 = 0, x1 = y1 = 1;
        const double room_x = canvas_.width() - 2 * kMargin,
                     room_y = canvas_.height() - title_height() - tiles_height_ - legend_height() - (page_ ? 90 : 60);
        scale_ = std::min(room_x / std::max(x1 - x0, 0.5), room_y / std::max(y1 - y0 + kLabelRoom_m, 0.5));
        origin_x_ = kMargin + (room_x - (x1 - x0) * scale_) / 2 - x0 * scale_;
        origin_y_ = title_height() + (page_ ? 60 : 30) + (room_y - (y1 - y0) * scale_) / 2 + y1 * scale_;
    }
    double title_height() const { return page_ ? kTitle : 0; }
    double legend_height() const { return page_ ? kLegend : 0; }
    double px(double x_m) const { return origin_x_ + x_m * scale_; }
    double py(double y_m) const { return origin_y_ - y_m * scale_; }
    Box box(const plant::Rectangle& r) const {
        return {px(r.x0_m), py(r.y1_m), (r.x1_m - r.x0_m) * scale_, (r.y1_m - r.y0_m) * scale_};
    }

    plant::OrientedBox area(const DeviceModel& d) const {
        drawing_.device = &d;
        return drawing_.area();
    }
    Box around(const DeviceModel& d) const { return box(area(d).bounds()); }
    void outline(const plant::OrientedBox& area, Colour fill, Colour stroke, double width, bool dashed = false) {
        std::vector<std::pair<double, double>> points;
        for (const plant::Vector2& c : area.corners()) points.emplace_back(px(c.x_m), py(c.y_m));
        canvas_.polygon(points, fill);
        for (std::size_t i = 0; width > 0 && i < 4; ++i) {
            const auto& [x0, y0] = points[i];
            const auto& [x1, y1] = points[(i + 1) % 4];
            canvas_.line(x0, y0, x1, y1, stroke, width, dashed);
        }
    }

    // --- values ---
    double actual(int d, std::string_view name) const {
        drawing_.device = &base::at(model_.devices, d);
        drawing_.index = d;
        return drawing_.actual(name);
    }
    bool faulty(const DeviceModel& d) const {
        for (const std::string& f : faults_) {
            if (f.starts_with(d.name + " ") || f.starts_with(d.name + ".")) return true;
        }
        return false;
    }

    void title() {
        canvas_.text(kMargin, 32, session_.model().name, 20, palette::kInk, Align::Left, true);
        canvas_.text(canvas_.width() - kMargin, 32, fmt::format("plan at {}", base::clock_text(session_.now())), 16,
                     palette::kInk, Align::Right);
        canvas_.line(kMargin, 42, canvas_.width() - kMargin, 42, palette::kFaint);
    }

    void each(Layer layer) {
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            const DeviceModel& d = model_.devices[i];
            if (d.kind->draw == nullptr || d.kind->layer != layer || !d.in_plan) continue;
            drawing_.device = &d;
            drawing_.index = static_cast<int>(i);
            d.kind->draw(drawing_);
        }
    }

    /// What the kinds' own files say, on the canvas.
    class OnCanvas final : public plant::Drawing {
      public:
        explicit OnCanvas(PlanDrawing& plan) : Drawing(plan.model_, plan.state_), plan_(plan) {}

        void box(const plant::OrientedBox& area, plant::Fill fill, plant::Line line) override {
            plan_.outline(area, colour(fill), colour(line), line.width, line.dashed);
        }
        void disc(plant::Vector2 centre, double radius_m, plant::Fill fill, plant::Line line) override {
            plan_.canvas_.circle(x(centre), y(centre), radius_m * plan_.scale_, colour(fill), colour(line), line.width);
        }
        void line(plant::Vector2 from, plant::Vector2 to, plant::Line line) override {
            plan_.canvas_.line(x(from), y(from), x(to), y(to), colour(line), line.width, line.dashed);
        }
        void path(const std::vector<plant::Vector2>& points, plant::Line line) override {
            plan_.canvas_.path(on_page(points), colour(line), line.width);
        }
        void polygon(const std::vector<plant::Vector2>& points, plant::Fill fill) override {
            plan_.canvas_.polygon(on_page(points), colour(fill));
        }
        void mark(plant::Mark mark, plant::Vector2 at, double r, plant::Fill fill, plant::Line line) override {
            const double mx = x(at), my = y(at);
            Canvas& canvas = plan_.canvas_;
            switch (mark) {
                case plant::Mark::Dot: canvas.circle(mx, my, r, colour(fill), colour(line), line.width); break;
                case plant::Mark::Square:
                    canvas.rectangle({mx - r, my - r + 1, 2 * r, 2 * r - 2}, colour(fill), colour(line), line.width);
                    break;
                case plant::Mark::Diamond:
                    diamond(mx, my, r, colour(line));
                    diamond(mx, my, r - line.width, colour(fill));
                    break;
                case plant::Mark::Arrow:
                    canvas.polygon({{mx - r, my - r}, {mx - r, my + r}, {mx + r, my}}, colour(fill));
                    break;
                case plant::Mark::Cross:
                    canvas.line(mx - r, my, mx + r, my, colour(line), line.width);
                    canvas.line(mx, my - r, mx, my + r, colour(line), line.width);
                    break;
            }
        }
        void number(double value) override {
            const Box b = plan_.around(*device);
            plan_.canvas_.text(b.x + b.width / 2, b.y + b.height / 2 + 7, fmt::format("{:.0f}", value), 20,
                               palette::kInk, Align::Centre, true);
        }
        void level_bar(double share) override {
            const Box b = plan_.around(*device);
            const Box bar{b.x + b.width - 16, b.y + 6, 10, b.height - 12};
            plan_.canvas_.rectangle(bar, palette::kPaper, palette::kBlue, 1);
            plan_.canvas_.rectangle({bar.x, bar.y + bar.height * (1 - share), bar.width, bar.height * share},
                                    palette::kBlue, palette::kBlue, 0);
        }
        void level_area(double share, plant::Fill fill) override {
            const Box b = plan_.around(*device);
            plan_.canvas_.rectangle({b.x + 2, b.y + b.height * (1 - share), b.width - 4, b.height * share - 2},
                                    colour(fill), palette::kInk, 0);
        }
        using Drawing::label;
        void label(plant::Vector2 at, std::string text, Side side, double away) override {
            const bool fault = plan_.faulty(*device);
            if (fault) text += "  FAULT";
            const double right = side == Side::Right ? away : side == Side::Left ? -away : 0.0;
            const double down = side == Side::Below ? away : side == Side::Above ? -away : 0.0;
            plan_.labels_.want({x(at) + right, y(at) + down, std::move(text), side, fault});
        }
        void keep_clear(plant::Vector2 from, plant::Vector2 to, double width) override {
            plan_.labels_.reserve({std::min(x(from), x(to)) - width / 2, std::min(y(from), y(to)) - width / 2,
                                   std::abs(x(from) - x(to)) + width, std::abs(y(from) - y(to)) + width});
        }

      private:
        double x(plant::Vector2 p) const { return plan_.px(p.x_m); }
        double y(plant::Vector2 p) const { return plan_.py(p.y_m); }
        std::vector<std::pair<double, double>> on_page(const std::vector<plant::Vector2>& points) const {
            std::vector<std::pair<double, double>> out;
            out.reserve(points.size());
            for (const plant::Vector2& p : points) out.emplace_back(x(p), y(p));
            return out;
        }
        void diamond(double mx, double my, double r, Colour fill) {
            plan_.canvas_.polygon({{mx, my - r}, {mx + r, my}, {mx, my + r}, {mx - r, my}}, fill);
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
                fill.colour == plant::kNone ? colour_of(fill.tone) : item_colour(model.colours, fill.colour);
            return fill.strength < 1.0 ? faded(base, fill.strength) : base;
        }
        static Colour colour(plant::Line line) {
            return line.strength < 1.0 ? faded(colour_of(line.tone), line.strength) : colour_of(line.tone);
        }

        PlanDrawing& plan_;
    };

    // --- pipes: from tank to tank by way of a pump or valve ---
    void pipes() {
        std::map<std::pair<int, int>, int> between;  // several side by side
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            const DeviceModel& d = model_.devices[i];
            if (d.from == plant::kNone && d.into == plant::kNone) continue;
            const int number = between[{d.from, d.into}]++;
            pipe(static_cast<int>(i), d, 26.0 * number);
        }
    }

    std::string flow_text(int i, const DeviceModel& d) const {
        const double flow = actual(i, "flow");
        return flow < 0.1 ? fmt::format("{}  {:.2f} l/s", d.name, flow * 1000)
                          : fmt::format("{}  {:.2f} m3/s", d.name, flow);
    }

    void pipe_symbol(const DeviceModel& d, double x, double y, bool flows) {
        if (d.kind->tile == Tile::Pump) {
            canvas_.circle(x, y, 9, flows ? palette::kGreen : palette::kPaper, palette::kInk, 1.5);
            canvas_.polygon({{x - 4, y - 5}, {x - 4, y + 5}, {x + 6, y}}, palette::kInk);
        } else {
            canvas_.polygon({{x - 9, y - 6}, {x + 9, y + 6}, {x + 9, y - 6}, {x - 9, y + 6}},
                            flows ? palette::kGreen : palette::kFaint);
        }
        labels_.reserve({x - 11, y - 10, 22, 20});
    }

    /// Tanks that stand beside one another: straight across. False when they do not.
    bool side_by_side(int i, const DeviceModel& d, double aside) {
        Box left = around(base::at(model_.devices, d.from));
        Box right = around(base::at(model_.devices, d.into));
        if (left.x > right.x) std::swap(left, right);
        const double top = std::max(left.y, right.y), bottom = std::min(left.y + left.height, right.y + right.height);
        const double from = left.x + left.width, to = right.x;
        if (bottom <= top || to <= from) return false;
        const bool flows = actual(i, "flow") > 1e-9;
        const double y = (top + bottom) / 2 + aside, x = (from + to) / 2;
        canvas_.line(from - 10, y, to + 10, y, flows ? palette::kBlue : palette::kFaint, flows ? 3 : 1.5);
        pipe_symbol(d, x, y, flows);
        const bool fault = faulty(d);
        labels_.want({x, y - 8, flow_text(i, d) + (fault ? "  FAULT" : ""), Side::Above, fault});
        return true;
    }

    void pipe(int i, const DeviceModel& d, double aside) {
        const auto middle = [&](int other) {
            const Box b = around(base::at(model_.devices, other));
            return std::pair{b.x + b.width / 2 + aside, b.y + b.height / 2};
        };
        const auto end = [&](int other, bool leaves) {
            const Box b = around(base::at(model_.devices, other));
            return std::pair{b.x + b.width / 2 + aside, leaves ? b.y + b.height : b.y};
        };
        if (d.from != plant::kNone && d.into != plant::kNone && side_by_side(i, d, aside)) return;
        const bool flows = actual(i, "flow") > 1e-9;
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
        const bool fault = faulty(d);
        std::string text = flow_text(i, d);
        if (fault) text += "  FAULT";
        const bool away = d.into == plant::kNone;
        labels_.want({x, away ? half + 8 : half - 8, std::move(text), away ? Side::Below : Side::Above, fault});
        for (const auto& [from, to] : {std::pair{a, std::pair{a.first, half}}, {std::pair{b.first, half}, b}})
            labels_.reserve({from.first - 2, std::min(from.second, to.second), 4, std::abs(to.second - from.second)});
        labels_.reserve({std::min(a.first, b.first), half - 2, std::abs(a.first - b.first), 4});
    }

    /// From the floor up, so that what lies on top is seen; a stack shows how many it is.
    void items() {
        std::vector<const plant::Item*> by_height;
        for (const plant::Item& item : state_.items) by_height.push_back(&item);
        std::stable_sort(by_height.begin(), by_height.end(),
                         [](const auto* a, const auto* b) { return a->z_m < b->z_m; });
        for (const plant::Item* item : by_height) {
            const plant::OrientedBox form = model_.footprint(*item);
            outline(form, item_colour(model_.colours, item->colour), palette::kInk, state_.held(*item) ? 3 : 1);
            int stacked = 1;
            for (int below = item->below; below != plant::kNone; below = base::at(state_.items, below).below) ++stacked;
            if (stacked > 1)
                canvas_.text(px(item->x_m), py(item->y_m) + 4, fmt::format("x {}", stacked), kText, palette::kInk,
                             Align::Centre, true);
            if (stacked == 1) item_label(*item, form);
            if (!item->on_floor) continue;
            const auto corners = form.corners();
            for (std::size_t c = 0; c < 2; ++c)
                canvas_.line(px(corners[c].x_m), py(corners[c].y_m), px(corners[c + 2].x_m), py(corners[c + 2].y_m),
                             palette::kVermilion, 2);
        }
    }

    /// What a reader would read off it, where there is room.
    void item_label(const plant::Item& item, const plant::OrientedBox& form) {
        const plant::ItemType& type = model_.type_of(item);
        const std::string text = !type.label.empty() ? type.label : type.code != 0 ? std::to_string(type.code) : "";
        const Box b = box(form.bounds());
        if (text.empty() || b.height < kText + 4 || canvas_.text_width(text, kText) + 6 > b.width) return;
        const Colour fill = item_colour(model_.colours, item.colour);
        const bool dark = 0.3 * fill.red + 0.6 * fill.green + 0.1 * fill.blue < 0.5;
        canvas_.text(b.x + b.width / 2, b.y + b.height / 2 + 4, text, kText, dark ? palette::kPaper : palette::kInk,
                     Align::Centre);
    }

    // --- labels: placed one after another, each as near to its device as the others leave room ---
    void place_labels() {
        for (const DeviceModel& d : model_.devices) {
            const bool covers =
                d.kind->placement == plant::Placement::Surface || d.kind->placement == plant::Placement::Plan;
            if (d.in_plan && covers && d.kind->layer != Layer::Overhead) labels_.reserve(around(d));
        }
        labels_.place(page_ ? 46 : 2, canvas_.height() - tiles_height_ - legend_height());
    }

    // --- devices without a place: tiles ---
    static constexpr double kTileWidth = 152, kTileHeight = 44, kLegend = 34;
    static constexpr double kLabelRoom_m = 0.5;

    /// Whether a device is shown as a tile: what has no place in the plan and is no pipe in it.
    static bool tiled(const DeviceModel& d) { return !d.in_plan && d.from == plant::kNone && d.into == plant::kNone; }
    int tile_columns() const { return std::max(1, static_cast<int>((canvas_.width() - 2 * kMargin) / kTileWidth)); }
    int tile_rows() const {
        const auto n =
            std::count_if(model_.devices.begin(), model_.devices.end(), [](const DeviceModel& d) { return tiled(d); });
        return (static_cast<int>(n) + tile_columns() - 1) / tile_columns();
    }

    void tiles() {
        const double top = canvas_.height() - tiles_height_ - legend_height() - (page_ ? 0 : 14);
        if (page_ && tile_rows() > 0)
            canvas_.text(kMargin, top + 8, "Panel and devices without a place in the plan", 12, palette::kInk,
                         Align::Left, true);
        int n = 0;
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            if (!tiled(model_.devices[i])) continue;
            const int row = n / tile_columns(), column = n % tile_columns();
            tile(model_.devices[i],
                 {kMargin + column * kTileWidth, top + 16 + row * kTileHeight, kTileWidth - 6, kTileHeight - 6});
            ++n;
        }
    }

    void tile(const DeviceModel& d, const Box& b) {
        const bool fault = faulty(d);
        canvas_.rectangle(b, palette::kPaper, fault ? palette::kVermilion : palette::kFaint, fault ? 2 : 1);
        const auto [text, on] = tile_state(d);
        const double x = b.x + 16, y = b.y + b.height / 2;
        tile_symbol(d.kind->tile, x, y, on);
        canvas_.text(b.x + 32, b.y + 15, shortened(d.name, b.width - 36, true), kText,
                     fault ? palette::kVermilion : palette::kInk, Align::Left, true);
        canvas_.text(b.x + 32, b.y + 30, shortened(text, b.width - 36, false), kText, palette::kInk);
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

    std::string shortened(std::string text, double room, bool bold) const {
        while (text.size() > 3 && canvas_.text_width(text, kText, bold) > room)
            text = text.substr(0, text.size() - 3) + "..";
        return text;
    }

    /// In the unit that people say it in, to four figures.
    static std::string shown(double value, const plant::Reading& reading, const session::Signal& plain) {
        switch (reading.dimension) {
            case base::Dimension::Pressure: return fmt::format("{:.2f} bar", value / 1e5);
            case base::Dimension::Flow: return fmt::format("{:.2f} l/s", value * 1000);
            case base::Dimension::Volume: return fmt::format("{:.1f} l", value * 1000);
            case base::Dimension::Angle: return fmt::format("{:.0f} deg", value * 180 / std::numbers::pi);
            case base::Dimension::Plain:
                if (reading.type != plant::PointType::Analog)
                    return logic::value_text(logic::value_of(plain.type, value));
                [[fallthrough]];
            default: return fmt::format("{:.4g} {}", value, base::display_unit(reading.dimension));
        }
    }

    /// Its first actual, or its first point, and whether that is on.
    std::pair<std::string, bool> tile_state(const DeviceModel& d) const {
        std::string name = d.kind->actuals.empty() ? "" : d.name + "." + d.kind->actuals[0].name;
        if (name.empty() && d.points[0] != plant::kNone) name = base::at(model_.points, d.points[0]).name;
        const auto reading = plant::find_reading(model_, name);
        if (!reading) return {"", false};
        if (reading->type == plant::PointType::Text) {
            const std::string_view text = plant::read_text(model_, state_, *reading);
            return {fmt::format("'{}'", text), !text.empty()};
        }
        const double value = plant::read(model_, state_, *reading);
        if (!d.positions.empty() && value >= 0 && static_cast<std::size_t>(value) < d.positions.size())
            return {base::at(d.positions, value), value != 0};
        session::Signal plain;
        plain.reading = *reading;
        plain.type = session::type_of_point(reading->type);
        std::string what = name.substr(d.name.size() + 1);
        if (what.starts_with("actual_")) what = what.substr(7);
        if (reading->type == plant::PointType::Boolean)
            return {fmt::format("{}{}", value != 0 ? "" : "not ", what), value != 0};
        return {fmt::format("{} {}", what, shown(value, *reading, plain)), value != 0};
    }

    void legend() {
        const double y = canvas_.height() - 14;
        double x = kMargin;
        const auto entry = [&](Colour colour, const char* text) {
            canvas_.rectangle({x, y - 9, 12, 10}, colour, palette::kInk, 1);
            canvas_.text(x + 17, y, text, kText, palette::kInk);
            x += 17 + canvas_.text_width(text, kText) + 18;
        };
        entry(palette::kGreen, "runs");
        entry(palette::kOrange, "seen, on");
        entry(palette::kVermilion, "out, raised");
        for (std::size_t c = 0; c < model_.colours.size(); ++c)
            entry(item_colour(model_.colours, static_cast<int>(c)), model_.colours[c].c_str());
        std::string alerts;
        for (const std::string& f : faults_) alerts += (alerts.empty() ? "faults: " : ", ") + f;
        for (const std::string& f : session::forces_text(session_)) alerts += (alerts.empty() ? "" : "; ") + f;
        if (!alerts.empty())
            canvas_.text(canvas_.width() - kMargin, y, alerts, kText, palette::kVermilion, Align::Right, true);
    }

    const session::Session& session_;
    const plant::PlantModel& model_;
    const plant::PlantState& state_;
    Canvas& canvas_;
    bool page_;
    std::vector<std::string> faults_ = session::faults_text(session_);
    Labels labels_{canvas_};
    mutable OnCanvas drawing_{*this};  ///< Of the device that is drawn now.
    double scale_ = 1, origin_x_ = 0, origin_y_ = 0, tiles_height_ = 0;
};

}  // namespace

std::unique_ptr<Canvas> draw_plan(const session::Session& session, double width, double height, PlanFrame frame) {
    auto canvas = std::make_unique<Canvas>(width, height);
    PlanDrawing(session, *canvas, frame).run();
    return canvas;
}

}  // namespace vyard::figures
