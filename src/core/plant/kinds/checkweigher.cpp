#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Weighs what lies wholly on a stretch of a surface. The scale settles as a first-order lag, exact over a step for a
// constant load: w += (load - w)(1 - exp(-dt / T)).
struct Checkweigher {
    struct Model {
        double length_m = 0.6, range_kg = 50.0, settle_s = 0.1, half_width_m = 0.2;
        int zone = kNone;
    };
    struct State {
        double shown_kg = 0.0, load_kg = 0.0;
        bool stable = true;
    };
    enum Points { kWeight, kStable };

    static void declare(Declaration<Checkweigher>& kind) {
        kind.names("checkweigher", "sensors", Placement::Mounted,
                   "weighs what lies on a stretch of a surface, also while it moves")
            .drawn(Layer::Inset)
            .quantity("length", &Model::length_m, Dimension::Length, "600 mm", 0.05, 10.0,
                      "of the stretch, `at` is its middle")
            .quantity("range", &Model::range_kg, Dimension::Mass, "50 kg", 0.01, 1e5, "upper end of its signal")
            .quantity("time_constant", &Model::settle_s, Dimension::Time, "0.1 s", 0.0, 60.0,
                      "time constant of the scale")
            .analog_input("weight", Dimension::Mass, "within 0 to range")
            .spans([](const Model& m) {
                return std::pair{0.0, m.range_kg};
            })
            .input("stable",
                   "TRUE while the weight moves by less than a thousandth of the range within a time constant")
            .actual("load", PointType::Analog, Dimension::Mass, "what really lies on it", &State::load_kg);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.length_m = model.length_m;
        at.device.width_m = at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone =
            at.add_zone({at.device.pose.origin(), model.length_m / 2.0, model.half_width_m, at.device.pose.heading});
    }

    static void sense(const Model& model, State& state, Step& step) {
        const Pose& pose = step.device->pose;
        state.load_kg = 0.0;
        step.each_near(model.zone, [&](const Item& item) {
            // By the share of its length that lies on the stretch: the rest is carried by the neighbours.
            const double half = step.model.footprint(item).half_extent(pose.heading.ahead());
            const double along = pose.along(item.x_m, item.y_m);
            const double on =
                std::min(along + half, model.length_m / 2.0) - std::max(along - half, -model.length_m / 2.0);
            const bool here = on > 0.0 && std::abs(pose.left(item.x_m, item.y_m)) <= model.half_width_m;
            if (!here || !carried_here(item, step)) return;
            state.load_kg += step.model.type_of(item).mass_kg * on / (2.0 * half);
        });
        const double share = model.settle_s > 0.0 ? -std::expm1(-step.dt_s / model.settle_s) : 1.0;
        state.shown_kg += (state.load_kg - state.shown_kg) * share;
        state.stable = std::abs(state.load_kg - state.shown_kg) < model.range_kg / 1000.0;
        step.input(kWeight, std::clamp(state.shown_kg, 0.0, model.range_kg));
        step.input(kStable, state.stable ? 1.0 : 0.0);
    }

    /// On the surface itself, or on what lies on it; not on another surface above.
    static bool carried_here(const Item& item, const Step& step) {
        const Item* lowest = &item;
        for (int depth = 0; lowest->below != kNone && depth < 100; ++depth)
            lowest = &base::at(step.state.items, lowest->below);
        const DeviceModel& under = step.model.device(step.device->mounted_on);
        return lowest->support >= under.surface && lowest->support < under.surface + under.surface_count;
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {Tone::Sky, 0.25}, {Tone::Water, 1, true});
        d.label(d.device->pose.at(0, d.device->width_m / 2), fmt::format("{}  {:.1f} kg", d.name(), d.actual("load")),
                Side::Above);
    }
};

}  // namespace

Kind checkweigher_kind() {
    return make_kind<Checkweigher>();
}

}  // namespace vyard::plant
