#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A semi-rotary air actuator: it has its end switches built in.
struct RotaryActuator {
    struct Model {
        double angle_rad = 1.5708, time_s = 0.5, needs_pa = 2e5;
        int air = kNone;
        bool two_coils = false;
    };
    struct State {
        double share = 0.0;
        int sent = -1;
        bool jammed = false;
        bool moves = false;
    };
    enum Points { kTurn, kBack, kHome, kTurned };
    enum Mishaps { kBoth };

    static void declare(Declaration<RotaryActuator>& kind) {
        kind.names("rotary_actuator", "air", Placement::Panel, "an air actuator that turns by an angle and back")
            .quantity("angle", &Model::angle_rad, Dimension::Angle, "90 deg", 0.01, 6.3, "it turns by")
            .quantity("time", &Model::time_s, Dimension::Time, "0.5 s", 0.01, 60.0, "over the whole angle")
            .choice("valve", &Model::two_coils, {"single solenoid", "double solenoid"}, "single solenoid",
                    "single: a spring brings it back; double: goes on as last sent")
            .device("air", &Model::air, {"air_supply"}, false, "where its air comes from; without one it never fails")
            .quantity("minimum_pressure", &Model::needs_pa, Dimension::Pressure, "2 bar", 0.0, 2e6,
                      "least pressure at which it moves")
            .output("turn", "TRUE turns it out")
            .output("back", "TRUE turns it back")
            .only_if([](const Model& m) { return m.two_coils; })
            .input("home", "TRUE while it is at its start")
            .input("turned", "TRUE while it is at its angle")
            .actual("angle", PointType::Analog, Dimension::Angle, "from home",
                    [](const Model& m, const State& s, const PlantModel&, const PlantState&, int) {
                        return s.share * m.angle_rad;
                    })
            .moves("it turns", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .opposite(kTurn, kBack)
            .mishap("both_coils", "both coils of its valve are on at once");
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const bool turn = step.output(kTurn) != 0.0;
        step.mishap(kBoth, turn && step.output(kBack) != 0.0);
        const bool air = model.air == kNone || pressure_of_pa(step.model, step.state, model.air) >= model.needs_pa;
        const bool told = !model.two_coils || turn != (step.output(kBack) != 0.0);
        if (told) state.sent = turn ? 1 : -1;
        const bool spring = !model.two_coils && (state.sent < 0 || !air);
        const double way = spring ? -1.0 : air ? state.sent : 0.0;
        const double before = state.share;
        if (!state.jammed) state.share = std::clamp(state.share + way * step.dt_s / model.time_s, 0.0, 1.0);
        state.moves = state.share != before;
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kHome, state.share <= 1e-9 ? 1.0 : 0.0);
        step.input(kTurned, state.share >= 1.0 - 1e-9 ? 1.0 : 0.0);
    }
};

}  // namespace

Kind rotary_actuator_kind() {
    return make_kind<RotaryActuator>();
}

}  // namespace vyard::plant
