#include <fmt/format.h>

#include <algorithm>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A tank, straight or by a table of volumes. Volumes in balance: in - out = stored, overflow counted. A dipped item
// takes the tank's colour after `soak_time` under the surface, and carries `drag_out` away.
struct Tank {
    struct Model {
        double relative_density = 1.0;
        int zone = kNone;
        double temperature_c = 20.0, concentration = 0.0, cooling_s = 0.0, around_c = 20.0;
        double length_m = 1.0, width_m = 1.0, depth_m = 1.0, start_m = 0.0, soak_s = 0.5, drag_out_m3 = 0.0;
        int colour = kNone;
        NumberList levels_m, volumes_m3;
        Vessel vessel;
    };
    struct State {
        double leak_m3_s = 0.0;
        double overflowed_m3 = 0.0;
        int coated = 0;
    };
    enum Mishaps { kRunsOver };

    static void declare(Declaration<Tank>& kind) {
        kind.names("tank", "liquid", Placement::Plan, "holds a liquid; items lowered into it may take its colour")
            .drawn(Layer::Floor)
            .holds_liquid()
            .quantity("relative_density", &Model::relative_density, Dimension::Plain, "1", 0.1, 20.0,
                      "of its liquid, against water: what a pressure transmitter at its bottom shows goes by it")
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.05, 100.0, "inside, along x")
            .quantity("width", &Model::width_m, Dimension::Length, "", 0.05, 100.0, "inside, along y")
            .quantity("depth", &Model::depth_m, Dimension::Length, "", 0.05, 100.0, "inside; what is more overflows")
            .quantity("level", &Model::start_m, Dimension::Length, "0 m", 0.0, 100.0, "at the start of a run")
            .numbers("levels", &Model::levels_m, Dimension::Length,
                     "of a tank that is not straight: rising levels, the last at its rim")
            .numbers("volumes", &Model::volumes_m3, Dimension::Volume, "what it holds at each of its levels")
            .colour("colour", &Model::colour, "colour that dipped items take, one of [plant] colours")
            .quantity("soak_time", &Model::soak_s, Dimension::Time, "0.5 s", 0.0, 3600.0,
                      "under the surface until an item is coloured")
            .quantity("drag_out", &Model::drag_out_m3, Dimension::Volume, "0 l", 0.0, 1.0,
                      "liquid each coloured item carries away")
            .quantity("temperature", &Model::temperature_c, Dimension::Temperature, "20 degC", -20.0, 100.0,
                      "of the liquid at the start of a run")
            .quantity("concentration", &Model::concentration, Dimension::Percent, "0 %", 0.0, 100.0,
                      "of what is dissolved in it, at the start; streams mix")
            .quantity("cooling_time", &Model::cooling_s, Dimension::Time, "0 s", 0.0, 1e6,
                      "time constant of its loss of heat to the surroundings; 0 for none")
            .quantity("surroundings", &Model::around_c, Dimension::Temperature, "20 degC", -50.0, 100.0,
                      "temperature around it")
            .actual("level", PointType::Analog, Dimension::Length, "of the liquid above the bottom",
                    [](const Model& m, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return m.vessel.level_m(liquid_of(plant, state, device).volume_m3);
                    })
            .actual("level_percent", PointType::Analog, Dimension::Percent, "level as a share of the depth",
                    [](const Model& m, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return 100.0 * m.vessel.level_m(liquid_of(plant, state, device).volume_m3) / m.depth_m;
                    })
            .actual("volume", PointType::Analog, Dimension::Volume, "of the liquid",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return liquid_of(plant, state, device).volume_m3;
                    })
            .actual("overflowed", PointType::Analog, Dimension::Volume, "spilt over the rim so far",
                    &State::overflowed_m3)
            .actual("coated", PointType::Number, Dimension::Plain, "items coloured so far", &State::coated)
            .actual("temperature", PointType::Analog, Dimension::Temperature, "of the liquid",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return liquid_of(plant, state, device).temperature_c;
                    })
            .actual("concentration", PointType::Analog, Dimension::Percent, "of what is dissolved",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return 100.0 * liquid_of(plant, state, device).concentration;
                    })
            .fault_amount("leaking", Dimension::Flow, 0.05e-3, 0.0, 10.0, "loses this much as long as there is liquid",
                          &State::leak_m3_s)
            .mishap("running_over", "liquid runs over its rim");
    }

    static std::string check(const Model& model) {
        if (model.levels_m.count != model.volumes_m3.count) return "'levels' and 'volumes' are of one length";
        double level_m = 0.0, volume_m3 = 0.0;
        for (int i = 0; i < model.levels_m.count; ++i) {
            if (model.levels_m.at(i) <= level_m || model.volumes_m3.at(i) <= volume_m3)
                return "'levels' and 'volumes' rise, and begin above 0";
            level_m = model.levels_m.at(i);
            volume_m3 = model.volumes_m3.at(i);
        }
        return model.levels_m.count == 0 || std::abs(level_m - model.depth_m) < 1e-9
                   ? std::string()
                   : std::string("the last of 'levels' is the depth");
    }

    static void place(Placing& at, Model& model, State&) {
        const auto d = static_cast<std::size_t>(at.index);
        at.device.length_m = model.length_m;
        at.device.width_m = model.width_m;
        if (model.colour != kNone)
            model.zone = at.add_zone(at.device.pose.origin(), std::max(model.length_m, model.width_m));
        model.vessel = {model.length_m * model.width_m, model.levels_m, model.volumes_m3};
        model.vessel.relative_density = model.relative_density;
        model.vessel.full_m3 = model.vessel.volume_m3(model.depth_m);
        at.model.vessels[d] = model.vessel;
        base::at(at.model.initial.liquids, at.device.liquid) = {
            model.vessel.volume_m3(std::min(model.start_m, model.depth_m)), model.temperature_c,
            model.concentration / 100.0};
    }

    static void actuate(const Model& model, State& state, Step& step) {
        double& volume = step.liquid(step.index).volume_m3;
        cool(model, step);
        volume = std::max(0.0, volume - state.leak_m3_s * step.dt_s);
        const double full = model.vessel.volume_m3(model.depth_m);
        step.mishap(kRunsOver, volume > full + 1e-12);
        if (volume > full) {
            state.overflowed_m3 += volume - full;
            volume = full;
        }
        if (model.colour != kNone) coat(model, state, step, volume);
    }

    /// First-order loss to the surroundings, exact over a step.
    static void cool(const Model& model, Step& step) {
        if (model.cooling_s <= 0.0) return;
        double& t = step.liquid(step.index).temperature_c;
        t += (model.around_c - t) * -std::expm1(-step.dt_s / model.cooling_s);
    }

    static void coat(const Model& model, State& state, Step& step, double& volume) {
        const Pose& pose = step.device->pose;
        const double surface_m = pose.z_m + model.vessel.level_m(volume);
        step.each_near(model.zone, [&](Item& item) {
            const bool inside = std::abs(item.x_m - pose.x_m) <= model.length_m / 2.0 &&
                                std::abs(item.y_m - pose.y_m) <= model.width_m / 2.0;
            // Coloured when its top is under: half a dip leaves half a brick.
            const bool under = inside && step.model.top_m(item) <= surface_m && item.z_m >= pose.z_m - 0.01;
            item.soaked_steps = under ? item.soaked_steps + 1 : inside ? 0 : item.soaked_steps;
            if (!under || item.soaked_steps * step.dt_s < model.soak_s - 1e-9 || item.colour == model.colour) return;
            item.paint(model.colour);
            volume = std::max(0.0, volume - model.drag_out_m3);
            ++state.coated;
        });
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {Tone::Sky, 0.15}, {Tone::Water, 1.5, true});
        d.level_bar(std::clamp(d.actual("level_percent") / 100.0, 0.0, 1.0));
        const Pose& p = d.device->pose;
        d.label({p.x_m - d.device->length_m / 2 + 0.05, p.y_m - d.device->width_m / 2},
                fmt::format("{}  level {:.3f} m", d.name(), d.actual("level")), Side::Below);
    }
};

}  // namespace

Kind tank_kind() {
    return make_kind<Tank>();
}

}  // namespace vyard::plant
