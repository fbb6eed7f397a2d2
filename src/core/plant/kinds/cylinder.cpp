#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Way : int { Down = 0, Up = 1 };

// A cylinder with its valve. It may carry a surface up or down (`lifts`), or close jaws on what lies on one
// (`clamps`): the jaws stop at the item, and what they touch no longer moves along the surface.
struct Cylinder {
    enum class ValveType : int { SingleSolenoid = 0, DoubleSolenoid = 1, CentreClosed = 2, CentreExhausted = 3 };
    struct Model {
        double stroke_m = 0.1, extend_s = 0.5, retract_s = 0.5;
        ValveType valve = ValveType::SingleSolenoid;
        int lifts = kNone;
        Way way = Way::Down;
        int clamps = kNone;
        double at_m = 0.0, reach_m = 0.2, opening_m = 0.2;
        int surface = kNone;  ///< The lifted or clamped one.
        double rest_height_m = 0.0;
        int zone = kNone;
        int air = kNone;
        double needs_pa = 2e5, bore_m = 0.0, load_n = 0.0;
    };
    struct State {
        int sent = -1;  ///< By the last pulse to a double solenoid.
        int way = -1;   ///< Where the valve sends it: 1 out, -1 back, 0 nowhere.
        double slow_percent = 0.0;
        bool jammed = false;
        bool gripping = false;
        bool moves = false;
    };
    enum Points { kExtend, kRetract };
    enum Mishaps { kBoth, kAcrossEdge };

    static void declare(Declaration<Cylinder>& kind) {
        kind.names("cylinder", "air", Placement::Panel,
                   "an air cylinder with its valve; may lift a belt or clamp what lies on one")
            .drawn(Layer::Actor)
            .extends()
            .quantity("stroke", &Model::stroke_m, Dimension::Length, "", 0.001, 5.0, "from retracted to extended")
            .quantity("extend_time", &Model::extend_s, Dimension::Time, "0.5 s", 0.01, 60.0, "over the whole stroke")
            .quantity("retract_time", &Model::retract_s, Dimension::Time, "0.5 s", 0.01, 60.0, "over the whole stroke")
            .choice(
                "valve", &Model::valve, {"single solenoid", "double solenoid", "centre closed", "centre exhausted"},
                "single solenoid",
                "single (3/2, 5/2): a spring brings it back; double (5/2): goes on as last sent; 5/3 with its centre "
                "closed: stands while neither is on; exhausted: its load pushes it back")
            .device("air", &Model::air, {"air_supply"}, false, "where its air comes from; without one it never fails")
            .quantity("minimum_pressure", &Model::needs_pa, Dimension::Pressure, "2 bar", 0.0, 2e6,
                      "least pressure of its air at which it moves")
            .quantity("bore", &Model::bore_m, Dimension::Length, "0 mm", 0.0, 1.0,
                      "diameter of its piston, for what it can lift; 0: any load")
            .quantity("load_force", &Model::load_n, Dimension::Force, "0 N", 0.0, 1e6, "against its way out")
            .device("lifts", &Model::lifts, {"belt"}, false, "the belt it carries up or down")
            .choice("direction", &Model::way, {"down", "up"}, "down", "which way extending moves the lifted belt")
            .device("clamps", &Model::clamps, {"belt"}, false, "the belt whose items its jaws hold")
            .quantity("at", &Model::at_m, Dimension::Length, "0 m", 0.0, 200.0,
                      "middle of the jaws along the clamped belt")
            .quantity("reach", &Model::reach_m, Dimension::Length, "200 mm", 0.01, 5.0,
                      "length of the jaws along the belt")
            .quantity("opening", &Model::opening_m, Dimension::Length, "200 mm", 0.01, 5.0,
                      "between the jaws when retracted")
            .output("extend", "TRUE sends it out")
            .output("retract", "TRUE sends it back")
            .only_if([](const Model& m) { return m.valve != ValveType::SingleSolenoid; })
            .actual("position", PointType::Analog, Dimension::Length, "of the rod from retracted",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return extension_of_m(plant, state, device);
                    })
            .actual("gripping", PointType::Boolean, Dimension::Plain, "its jaws hold an item", &State::gripping)
            .moves("its rod moves", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .fault_amount("slow", Dimension::Percent, 50.0, 0.0, 100.0, "loses this share of its speed",
                          &State::slow_percent)
            .opposite(kExtend, kRetract)
            .mishap("both_coils", "both coils of its valve are on at once")
            .mishap("item_across_edge", "it raises or lowers its belt while an item lies across the edge");
    }

