#include <fmt/format.h>

#include <numbers>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A belt on a turning base. It turns with what lies on it, and stalls when that would hit something.
struct Turntable {
    struct Model {
        double length_m = 0.6, width_m = 0.4, speed_m_s = 0.3, angle_rad = 1.5708, turn_s = 2.0;
        Heading home;
    };
    struct State {
        double angle_rad = 0.0;
        double asked_rad = 0.0;  ///< To turn by in this step.
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kRun, kTurn, kHome, kTurned };
    enum Mishaps { kBlocked, kAcrossEdge };

    static void declare(Declaration<Turntable>& kind) {
        kind.names("turntable", "transport", Placement::Surface, "a belt on a base that turns about its middle")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "600 mm", 0.05, 10.0, "of its belt")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.3 m/s", -5.0, 5.0, "of its belt")
            .quantity("angle", &Model::angle_rad, Dimension::Angle, "90 deg", -6.3, 6.3,
                      "it turns by; negative is clockwise")
            .quantity("turn_time", &Model::turn_s, Dimension::Time, "2 s", 0.1, 600.0, "over the whole angle")
            .output("run", "TRUE runs its belt")
            .output("turn", "TRUE turns it out, FALSE turns it home")
            .input("home", "TRUE while it stands at its start")
            .input("turned", "TRUE while it stands at its angle")
            .actual("angle", PointType::Analog, Dimension::Angle, "from home", &State::angle_rad)
            .actual("speed", PointType::Analog, Dimension::Speed, "of its belt, now",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return base::at(state.surfaces, base::at(plant.devices, device).surface).speed_m_s;
                    })
            .moves("it turns, or its belt runs", &State::moves)
            .fault("jammed", "does not turn", &State::jammed)
            .mishap("turn_blocked", "something stands in the way of what it turns")
            .mishap("item_across_edge", "it turns while an item lies across its edge");
    }

    static void place(Placing& at, Model& model, State&) {
        SurfaceModel& s = at.surface(at.add_surface(model.length_m, model.width_m));
        s.turns = true;
        s.pivot = s.pose.at(model.length_m / 2.0, 0.0);
        s.turn_radius_m = s.area(s.pose).radius_m();
        s.zone = at.add_zone(s.pivot, s.turn_radius_m);
        model.home = s.pose.heading;
        at.moves_up_to(std::abs(model.speed_m_s));
        at.moves_up_to((s.turn_radius_m + 0.5) * std::abs(model.angle_rad) / model.turn_s);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        SurfaceState& s = step.surface(step.device->surface);
        s.speed_m_s = step.output(kRun) != 0.0 ? model.speed_m_s : 0.0;
        const double wanted = step.output(kTurn) != 0.0 ? model.angle_rad : 0.0;
        const double most = std::abs(model.angle_rad) * step.dt_s / model.turn_s;
        s.turn_rad = state.jammed ? 0.0 : std::clamp(wanted - state.angle_rad, -most, most);
        state.asked_rad = s.turn_rad;
        const Item* across =
            s.turn_rad != 0.0 ? item_across_edge(step.model, step.state, step.device->surface) : nullptr;
        step.mishap(kAcrossEdge, across != nullptr, kNone, across);
    }

    /// Where it came to: what stood in its way may have stopped it.
    static void sense(const Model& model, State& state, Step& step) {
        const Heading now = step.surface(step.device->surface).pose.heading;
        const Heading back{model.home.cos, -model.home.sin};
        double angle = now.turned(back).radians();
        const double full = 2.0 * std::numbers::pi;
        angle += full * std::nearbyint((state.angle_rad - angle) / full);
        state.moves = angle != state.angle_rad || step.surface(step.device->surface).speed_m_s != 0.0;
        step.mishap(kBlocked, std::abs(state.asked_rad) > 1e-9 && std::abs(angle - state.angle_rad) < 1e-9);
        state.angle_rad = std::abs(angle) < 1e-9 ? 0.0 : angle;
        step.input(kHome, std::abs(state.angle_rad) < kAtAngle_rad ? 1.0 : 0.0);
        step.input(kTurned, std::abs(state.angle_rad - model.angle_rad) < kAtAngle_rad ? 1.0 : 0.0);
    }
    static constexpr double kAtAngle_rad = 0.005;

    static void draw(Drawing& d) {
        const SurfaceModel& s = base::at(d.model.surfaces, d.device->surface);
        const bool runs = d.actual("speed") != 0;
        d.disc(s.pivot, s.turn_radius_m, {}, {Tone::Faint, 1});
        d.box(d.area(), {Tone::Mist}, {Tone::Ink, runs ? 2.0 : 1.0});
        d.chevrons({runs ? Tone::Runs : Tone::Faint, 2});
        d.surface_label(fmt::format("{}  {:.0f} deg", d.name(), d.actual("angle") * 180 / std::numbers::pi));
    }
};

}  // namespace

Kind turntable_kind() {
    return make_kind<Turntable>();
}

}  // namespace vyard::plant
