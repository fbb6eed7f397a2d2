#include <fmt/format.h>

#include <algorithm>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Bulk in a vessel, by volume, with an outlet that a screw or a slide empties. What falls in from an infeed of items is
// not bulk: items that reach its opening are emptied into it.
struct Hopper {
    struct Model {
        double volume_m3 = 0.1, start_m3 = 0.0, discharge_m3_s = 1e-3, length_m = 0.6, width_m = 0.6, content_m3 = 0.0;
        int into = kNone, zone = kNone;
        double stroke_s = 0.5;
        Contact full = Contact::NormallyOpen, empty = Contact::NormallyOpen;
    };
    struct State {
        double opening = 0.0, flow_m3_s = 0.0, spilt_m3 = 0.0;
        int emptied = 0;
        bool bridged = false;
    };
    enum Points { kOpen, kEmpty, kFull };
    enum Mishaps { kSpills };

    static void declare(Declaration<Hopper>& kind) {
        kind.names("hopper", "bulk", Placement::Plan,
                   "a vessel for bulk: items that reach it are emptied into it, its outlet lets bulk out at a rate")
            .drawn(Layer::Floor)
            .holds_liquid()
            .quantity("volume", &Model::volume_m3, Dimension::Volume, "", 1e-4, 1000.0, "to the rim")
            .quantity("initial", &Model::start_m3, Dimension::Volume, "0 l", 0.0, 1000.0, "in it at the start of a run")
            .quantity("content", &Model::content_m3, Dimension::Volume, "0 l", 0.0, 10.0,
                      "bulk in each item that is emptied into it")
            .quantity("outlet_flow", &Model::discharge_m3_s, Dimension::Flow, "1 l/s", 0.0, 10.0,
                      "through the open outlet; bulk flows at one rate whatever the level")
            .quantity("length", &Model::length_m, Dimension::Length, "600 mm", 0.05, 20.0, "of its opening")
            .quantity("width", &Model::width_m, Dimension::Length, "600 mm", 0.05, 20.0, "of its opening")
            .quantity("stroke_time", &Model::stroke_s, Dimension::Time, "0.5 s", 0.0, 60.0, "of its outlet")
            .device("into", &Model::into, {"hopper"}, false, "where its outlet leads; without one, away")
            .output("open", "TRUE opens the outlet, or runs the screw")
            .choice("full_contact", &Model::full, {"normally open", "normally closed"}, "normally open",
                    "how its full switch is wired: normally closed reads FALSE when full")
            .choice("empty_contact", &Model::empty, {"normally open", "normally closed"}, "normally open",
                    "how its empty switch is wired")
            .input("empty_contact", "TRUE below a fiftieth of its volume (normally open)")
            .wired(&Model::empty)
            .input("full_contact", "TRUE above 19 twentieths of it (normally open)")
            .wired(&Model::full)
            .actual("content", PointType::Analog, Dimension::Volume, "in it",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return liquid_of(plant, state, device).volume_m3;
                    })
            .actual("fill", PointType::Analog, Dimension::Percent, "of its volume",
                    [](const Model& m, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return 100.0 * liquid_of(plant, state, device).volume_m3 / m.volume_m3;
                    })
            .actual("flow", PointType::Analog, Dimension::Flow, "out of it, now", &State::flow_m3_s)
            .actual("spilt", PointType::Analog, Dimension::Volume, "over the rim so far", &State::spilt_m3)
            .actual("emptied", PointType::Number, Dimension::Plain, "items emptied into it so far", &State::emptied)
            .fault("bridged", "the bulk hangs: nothing comes out", &State::bridged)
            .mishap("spilling", "bulk runs over its rim");
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.length_m = model.length_m;
        at.device.width_m = model.width_m;
        // Level switches see its bulk as if it lay evenly.
        at.model.vessels[static_cast<std::size_t>(at.index)] = {
            model.length_m * model.width_m, {}, {}, model.volume_m3};
        base::at(at.model.initial.liquids, at.device.liquid).volume_m3 = std::min(model.start_m3, model.volume_m3);
        model.zone =
            at.add_zone({at.device.pose.origin(), model.length_m / 2.0, model.width_m / 2.0, at.device.pose.heading});
    }

    static void actuate(const Model& model, State& state, Step& step) {
        double& content_m3 = step.liquid(step.index).volume_m3;
        const OrientedBox opening{step.device->pose.origin(), model.length_m / 2.0, model.width_m / 2.0,
                                  step.device->pose.heading};
        step.each_near(model.zone, [&](Item& item) {
            if (item.gone || !opening.contains({item.x_m, item.y_m}) || item.z_m < step.device->pose.z_m) return;
            step.state.take_away(item);
            ++state.emptied;
            content_m3 += model.content_m3;
        });
        const double way = model.stroke_s > 0.0 ? step.dt_s / model.stroke_s : 1.0;
        state.opening = std::clamp(state.opening + (step.output(kOpen) != 0.0 ? way : -way), 0.0, 1.0);
        const double wanted_m3 = state.bridged ? 0.0 : state.opening * model.discharge_m3_s * step.dt_s;
        state.flow_m3_s = move_liquid(step, step.index, model.into, wanted_m3) / step.dt_s;
        step.mishap(kSpills, content_m3 > model.volume_m3 + 1e-12);
        if (content_m3 > model.volume_m3) {
            state.spilt_m3 += content_m3 - model.volume_m3;
            content_m3 = model.volume_m3;
        }
    }

    static void sense(const Model& model, State&, Step& step) {
        const double content_m3 = step.liquid(step.index).volume_m3;
        step.input(kEmpty, contact_value(model.empty, content_m3 < 0.02 * model.volume_m3));
        step.input(kFull, contact_value(model.full, content_m3 > 0.95 * model.volume_m3));
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {}, {Tone::Ink, 1.5});
        const double share = std::clamp(d.actual("fill") / 100.0, 0.0, 1.0);
        d.level_area(share, {Tone::Bulk, 0.7});
        d.label({d.device->pose.x_m, d.device->pose.y_m - d.device->width_m / 2},
                fmt::format("{}  {:.0f} %", d.name(), share * 100), Side::Below);
    }
};

}  // namespace

Kind hopper_kind() {
    return make_kind<Hopper>();
}

}  // namespace vyard::plant
