#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Pusher {
    struct Model {
        double stroke_m = 0.4, plate_m = 0.3, height_m = 0.1, extend_s = 0.5, retract_s = 0.5;
        int solid = kNone;
    };
    struct State {
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kExtend };
    enum Mishaps { kStruck };
    static constexpr double kPlateThickness_m = 0.02;

    static void declare(Declaration<Pusher>& kind) {
        kind.names("pusher", "air", Placement::Mounted,
                   "a plate beside a surface that a cylinder pushes across it; a spring brings it back")
            .drawn(Layer::Actor)
            .extends()
            .pushes()
            .quantity("stroke", &Model::stroke_m, Dimension::Length, "400 mm", 0.01, 5.0,
                      "of the plate across the surface")
            .quantity("plate", &Model::plate_m, Dimension::Length, "300 mm", 0.02, 5.0,
                      "width of the plate along the surface")
            .quantity("height", &Model::height_m, Dimension::Length, "100 mm", 0.01, 2.0, "of the plate")
            .quantity("extend_time", &Model::extend_s, Dimension::Time, "0.5 s", 0.01, 60.0, "over the whole stroke")
            .quantity("retract_time", &Model::retract_s, Dimension::Time, "0.5 s", 0.01, 60.0, "over the whole stroke")
            .output("extend", "TRUE pushes, FALSE lets the spring retract it")
            .actual("position", PointType::Analog, Dimension::Length, "of the plate from rest",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return extension_of_m(plant, state, device);
                    })
            .moves("its plate moves", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .mishap("item_struck", "its plate meets an item beside its middle, and would turn it");
    }

    static void place(Placing& at, Model& model, State&) {
        at.reaches(model.stroke_m);
        const double half = base::at(at.model.devices, at.device.mounted_on).width_m / 2.0;
        const Pose& p = at.device.pose;
        const double edge = at.device.on_left ? half : -half - kPlateThickness_m;
        const OrientedBox plate = p.box(-model.plate_m / 2.0, model.plate_m / 2.0, -edge, edge + kPlateThickness_m);
        const Vector2 push = p.heading.left() * (at.device.on_left ? -1.0 : 1.0);
        model.solid = at.add_solid(plate, p.z_m, p.z_m + model.height_m, push, model.stroke_m, true);
        at.moves_up_to(model.stroke_m / std::min(model.extend_s, model.retract_s));
        at.device.length_m = model.plate_m;
        at.device.width_m = model.stroke_m;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        SolidState& solid = base::at(step.state.solids, model.solid);
        solid.wanted_m = 0.0;
        const Item* struck = !state.jammed && step.output(kExtend) != 0.0 ? struck_by_plate(model, step) : nullptr;
        step.mishap(kStruck, struck != nullptr, kNone, struck);
        if (state.jammed) return;
        if (step.output(kExtend) != 0.0) {
            solid.wanted_m = std::min(model.stroke_m * step.dt_s / model.extend_s, model.stroke_m - solid.offset_m);
        } else {
            solid.wanted_m = -std::min(model.stroke_m * step.dt_s / model.retract_s, solid.offset_m);
        }
    }

    /// An item that the plate touches while it goes out, the middle of which is not before the plate.
    static const Item* struck_by_plate(const Model& model, Step& step) {
        const SolidModel& plate = base::at(step.model.solids, model.solid);
        const SolidState& now = base::at(step.state.solids, model.solid);
        if (now.offset_m >= model.stroke_m) return nullptr;
        const double reach_m = model.stroke_m * step.dt_s / model.extend_s;
        const Item* found = nullptr;
        step.each_near(plate.zone, [&](const Item& item) {
            if (item.gone || !same_height(step.model, item, plate)) return;
            const OrientedBox body = plate.now(now);
            const bool touches = free_way(body, step.model.footprint(item), plate.push) < reach_m;
            const double along_m = step.device->pose.along(item.x_m, item.y_m);
            if (touches && std::abs(along_m) > model.plate_m / 2.0 + kTouch_m) found = &item;
        });
        return found;
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.moves = step.extension_m() != base::at(step.state.solids, model.solid).offset_m;
        step.extension_m() = base::at(step.state.solids, model.solid).offset_m;
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const double out_m = d.actual("position"), sign = v.on_left ? 1 : -1;
        const double edge_m = base::at(d.model.devices, v.mounted_on).width_m / 2, plate_m = edge_m - out_m;
        const Vector2 rod = v.pose.at(0, sign * plate_m), foot = v.pose.at(0, sign * (edge_m + 0.22));
        d.line(rod, foot, {Tone::Ink, 3});
        d.line(v.pose.at(-v.length_m / 2, sign * plate_m), v.pose.at(v.length_m / 2, sign * plate_m),
               {out_m > 0.005 ? Tone::Out : Tone::Ink, 6});
        d.keep_clear(rod, foot, 6);
        d.label(foot, fmt::format("{} {:.0f} mm", d.name(), out_m * 1000), v.on_left ? Side::Above : Side::Below);
    }
};

}  // namespace

Kind pusher_kind() {
    return make_kind<Pusher>();
}

}  // namespace vyard::plant
