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
using plant::Symbol;

namespace {

constexpr double kMargin = 28, kTitle = 52;
constexpr double kText = Labels::kText;
using Side = Label::Side;

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
        for (const Symbol first :
             {Symbol::Tank, Symbol::Hopper, Symbol::Outfeed, Symbol::Chute, Symbol::Belt, Symbol::Rollers,
              Symbol::Shelf, Symbol::Turntable, Symbol::Lift, Symbol::IndexTable, Symbol::Diverter, Symbol::Scale})
            each(first);
        pipes();
        items();
        for (const Symbol then :
             {Symbol::Infeed, Symbol::Stopper, Symbol::GateArm, Symbol::Wall, Symbol::Pusher, Symbol::Cylinder,
              Symbol::Eye, Symbol::Curtain, Symbol::Reader, Symbol::Proximity, Symbol::Distance, Symbol::Gantry})
            each(then);
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

    /// Where a device is now: lifts and turntables move.
    plant::Pose pose(const DeviceModel& d) const {
        return d.surface == plant::kNone ? d.pose : base::at(state_.surfaces, d.surface).pose;
    }
    plant::OrientedBox area(const DeviceModel& d) const {
        switch (d.kind->placement) {
            case plant::Placement::Surface: return pose(d).box(0, d.length_m, d.width_m / 2, d.width_m / 2);
            case plant::Placement::Plan:
                if (d.kind->symbol == Symbol::Gantry) return d.pose.box(0, d.length_m, 0, d.width_m);
                return {d.pose.origin(), d.length_m / 2, d.width_m / 2, d.pose.heading};
            default: return d.pose.box(-d.length_m / 2, d.length_m / 2, d.width_m / 2, d.width_m / 2);
        }
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
    /// A true quantity of a device; a kind with a point of that name calls it actual_NAME.
    double actual(int d, const std::string& name) const {
        const std::string& device = base::at(model_.devices, d).name;
        auto reading = plant::find_actual(model_, device, name);
        if (!reading) reading = plant::find_actual(model_, device, "actual_" + name);
        return reading ? plant::read(model_, state_, *reading) : 0.0;
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

    void each(Symbol symbol) {
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            const DeviceModel& d = model_.devices[i];
            if (d.kind->symbol == symbol && d.in_plan) draw(static_cast<int>(i), d);
        }
    }

    void draw(int i, const DeviceModel& d) {
        switch (d.kind->symbol) {
            case Symbol::Tank: return tank(i, d);
            case Symbol::Outfeed: return outfeed(i, d);
            case Symbol::Chute: return chute(d);
            case Symbol::Belt: return belt(i, d);
            case Symbol::Infeed: return infeed(i, d);
            case Symbol::Stopper: return stopper(i, d);
            case Symbol::Pusher: return pusher(i, d);
            case Symbol::Cylinder: return cylinder(i, d);
            case Symbol::Eye: return eye(i, d);
            case Symbol::Reader: return reader(i, d);
            case Symbol::Rollers: return rollers(i, d);
            case Symbol::Shelf: return shelf(i, d);
            case Symbol::Turntable:
            case Symbol::Lift: return carriage(i, d);
            case Symbol::IndexTable: return index_table(i, d);
            case Symbol::Diverter: return diverter(i, d);
            case Symbol::GateArm: return gate_arm(i, d);
            case Symbol::Wall: return outline(area(d), palette::kFaint, palette::kInk, 1);
            case Symbol::Gantry: return gantry(i, d);
            case Symbol::Hopper: return hopper(i, d);
            case Symbol::Scale: return scale(i, d);
            case Symbol::Curtain:
            case Symbol::Proximity:
            case Symbol::Distance: return looker(i, d);
            default: return;
        }
    }

    void chevrons(const DeviceModel& d, Colour colour) {
        for (double along = 0.15; along < d.length_m - 0.05; along += 0.3) {
            const plant::Pose p = pose(d);
            const plant::Vector2 tip = p.at(along + 0.04, 0), left = p.at(along - 0.04, d.width_m * 0.18),
                                 right = p.at(along - 0.04, -d.width_m * 0.18);
            canvas_.path({{px(left.x_m), py(left.y_m)}, {px(tip.x_m), py(tip.y_m)}, {px(right.x_m), py(right.y_m)}},
                         colour, 2);
        }
    }

    void belt(int i, const DeviceModel& d) {
        const double speed = actual(i, "speed");
        const double lowered = base::at(model_.surfaces, d.surface).pose.z_m - pose(d).z_m;
        const bool moved = std::abs(lowered) > 1e-6;
        outline(area(d), moved ? faded(palette::kMist, 0.55) : palette::kMist, palette::kInk, speed != 0 ? 2 : 1,
                moved);
        chevrons(d, speed != 0 ? palette::kGreen : faded(palette::kFaint, 0.6));
        std::string text = fmt::format("{}  {:.2f} m/s", d.name, speed);
        if (moved) text += fmt::format(", {:.0f} mm {}", std::abs(lowered) * 1000, lowered > 0 ? "down" : "up");
        want_surface_label(d, text);
    }

    void chute(const DeviceModel& d) {
        outline(area(d), palette::kPaper, palette::kInk, 1);
        for (double along = 0.1; along < d.length_m; along += 0.12) {
            const plant::Vector2 a = d.pose.at(along, d.width_m * 0.4), b = d.pose.at(along, -d.width_m * 0.4);
            canvas_.line(px(a.x_m), py(a.y_m), px(b.x_m), py(b.y_m),
                         faded(palette::kFaint, 0.5 + 0.4 * along / d.length_m), 1);
        }
        chevrons(d, palette::kFaint);
        want_surface_label(d, d.name);
    }

    void outfeed(int i, const DeviceModel& d) {
        const Box b = around(d);
        outline(area(d), palette::kPaper, palette::kFaint, 1.5, true);
        canvas_.text(b.x + b.width / 2, b.y + b.height / 2 + 7, fmt::format("{:.0f}", actual(i, "counted")), 20,
                     palette::kInk, Align::Centre, true);
        want_surface_label(d, d.name);
    }

    void tank(int i, const DeviceModel& d) {
        const Box b = around(d);
        const double fill = std::clamp(actual(i, "fill") / 100, 0.0, 1.0);
        canvas_.rectangle(b, faded(palette::kSky, 0.15), palette::kBlue, 1.5, true);
        const Box bar{b.x + b.width - 16, b.y + 6, 10, b.height - 12};
        canvas_.rectangle(bar, palette::kPaper, palette::kBlue, 1);
        canvas_.rectangle({bar.x, bar.y + bar.height * (1 - fill), bar.width, bar.height * fill}, palette::kBlue,
                          palette::kBlue, 0);
        want_label(d, {d.pose.x_m - d.length_m / 2 + 0.05, d.pose.y_m - d.width_m / 2},
                   fmt::format("{}  level {:.3f} m", d.name, actual(i, "level")), Side::Below);
    }

    // --- what carries, besides belts ---
    void rollers(int i, const DeviceModel& d) {
        outline(area(d), palette::kMist, palette::kInk, 1);
        const plant::Pose p = pose(d);
        double from_m = 0.0;
        for (int s = d.surface; s < d.surface + d.surface_count; ++s) {
            const double length_m = base::at(model_.surfaces, s).length_m;
            const bool runs = base::at(state_.surfaces, s).speed_m_s != 0.0;
            outline(p.box(from_m, from_m + length_m, d.width_m / 2, d.width_m / 2), palette::kMist, palette::kInk,
                    runs ? 2 : 1);
            for (double along = from_m + 0.06; along < from_m + length_m; along += 0.12) {
                const plant::Vector2 a = p.at(along, d.width_m * 0.42), b = p.at(along, -d.width_m * 0.42);
                canvas_.line(px(a.x_m), py(a.y_m), px(b.x_m), py(b.y_m), runs ? palette::kGreen : palette::kFaint, 1.5);
            }
            from_m += length_m;
        }
        const bool queues = plant::find_actual(model_, d.name, "taken").has_value();
        want_surface_label(d, queues ? fmt::format("{}  {:.0f} waiting", d.name, actual(i, "taken"))
                                     : fmt::format("{}  {:.2f} m/s", d.name, actual(i, "speed")));
    }

    void shelf(int i, const DeviceModel& d) {
        outline(area(d), palette::kPaper, palette::kInk, 1.5);
        want_surface_label(d, fmt::format("{}  {:.0f} items", d.name, actual(i, "items")));
    }

    void carriage(int i, const DeviceModel& d) {
        const bool turns = d.kind->symbol == Symbol::Turntable;
        if (turns) {
            const plant::SurfaceModel& s = base::at(model_.surfaces, d.surface);
            canvas_.circle(px(s.pivot.x_m), py(s.pivot.y_m), s.turn_radius_m * scale_, palette::kPaper, palette::kFaint,
                           1);
        }
        outline(area(d), palette::kMist, palette::kInk, actual(i, "speed") != 0 ? 2 : 1);
        chevrons(d, actual(i, "speed") != 0 ? palette::kGreen : palette::kFaint);
        want_surface_label(d, turns ? fmt::format("{}  {:.0f} deg", d.name, actual(i, "angle") * 180 / std::numbers::pi)
                                    : fmt::format("{}  {:.2f} m up", d.name, actual(i, "position")));
    }

    void index_table(int i, const DeviceModel& d) {
        const double x = px(d.pose.x_m), y = py(d.pose.y_m), r = d.length_m / 2 * scale_;
        canvas_.circle(x, y, r, palette::kMist, palette::kInk, 1.5);
        canvas_.circle(x, y, 4, palette::kInk, palette::kInk, 1);
        const double angle = actual(i, "angle");
        canvas_.line(x, y, x + r * std::cos(angle), y - r * std::sin(angle), palette::kFaint, 1.5, true);
        want_label(d, {d.pose.x_m, d.pose.y_m - d.length_m / 2},
                   fmt::format("{}  {:.0f} turned on", d.name, actual(i, "count")), Side::Below);
    }

    void diverter(int i, const DeviceModel& d) {
        const bool up = actual(i, "position") > 99;
        const plant::OrientedBox at = d.pose.box(-d.length_m / 2, d.length_m / 2, d.width_m / 2, d.width_m / 2);
        outline(at, faded(up ? palette::kOrange : palette::kPaper, 0.6), palette::kInk, 1, !up);
        for (double across = -0.35; across <= 0.36; across += 0.233) {
            for (double along = -0.3; along <= 0.31; along += 0.3) {
                const plant::Vector2 p = d.pose.at(along * d.length_m, across * d.width_m);
                canvas_.circle(px(p.x_m), py(p.y_m), 3, up ? palette::kVermilion : palette::kPaper, palette::kInk, 1);
            }
        }
        want_label(d, d.pose.at(-d.length_m * 0.4, -d.width_m / 2), fmt::format("{} {}", d.name, up ? "up" : "down"),
                   Side::Below);
    }

    void scale(int i, const DeviceModel& d) {
        outline(area(d), faded(palette::kSky, 0.25), palette::kBlue, 1, true);
        want_label(d, d.pose.at(0, d.width_m / 2), fmt::format("{}  {:.1f} kg", d.name, actual(i, "load")),
                   Side::Above);
    }

    void hopper(int i, const DeviceModel& d) {
        outline(area(d), palette::kPaper, palette::kInk, 1.5);
        const Box b = around(d);
        const double fill = std::clamp(actual(i, "fill") / 100, 0.0, 1.0);
        canvas_.rectangle({b.x + 2, b.y + b.height * (1 - fill), b.width - 4, b.height * fill - 2},
                          faded(palette::kYellow, 0.7), palette::kInk, 0);
        want_label(d, {d.pose.x_m, d.pose.y_m - d.width_m / 2}, fmt::format("{}  {:.0f} %", d.name, fill * 100),
                   Side::Below);
    }

    void gate_arm(int i, const DeviceModel& d) {
        const bool down = actual(i, "position") >= 50;
        outline(area(d), down ? palette::kVermilion : palette::kPaper, palette::kInk, 1, !down);
        want_label(d, d.pose.at(0, d.width_m / 2), fmt::format("{} {}", d.name, down ? "down" : "up"), Side::Above);
    }

    /// The travel as a dashed frame, the tool as a cross; filled while it holds.
    void gantry(int i, const DeviceModel& d) {
        const double length_m = d.length_m, width_m = std::max(d.width_m, 0.02);
        const plant::OrientedBox travel = d.pose.box(0, length_m, 0, width_m);
        outline(travel, faded(palette::kPurple, 0.05), palette::kPurple, 1.2, true);
        const plant::Vector2 tool = d.pose.at(actual(i, "x"), actual(i, "y"));
        const double x = px(tool.x_m), y = py(tool.y_m);
        const bool holds = actual(i, "holding") != 0;
        canvas_.circle(x, y, 9, holds ? palette::kPurple : palette::kPaper, palette::kInk, 1.5);
        canvas_.line(x - 14, y, x + 14, y, palette::kInk, 1.5);
        canvas_.line(x, y - 14, x, y + 14, palette::kInk, 1.5);
        want_label(d, tool + plant::Vector2{18 / scale_, 0},
                   fmt::format("{} {:.2f} m down{}", d.name, actual(i, "down"), holds ? ", holds" : ""), Side::Right);
    }

    /// Sensors that look across, or from a side.
    void looker(int i, const DeviceModel& d) {
        const Symbol symbol = d.kind->symbol;
        const double side = d.on_left ? 1 : -1;
        const plant::Vector2 p = d.pose.at(0, side * (d.width_m / 2 + 0.05));
        const bool sees = symbol == Symbol::Curtain     ? actual(i, "broken") > 0
                          : symbol == Symbol::Proximity ? actual(i, "near") != 0
                                                        : false;
        if (symbol == Symbol::Curtain) {
            const plant::Vector2 other = d.pose.at(0, -side * (d.width_m / 2 + 0.05));
            for (const double off : {-2.0, 2.0})
                canvas_.line(px(p.x_m) + off, py(p.y_m), px(other.x_m) + off, py(other.y_m),
                             sees ? palette::kOrange : palette::kFaint, sees ? 2 : 1, !sees);
        }
        canvas_.rectangle({px(p.x_m) - 5, py(p.y_m) - 4, 10, 8}, sees ? palette::kOrange : palette::kPaper,
                          palette::kInk, 1);
        std::string text = d.name;
        if (symbol == Symbol::Curtain) text += fmt::format(" {:.0f} mm", actual(i, "height") * 1000);
        if (symbol == Symbol::Distance) text += fmt::format(" {:.2f} m", actual(i, "distance"));
        want_label(d, p, text, d.on_left ? Side::Above : Side::Below);
    }

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
        if (d.kind->symbol == Symbol::Pump) {
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

    void infeed(int i, const DeviceModel& d) {
        const plant::Vector2 tip = d.pose.at(0, d.width_m / 2 + 0.22), l = d.pose.at(-0.07, d.width_m / 2 + 0.32),
                             r = d.pose.at(0.07, d.width_m / 2 + 0.32);
        canvas_.polygon({{px(tip.x_m), py(tip.y_m)}, {px(l.x_m), py(l.y_m)}, {px(r.x_m), py(r.y_m)}}, palette::kInk);
        want_label(d, d.pose.at(0, 0.32), fmt::format("{}  {:.0f} fed", d.name, actual(i, "fed")), Side::Above);
    }

    void stopper(int i, const DeviceModel& d) {
        const bool raised = actual(i, "position") > 0.03;
        outline(area(d), raised ? palette::kVermilion : palette::kPaper, palette::kInk, 1);
        want_label(d, d.pose.at(0, d.width_m / 2), fmt::format("{} {}", d.name, raised ? "up" : "down"), Side::Above);
    }

    void pusher(int i, const DeviceModel& d) {
        const double out = actual(i, "position");
        const DeviceModel& belt = base::at(model_.devices, d.mounted_on);
        const double sign = d.on_left ? 1 : -1, edge = belt.width_m / 2;
        const double plate = edge - out;
        const plant::Vector2 a = d.pose.at(-d.length_m / 2, sign * plate), b = d.pose.at(d.length_m / 2, sign * plate),
                             rod = d.pose.at(0, sign * plate), base = d.pose.at(0, sign * (edge + 0.22));
        canvas_.line(px(rod.x_m), py(rod.y_m), px(base.x_m), py(base.y_m), palette::kInk, 3);
        canvas_.line(px(a.x_m), py(a.y_m), px(b.x_m), py(b.y_m), out > 0.005 ? palette::kVermilion : palette::kInk, 6);
        const double top = std::min(py(rod.y_m), py(base.y_m));
        labels_.reserve({px(base.x_m) - 3, top, 6, std::abs(py(rod.y_m) - py(base.y_m))});
        want_label(d, d.pose.at(0, sign * (edge + 0.22)), fmt::format("{} {:.0f} mm", d.name, out * 1000),
                   d.on_left ? Side::Above : Side::Below);
    }

    void cylinder(int i, const DeviceModel& d) {
        const double out = actual(i, "position");
        const plant::Vector2 p = d.pose.at(0, d.width_m / 2 + 0.06);
        canvas_.circle(px(p.x_m), py(p.y_m), 5, out > 1e-6 ? palette::kVermilion : palette::kPaper, palette::kInk, 1.5);
        const bool gripping = actual(i, "gripping") != 0;
        want_label(d, d.pose.at(0, d.width_m / 2 + 0.06),
                   fmt::format("{} {:.0f} mm{}", d.name, out * 1000, gripping ? ", grips" : ""), Side::Above);
    }

    void eye(int i, const DeviceModel& d) {
        const bool blocked = actual(i, "blocked") != 0;
        const plant::Vector2 a = d.pose.at(0, d.width_m / 2 + 0.05), b = d.pose.at(0, -d.width_m / 2 - 0.05);
        canvas_.line(px(a.x_m), py(a.y_m), px(b.x_m), py(b.y_m), blocked ? palette::kOrange : palette::kFaint,
                     blocked ? 3 : 1.2, !blocked);
        for (const plant::Vector2& end : {a, b}) {
            labels_.reserve({px(end.x_m) - 4, py(end.y_m) - 4, 8, 8});
            canvas_.circle(px(end.x_m), py(end.y_m), 4, blocked ? palette::kOrange : palette::kPaper, palette::kInk);
        }
        want_label(d, d.pose.at(0, d.width_m / 2 + 0.05), d.name, Side::Above);
    }

    void reader(int i, const DeviceModel& d) {
        const int code = static_cast<int>(actual(i, "colour"));
        const double along_m = actual(i, "along");  // of one that an axis carries
        const plant::Vector2 p = d.pose.at(along_m, d.width_m / 2 + 0.08);
        const double x = px(p.x_m), y = py(p.y_m);
        const auto text = plant::find_reading(model_, d.name + ".text");
        const std::string_view label = text ? plant::read_text(model_, state_, *text) : std::string_view{};
        const Colour fill = code > 0 ? item_colour(model_.colours, code - 1) : palette::kPaper;
        canvas_.polygon({{x, y - 8}, {x + 8, y}, {x, y + 8}, {x - 8, y}}, palette::kInk);
        canvas_.polygon({{x, y - 6}, {x + 6, y}, {x, y + 6}, {x - 6, y}}, fill);
        want_label(d, p,
                   code > 0 ? fmt::format("{} {}", d.name, base::at(model_.colours, code - 1))
                            : fmt::format("{}{}{}", d.name, label.empty() ? "" : " ", label),
                   Side::Above);
    }

    // --- labels: placed one after another, each as near to its device as the others leave room ---
    void want_label(const DeviceModel& d, plant::Vector2 anchor, std::string text, Side side) {
        const bool fault = faulty(d);
        if (fault) text += "  FAULT";
        labels_.want({px(anchor.x_m), py(anchor.y_m), std::move(text), side, fault});
    }
    /// Of a surface: under its middle, or to its right when it leads up or down the page.
    void want_surface_label(const DeviceModel& d, std::string text) {
        const plant::Rectangle r = area(d).bounds();
        const bool upright = std::abs(pose(d).heading.sin) > 0.9;
        want_label(
            d, upright ? plant::Vector2{r.x1_m, (r.y0_m + r.y1_m) / 2} : plant::Vector2{(r.x0_m + r.x1_m) / 2, r.y0_m},
            std::move(text), upright ? Side::Right : Side::Below);
    }

    void place_labels() {
        for (const DeviceModel& d : model_.devices) {
            const bool covers =
                d.kind->placement == plant::Placement::Surface || d.kind->placement == plant::Placement::Plan;
            if (d.in_plan && covers && d.kind->symbol != Symbol::Gantry) labels_.reserve(around(d));
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
        const Colour lit = d.kind->symbol == Symbol::Lamp ? palette::kYellow : palette::kOrange;
        switch (d.kind->symbol) {
            case Symbol::Button:
            case Symbol::EmergencyStop:
            case Symbol::Selector:
            case Symbol::Potentiometer:
                canvas_.circle(x, y, 9, palette::kMist, palette::kInk, 1.5);
                canvas_.circle(x, y, 5, on ? lit : palette::kPaper, palette::kInk, 1);
                break;
            case Symbol::Lamp:
            case Symbol::Horn: canvas_.circle(x, y, 9, on ? lit : palette::kPaper, palette::kInk, 1.5); break;
            case Symbol::Motor:
                canvas_.circle(x, y, 9, on ? palette::kGreen : palette::kPaper, palette::kInk, 1.5);
                canvas_.text(x, y + 4, "M", 10, palette::kInk, Align::Centre, true);
                break;
            case Symbol::Valve:
                canvas_.polygon({{x - 9, y - 6}, {x + 9, y + 6}, {x + 9, y - 6}, {x - 9, y + 6}},
                                on ? palette::kGreen : palette::kFaint);
                break;
            default:
                canvas_.rectangle({x - 7, y - 7, 14, 14}, on ? palette::kOrange : palette::kPaper, palette::kInk, 1.5);
        }
        canvas_.text(b.x + 32, b.y + 15, shortened(d.name, b.width - 36, true), kText,
                     fault ? palette::kVermilion : palette::kInk, Align::Left, true);
        canvas_.text(b.x + 32, b.y + 30, shortened(text, b.width - 36, false), kText, palette::kInk);
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
        if (d.kind->symbol == Symbol::Selector && static_cast<std::size_t>(value) < d.positions.size())
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
    double scale_ = 1, origin_x_ = 0, origin_y_ = 0, tiles_height_ = 0;
};

}  // namespace

std::unique_ptr<Canvas> draw_plan(const session::Session& session, double width, double height, PlanFrame frame) {
    auto canvas = std::make_unique<Canvas>(width, height);
    PlanDrawing(session, *canvas, frame).run();
    return canvas;
}

}  // namespace vyard::figures
