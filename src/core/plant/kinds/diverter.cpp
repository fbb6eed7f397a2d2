#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Wheels or chains between the rollers of a surface. Raised, they stand a little above it and carry what lies over
// them their own way; at 90 degrees this is a cross transfer.
struct Diverter {
    struct Model {
        double length_m = 0.4, angle_rad = 0.785, speed_m_s = 0.4, time_s = 0.2, half_width_m = 0.2;
        int own = kNone, host = kNone, zone = kNone;
        double rest_m = 0.0;
    };
    struct State {
        double raised = 0.0;  ///< 0 down, 1 up.
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kRaise, kUp };
    static constexpr double kAbove_m = 0.003, kBelow_m = 0.02;

    static void declare(Declaration<Diverter>& kind) {
        kind.names("diverter", "transport", Placement::Mounted,
                   "wheels that rise out of a surface and carry items off at an angle")
            .drawn(Layer::Inset)
            .quantity("length", &Model::length_m, Dimension::Length, "400 mm", 0.05, 5.0, "along the surface")
            .quantity("angle", &Model::angle_rad, Dimension::Angle, "45 deg", -3.15, 3.15,
                      "its wheels turn from the heading of the surface; positive to the left; 90 deg crosses it")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.4 m/s", 0.01, 5.0, "of its wheels")
            .quantity("time", &Model::time_s, Dimension::Time, "0.2 s", 0.0, 10.0, "to rise, and to fall")
            .output("raise", "TRUE raises and runs it")
            .input("up", "TRUE while it is up")
            .actual("position", PointType::Analog, Dimension::Percent, "raised by",
                    [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                        return s.raised * 100.0;
                    })
            .moves("it rises or falls, or its wheels turn", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed);
    }

    static void place(Placing& at, Model& model, State&) {
        const SurfaceModel& host = at.mounted_surface();
        model.host = static_cast<int>(&host - at.model.surfaces.data());
        model.half_width_m = host.half_width_m;
        model.rest_m = at.device.pose.z_m;
        const double width_m = 2.0 * host.half_width_m;
        const Pose middle = at.device.pose;
        model.own = at.add_surface(model.length_m, width_m, -model.length_m / 2.0);
        at.device.surface = kNone;  // what is asked of the device is asked of what it is mounted on
        at.device.surface_count = 0;
        at.device.length_m = model.length_m;
        model.zone = at.add_zone(middle.box(-model.length_m / 2.0, model.length_m / 2.0, width_m / 2.0, width_m / 2.0));
        base::at(at.model.initial.surfaces, model.own).pose.z_m -= kBelow_m;
        at.moves_up_to(model.speed_m_s);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const bool raise = step.output(kRaise) != 0.0;
        const double way = model.time_s > 0.0 ? step.dt_s / model.time_s : 1.0;
        const double before = state.raised;
        if (!state.jammed) state.raised = std::clamp(state.raised + (raise ? way : -way), 0.0, 1.0);
        const bool up = state.raised >= 1.0;
        state.moves = state.raised != before || (up && raise);
        SurfaceState& own = step.surface(model.own);
        own.pose.z_m = model.rest_m + (up ? kAbove_m : -kBelow_m);
        own.speed_m_s = up && raise ? model.speed_m_s * std::cos(model.angle_rad) : 0.0;
        own.across_m_s = up && raise ? model.speed_m_s * std::sin(model.angle_rad) : 0.0;
        hand_over(model, up, step);
    }

    /// What lies over it changes what carries it.
    static void hand_over(const Model& model, bool up, Step& step) {
        const SurfaceModel& area = base::at(step.model.surfaces, model.own);
        const int from = up ? model.host : model.own, to = up ? model.own : model.host;
        for (const int i : step.state.near.zone(model.zone)) {
            Item& item = base::at(step.state.items, i);
            if (item.support != from || !area.contains(step.surface(model.own), item.x_m, item.y_m)) continue;
            item.support = to;
            step.state.near.unsettle(static_cast<std::size_t>(i));
        }
    }

    static void sense(const Model&, State& state, Step& step) { step.input(kUp, state.raised >= 1.0 ? 1.0 : 0.0); }

    static void draw(Drawing& d) {
        const bool up = d.actual("position") > 99;
        const DeviceModel& v = *d.device;
        d.box(d.area(), {up ? Tone::Active : Tone::Paper, 0.6}, {Tone::Ink, 1, !up});
        for (double across = -0.35; across <= 0.36; across += 0.233) {
            for (double along = -0.3; along <= 0.31; along += 0.3)
                d.mark(Mark::Dot, v.pose.at(along * v.length_m, across * v.width_m), 3, {up ? Tone::Out : Tone::Paper},
                       {});
        }
        d.label(v.pose.at(-v.length_m * 0.4, -v.width_m / 2), fmt::format("{} {}", d.name(), up ? "up" : "down"),
                Side::Below);
    }
};

}  // namespace

Kind diverter_kind() {
    return make_kind<Diverter>();
}

}  // namespace vyard::plant