    static void place(Placing& at, Model& model, State&) {
        at.reaches(model.stroke_m);
        const int other = model.lifts != kNone ? model.lifts : model.clamps;
        if (other == kNone) return;
        const DeviceModel& d = base::at(at.model.devices, other);
        model.surface = d.surface;
        const Pose& pose = base::at(at.model.surfaces, d.surface).pose;
        model.rest_height_m = pose.z_m;
        const double along = model.clamps != kNone ? model.at_m : d.length_m / 2.0;
        const Vector2 p = pose.at(along, 0.0);
        at.device.pose = {p.x_m, p.y_m, pose.z_m, pose.heading};
        at.device.in_plan = true;
        at.device.length_m = model.clamps != kNone ? model.reach_m : 0.1;
        at.device.width_m = d.width_m;
        if (model.clamps != kNone)
            model.zone = at.add_zone(pose.box(model.at_m - model.reach_m / 2.0, model.at_m + model.reach_m / 2.0,
                                              d.width_m / 2.0, d.width_m / 2.0));
    }

    static void actuate(const Model& model, State& state, Step& step) {
        direct(model, state, step);
        step.mishap(kBoth, step.output(kExtend) != 0.0 && step.output(kRetract) != 0.0);
        double& extension = step.extension_m();
        const double before_m = extension;
        const double limit = model.clamps != kNone ? jaw_limit(model, step) : model.stroke_m;
        if (!state.jammed) {
            const double share = 1.0 - state.slow_percent / 100.0;
            const double way = state.way > 0   ? model.stroke_m * step.dt_s / model.extend_s
                               : state.way < 0 ? -model.stroke_m * step.dt_s / model.retract_s
                                               : 0.0;
            extension = std::clamp(extension + way * share, 0.0, std::max(limit, 0.0));
        }
        state.moves = extension != before_m;
        if (model.lifts != kNone) {
            const Item* across = state.moves ? item_across_edge(step.model, step.state, model.surface) : nullptr;
            step.mishap(kAcrossEdge, across != nullptr, kNone, across);
            base::at(step.state.surfaces, model.surface).pose.z_m =
                model.rest_height_m + (model.way == Way::Down ? -extension : extension);
        }
        if (model.clamps != kNone) grip(model, state, step, limit);
    }

    static void direct(const Model& model, State& state, const Step& step) {
        const bool extend = step.output(kExtend) != 0.0, retract = step.output(kRetract) != 0.0;
        const double pressure = model.air == kNone ? 6e5 : pressure_of_pa(step.model, step.state, model.air);
        const double force_n = pressure * std::numbers::pi / 4.0 * model.bore_m * model.bore_m;
        const bool air = pressure >= model.needs_pa;
        const bool lifts = air && (model.bore_m <= 0.0 || force_n >= model.load_n);
        switch (model.valve) {
            case ValveType::SingleSolenoid: state.way = extend && lifts ? 1 : extend && air ? 0 : -1; return;
            case ValveType::DoubleSolenoid:
                if (extend != retract) state.sent = extend ? 1 : -1;
                state.way = !air || (state.sent > 0 && !lifts) ? 0 : state.sent;
                return;
            case ValveType::CentreClosed:
            case ValveType::CentreExhausted: {
                const int wanted = extend == retract ? 0 : extend ? 1 : -1;
                const bool pushed_back = model.valve == ValveType::CentreExhausted && wanted == 0 && model.load_n > 0.0;
                state.way = pushed_back ? -1 : !air || (wanted > 0 && !lifts) ? 0 : wanted;
                return;
            }
        }
    }

    static const Pose& clamped_pose(const Model& model, const Step& step) {
        return base::at(step.state.surfaces, model.surface).pose;
    }

    static bool within_jaws(const Model& model, const Step& step, const Item& item) {
        if (item.support != model.surface) return false;
        const Pose& pose = clamped_pose(model, step);
        const double half = step.model.footprint(item).half_extent(pose.heading.ahead());
        return std::abs(pose.along(item.x_m, item.y_m) - model.at_m) < half + model.reach_m / 2.0 - 1e-9;
    }

    /// The jaws close from `opening`; they stop at the widest item between them.
    static double jaw_limit(const Model& model, Step& step) {
        const Vector2 across = clamped_pose(model, step).heading.left();
        double limit = model.stroke_m;
        step.each_near(model.zone, [&](const Item& item) {
            if (within_jaws(model, step, item))
                limit = std::min(limit, model.opening_m - 2.0 * step.model.footprint(item).half_extent(across));
        });
        return limit;
    }

    static void grip(const Model& model, State& state, Step& step, double limit) {
        state.gripping = false;
        if (step.extension_m() < limit - 1e-9) return;
        step.each_near(model.zone, [&](Item& item) {
            if (!within_jaws(model, step, item)) return;
            step.state.hold(item);
            state.gripping = true;
        });
    }

    static void draw(Drawing& d) {
        const double out_m = d.actual("position");
        const Vector2 at = d.device->pose.at(0, d.device->width_m / 2 + 0.06);
        d.mark(Mark::Dot, at, 5, {out_m > 1e-6 ? Tone::Out : Tone::Paper}, {Tone::Ink, 1.5});
        const bool gripping = d.actual("gripping") != 0;
        d.label(at, fmt::format("{} {:.0f} mm{}", d.name(), out_m * 1000, gripping ? ", grips" : ""), Side::Above);
    }
};

}  // namespace

Kind cylinder_kind() {
    return make_kind<Cylinder>();
}

}  // namespace vyard::plant
