#include "figures/scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/plant/plant.hpp"

namespace vyard::figures {

using plant::DeviceModel;

namespace {

/// Takes down what the kinds' own files say.
class Sketch final : public plant::Drawing {
  public:
    Sketch(const plant::PlantModel& plant, const plant::PlantState& now) : Drawing(plant, now) {}

    void begin(int number, std::vector<Shape>& into) {
        index = number;
        device = &base::at(model.devices, number);
        into_ = &into;
    }

    void box(const plant::OrientedBox& area, plant::Fill fill, plant::Line line) override {
        const auto corners = area.corners();
        Shape& s = add(Shape::Form::Box, {corners.begin(), corners.end()});
        s.fill = fill;
        s.line = line;
    }
    void disc(plant::Vector2 centre, double radius_m, plant::Fill fill, plant::Line line) override {
        Shape& s = add(Shape::Form::Disc, {centre}, radius_m);
        s.fill = fill;
        s.line = line;
    }
    void line(plant::Vector2 from, plant::Vector2 to, plant::Line line) override {
        add(Shape::Form::Line, {from, to}).line = line;
    }
    void path(const std::vector<plant::Vector2>& points, plant::Line line) override {
        add(Shape::Form::Path, points).line = line;
    }
    void polygon(const std::vector<plant::Vector2>& points, plant::Fill fill) override {
        add(Shape::Form::Polygon, points).fill = fill;
    }
    void mark(plant::Mark mark, plant::Vector2 at, double size, plant::Fill fill, plant::Line line) override {
        Shape& s = add(Shape::Form::Mark, {at}, size);
        s.mark = mark;
        s.fill = fill;
        s.line = line;
    }
    void number(double value) override { add(Shape::Form::Number, {}, value); }
    void level_bar(double share) override { add(Shape::Form::LevelBar, {}, share); }
    void level_mark(int on_device, double share, bool on) override {
        Shape& s = add(Shape::Form::LevelMark, {}, share);
        s.text = name();
        s.on_device = on_device;
        s.fill.tone = on ? plant::Tone::Active : plant::Tone::Paper;
    }
    void level_area(double share, plant::Fill fill) override { add(Shape::Form::LevelArea, {}, share).fill = fill; }
    using Drawing::label;
    void label(plant::Vector2 at, std::string text, plant::Side side, double away) override {
        Shape& s = add(Shape::Form::Label, {at}, away);
        s.text = std::move(text);
        s.side = side;
    }
    void keep_clear(plant::Vector2 from, plant::Vector2 to, double width) override {
        add(Shape::Form::KeepClear, {from, to}, width);
    }

  private:
    Shape& add(Shape::Form form, std::vector<plant::Vector2> points, double size = 0.0) {
        Shape& s = into_->emplace_back();
        s.form = form;
        s.device = index;
        s.points = std::move(points);
        s.size = size;
        return s;
    }

