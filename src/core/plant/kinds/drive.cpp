#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A variable-speed drive with its motor: a speed reference in both directions, a ramp, a fault that waits for a reset.
struct Drive {
    struct Model {
        double ramp_s = 1.0, load_percent = 0.0;
    };
    struct State {
        double speed = 0.0;  ///< Share of full speed.
        bool fault = false, trip = false, jammed = false, last_reset = false;
    };
    enum Points { kEnable, kReference, kReset, kReady, kFault, kAtReference, kSpeed };

    static void declare(Declaration<Drive>& kind) {
        kind.names("drive", "drives", Placement::Panel,
                   "a variable-speed drive with its motor: setpoint, ramp, ready, fault and reset")
            .drives()
            .quantity("ramp_time", &Model::ramp_s, Dimension::Time, "1 s", 0.0, 600.0, "from rest to full speed")
            .quantity("slip", &Model::load_percent, Dimension::Percent, "0 %", 0.0, 90.0,
                      "the motor runs slower than its setpoint by this share")
            .output("enable", "TRUE lets it follow the setpoint; FALSE ramps down")
            .analog_output("setpoint", Dimension::Percent, "wanted speed, -100 to 100 %")
            .takes([](const Model&) {
                return std::pair{-100.0, 100.0};
            })
            .output("reset", "a rising edge clears a fault")
            .input("ready", "TRUE while it has no fault")
            .input("fault", "TRUE after a fault until it is reset")
            .input("at_speed", "TRUE while it turns as it should")
            .analog_input("speed", Dimension::Percent, "of full speed")
            .spans([](const Model&) {
                return std::pair{-100.0, 100.0};
            })
            .actual("actual_speed", PointType::Analog, Dimension::Percent, "of full speed",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return 100.0 * drive_ratio_of(plant, state, device);
                    })
            .moves_by_drive()
            .fault("trip", "it reports a fault and coasts; heal it, then reset", &State::trip)
            .fault("jammed", "its motor cannot turn: it trips at once", &State::jammed);
    }

    static double reference(const State& state, const Step& step) {
        const bool follows = step.output(kEnable) != 0.0 && !state.fault;
        return follows ? std::clamp(step.output(kReference) / 100.0, -1.0, 1.0) : 0.0;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const bool reset = step.output(kReset) != 0.0;
        if (reset && !state.last_reset) state.fault = false;
        state.last_reset = reset;
        const double wanted = reference(state, step);
        state.fault = state.fault || state.trip || (state.jammed && wanted != 0.0);
        const double change = model.ramp_s > 0.0 ? step.dt_s / model.ramp_s : 2.0;
        const double aim = state.fault ? 0.0 : wanted;
        state.speed = state.jammed ? 0.0 : state.speed + std::clamp(aim - state.speed, -change, change);
        step.drive_ratio() = state.speed * (1.0 - model.load_percent / 100.0);
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kReady, state.fault ? 0.0 : 1.0);
        step.input(kFault, state.fault ? 1.0 : 0.0);
        step.input(kAtReference, std::abs(state.speed - reference(state, step)) < 1e-6 ? 1.0 : 0.0);
        step.input(kSpeed, 100.0 * step.drive_ratio());
    }
};

}  // namespace

Kind drive_kind() {
    return make_kind<Drive>();
}

}  // namespace vyard::plant
