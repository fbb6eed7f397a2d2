#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A bar that swings up and down across a surface. It is in the way from half down on, and waits above what is under it.
struct GateArm {
    struct Model {
        double height_m = 0.3, time_s = 1.0;
        int solid = kNone;
    };
    struct State {
        double lowered = 1.0;  ///< 0 up, 1 down.
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kRaise, kUp, kDown };
    enum Mishaps { kInTheWay };
    static constexpr double kHalfThickness_m = 0.015;

    static void declare(Declaration<GateArm>& kind) {
        kind.names("gate_arm", "transport", Placement::Mounted,
                   "a bar that swings down across a surface; it falls by its weight")
            .drawn(Layer::Actor)
            .quantity("height", &Model::height_m, Dimension::Length, "300 mm", 0.01, 5.0,
                      "of what it bars, above the surface")
            .quantity("time", &Model::time_s, Dimension::Time, "1 s", 0.05, 60.0, "to swing up, and down")
            .output("raise", "TRUE swings it up")
            .input("up", "TRUE while it is up")
            .input("down", "TRUE while it is down")
            .actual("position", PointType::Analog, Dimension::Percent, "lowered by",
                    [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                        return s.lowered * 100.0;
                    })
            .moves("its bar swings", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .mishap("item_obstructs", "it comes down on an item");
    }

    static void place(Placing& at, Model& model, State&) {
        const double half = at.mounted_device().width_m / 2.0;
        at.device.width_m = 2.0 * half;
        at.device.length_m = 2.0 * kHalfThickness_m;
        model.solid =
            at.add_solid(at.device.pose.box(-kHalfThickness_m, kHalfThickness_m, half, half), at.device.pose.z_m,
                         at.device.pose.z_m + model.height_m, at.device.pose.heading.ahead(), 0.0, true);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        SolidState& solid = base::at(step.state.solids, model.solid);
        const double before = state.lowered;
        if (!state.jammed) {
            const double way = step.dt_s / model.time_s;
            const double wanted = std::clamp(state.lowered + (step.output(kRaise) != 0.0 ? -way : way), 0.0, 1.0);
            const Item* under = wanted < 0.5 || solid.present ? nullptr : item_under(model, step);
            if (under == nullptr) state.lowered = wanted;
            step.mishap(kInTheWay, under != nullptr, kNone, under);
        }
        state.moves = state.lowered != before;
        solid.present = state.lowered >= 0.5;
    }

    static const Item* item_under(const Model& model, Step& step) {
        const SolidModel& bar = base::at(step.model.solids, model.solid);
        const Item* found = nullptr;
        step.each_near(bar.zone, [&](const Item& item) {
            const bool level = item.z_m < bar.top_m && step.model.top_m(item) > bar.bottom_m;
            if (level && overlap(step.model.footprint(item), bar.area, kTouch_m)) found = &item;
        });
        return found;
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kUp, state.lowered <= 0.0 ? 1.0 : 0.0);
        step.input(kDown, state.lowered >= 1.0 ? 1.0 : 0.0);
    }

    static void draw(Drawing& d) {
        const bool down = d.actual("position") >= 50;
        d.box(d.area(), {down ? Tone::Out : Tone::Paper}, {Tone::Ink, 1, !down});
        d.label(d.device->pose.at(0, d.device->width_m / 2), fmt::format("{} {}", d.name(), down ? "down" : "up"),
                Side::Above);
    }
};

}  // namespace

Kind gate_arm_kind() {
    return make_kind<GateArm>();
}

}  // namespace vyard::plant