    std::vector<Shape>* into_ = nullptr;
};

/// In the unit that people say it in, to four figures.
std::string shown(double value, const plant::Reading& reading) {
    if (std::abs(value) < 1e-9) value = 0.0;
    switch (reading.dimension) {
        case base::Dimension::Pressure:
        case base::Dimension::Flow:
            return fmt::format("{:.2f} {}", base::displayed(value, reading.dimension),
                               base::display_unit(reading.dimension));
        case base::Dimension::Volume: return fmt::format("{:.1f} l", base::displayed(value, reading.dimension));
        case base::Dimension::Angle: return fmt::format("{:.0f} deg", base::displayed(value, reading.dimension));
        case base::Dimension::Plain:
            if (reading.type != plant::PointType::Analog)
                return logic::value_text(logic::value_of(session::type_of_point(reading.type), value));
            [[fallthrough]];
        default: return fmt::format("{:.4g} {}", value, base::display_unit(reading.dimension));
    }
}

/// For how long a frame shows a mishap that lasts no time.
constexpr base::Nanoseconds kJustNow{2'000'000'000};

class FrameMaker {
  public:
    explicit FrameMaker(const session::Session& session)
        : model_(*session.model().plant), state_(session.plant()), sketch_(model_, state_) {
        out_.at = session.now();
        out_.faults = session::faults_text(session);
        out_.forces = session::forces_text(session);
        for (const session::MishapNote& m : session::mishaps_of(session)) {
            if (m.goes_on || m.last + kJustNow > session.now())
                out_.mishaps.push_back(fmt::format("{}: {}", m.name, m.text));
        }
    }

    Frame run() {
        out_.devices.resize(model_.devices.size());
        for (std::size_t d = 0; d < model_.devices.size(); ++d) device(static_cast<int>(d));
        using plant::Layer;
        for (const Layer layer : {Layer::Floor, Layer::Carrier, Layer::Inset}) shapes(layer, out_.below);
        for (const Layer layer : {Layer::Actor, Layer::Sensor, Layer::Overhead}) shapes(layer, out_.above);
        marks();
        items();
        return std::move(out_);
    }

  private:
    void device(int number) {
        const DeviceModel& d = model_.device(number);
        FrameDevice& now = base::at(out_.devices, number);
        now.fault = std::any_of(out_.faults.begin(), out_.faults.end(), [&](const std::string& f) {
            return f.starts_with(d.name + " ") || f.starts_with(d.name + ".");
        });
        std::vector<Shape> none;
        sketch_.begin(number, none);
        if (d.in_plan) now.area = sketch_.area();
        if (d.in_plan && d.kind->placement != plant::Placement::Panel) return;
        if (d.from != plant::kNone || d.into != plant::kNone) {
            const double flow = sketch_.actual("flow");
            now.on = flow > 1e-9;
            now.reading = flow < 0.1 ? fmt::format("{:.2f} l/s", flow * 1000) : fmt::format("{:.2f} m3/s", flow);
        } else {
            std::tie(now.reading, now.on) = tile(d);
            if (d.kind->face != nullptr) now.lamps = face_of(d).lamps;
        }
    }

    /// Its first actual, or its first point, and whether that is on.
    std::pair<std::string, bool> tile(const DeviceModel& d) const {
        if (d.kind->face != nullptr) {
            const plant::Face face = face_of(d);
            const bool first = d.kind->actuals.empty() || sketch_.actual(d.kind->actuals[0].name) != 0.0;
            return {face.text, first};
        }
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
        std::string what = name.substr(d.name.size() + 1);
        if (what.starts_with("actual_")) what.erase(0, 7);
        std::replace(what.begin(), what.end(), '_', ' ');
        if (reading->type == plant::PointType::Boolean)
            return {what == "signal" || what.ends_with("contact") ? (value != 0 ? "on" : "off")
                                                                  : fmt::format("{}{}", value != 0 ? "" : "not ", what),
                    value != 0};
        return {fmt::format("{} {}", what, shown(value, *reading)), value != 0};
    }

    plant::Face face_of(const DeviceModel& d) const {
        return d.kind->face(model_.parameters.data() + d.model_offset, state_.devices.data() + d.state_offset);
    }

    /// What devices show on others; with the bars of levels, over all that crosses a tank.
    void marks() {
        const auto bars = std::stable_partition(out_.below.begin(), out_.below.end(),
                                                [](const Shape& s) { return s.form != Shape::Form::LevelBar; });
        std::move(bars, out_.below.end(), std::back_inserter(out_.above));
        out_.below.erase(bars, out_.below.end());
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            if (model_.devices[i].kind->draw_on_other == nullptr) continue;
            sketch_.begin(static_cast<int>(i), out_.above);
            model_.devices[i].kind->draw_on_other(sketch_);
        }
    }

    void shapes(plant::Layer layer, std::vector<Shape>& into) {
        for (std::size_t i = 0; i < model_.devices.size(); ++i) {
            const DeviceModel& d = model_.devices[i];
            if (d.kind->layer != layer || !d.in_plan) continue;
            sketch_.begin(static_cast<int>(i), into);
            if (d.kind->draw != nullptr)
                d.kind->draw(sketch_);
            else if (d.from == plant::kNone && d.into == plant::kNone)
                symbol(static_cast<int>(i));
        }
    }

    /// One that is placed in the plan and has no shapes of its own.
    void symbol(int number) {
        const FrameDevice& now = base::at(out_.devices, number);
        const DeviceModel& d = model_.device(number);
        const plant::Tone tone = now.on ? plant::Tone::Active : plant::Tone::Paper;
        const bool round = d.kind->tile == plant::Tile::Light || d.kind->tile == plant::Tile::Knob;
        sketch_.mark(round ? plant::Mark::Dot : plant::Mark::Square, d.pose.origin(), 7, {tone},
                     {plant::Tone::Ink, 1.5});
        sketch_.label(d.pose.origin(), fmt::format("{} {}", d.name, now.reading), plant::Side::Below, 10);
    }

    /// So that what lies on top is seen.
    void items() {
        std::vector<const plant::Item*> by_height;
        for (const plant::Item& item : state_.items) by_height.push_back(&item);
        std::stable_sort(by_height.begin(), by_height.end(),
                         [](const auto* a, const auto* b) { return a->z_m < b->z_m; });
        for (const plant::Item* item : by_height) {
            FrameItem& now = out_.items.emplace_back();
            now.form = model_.footprint(*item);
            now.colour = item->colour;
            now.held = state_.held(*item);
            now.on_floor = item->on_floor;
            for (int below = item->below; below != plant::kNone; below = base::at(state_.items, below).below)
                ++now.stacked;
            const plant::ItemType& type = model_.type_of(*item);
            now.label = !type.label.empty() ? type.label : type.code != 0 ? std::to_string(type.code) : "";
        }
    }

    const plant::PlantModel& model_;
    const plant::PlantState& state_;
    Sketch sketch_;
    Frame out_;
};

}  // namespace

Scene scene_of(const session::SessionModel& model) {
    const plant::PlantModel& plant = *model.plant;
    Scene out;
    out.name = model.name;
    out.colours = plant.colours;
    Sketch sketch(plant, plant.initial);
    bool any = false;
    for (std::size_t i = 0; i < plant.devices.size(); ++i) {
        const DeviceModel& d = plant.devices[i];
        const bool covers =
            d.kind->placement == plant::Placement::Surface || d.kind->placement == plant::Placement::Plan;
        out.devices.push_back({d.name, d.kind->name, d.kind->family, d.kind->layer, d.kind->tile, d.in_plan,
                               covers && d.kind->layer != plant::Layer::Overhead, d.from, d.into,
                               d.in_plan && d.kind->placement == plant::Placement::Panel, d.pose.origin()});
        if (!d.in_plan) continue;
        std::vector<Shape> none;
        sketch.begin(static_cast<int>(i), none);
        const plant::Rectangle r = sketch.area().bounds();
        if (!any) out.bounds = r;
        any = true;
        out.bounds = {std::min(out.bounds.x0_m, r.x0_m), std::min(out.bounds.y0_m, r.y0_m),
                      std::max(out.bounds.x1_m, r.x1_m), std::max(out.bounds.y1_m, r.y1_m)};
    }
    return out;
}

Frame frame_of(const session::Session& session) {
    return FrameMaker(session).run();
}

}  // namespace vyard::figures
