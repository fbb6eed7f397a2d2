#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Stopper {
    struct Model {
        double height_m = 0.06, time_s = 0.15;
        int solid = kNone;
    };
    struct State {
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kRaise };
    enum Mishaps { kInTheWay };
    static constexpr double kHalfThickness_m = 0.01;

    static void declare(Declaration<Stopper>& kind) {
        kind.names("stopper", "transport", Placement::Mounted,
                   "a blade that rises across a surface and holds items back; a spring lowers it")
            .drawn(Layer::Actor)
            .extends()
            .quantity("height", &Model::height_m, Dimension::Length, "60 mm", 0.005, 1.0,
                      "above the surface when raised")
            .quantity("time", &Model::time_s, Dimension::Time, "0.15 s", 0.0, 60.0, "to rise, and to fall")
            .output("raise", "TRUE raises the blade; it waits while an item lies above it")
            .actual("position", PointType::Analog, Dimension::Length, "of the blade above the surface",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return extension_of_m(plant, state, device);
                    })
            .moves("its blade moves", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .mishap("item_obstructs", "it is raised under an item");
    }

    static void place(Placing& at, Model& model, State&) {
        at.reaches(model.height_m);
        const double half = base::at(at.model.devices, at.device.mounted_on).width_m / 2.0;
        at.device.width_m = 2.0 * half;
        at.device.length_m = 2.0 * kHalfThickness_m;
        const double top = at.device.pose.z_m + model.height_m;
        model.solid = at.add_solid(at.device.pose.box(-kHalfThickness_m, kHalfThickness_m, half, half),
                                   at.device.pose.z_m, top, at.device.pose.heading.ahead(), 0.0, false);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double way = model.time_s > 0.0 ? model.height_m * step.dt_s / model.time_s : model.height_m;
        SolidState& solid = base::at(step.state.solids, model.solid);
        const double before_m = step.extension_m();
        if (!state.jammed) {
            const bool wanted = step.output(kRaise) != 0.0;
            const Item* above = wanted && !solid.present ? item_above(model, step) : nullptr;
            const bool raise = wanted && above == nullptr;
            step.mishap(kInTheWay, above != nullptr, kNone, above);
            step.extension_m() = std::clamp(step.extension_m() + (raise ? way : -way), 0.0, model.height_m);
        }
        state.moves = step.extension_m() != before_m;
        solid.present = step.extension_m() > model.height_m / 2.0;
    }

    static const Item* item_above(const Model& model, Step& step) {
        const SolidModel& blade = base::at(step.model.solids, model.solid);
        const Item* found = nullptr;
        step.each_near(blade.zone, [&](const Item& item) {
            const bool near = item.z_m < blade.top_m && step.model.top_m(item) > blade.bottom_m - 0.01;
            if (near && overlap(step.model.footprint(item), blade.area, 1e-6)) found = &item;
        });
        return found;
    }

    static void draw(Drawing& d) {
        const bool raised = d.actual("position") > 0.03;
        d.box(d.area(), {raised ? Tone::Out : Tone::Paper}, {});
        d.label(d.device->pose.at(0, d.device->width_m / 2), fmt::format("{} {}", d.name(), raised ? "up" : "down"),
                Side::Above);
    }
};

}  // namespace

Kind stopper_kind() {
    return make_kind<Stopper>();
}

}  // namespace vyard::plant
