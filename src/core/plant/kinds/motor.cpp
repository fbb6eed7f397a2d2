#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A motor on a direct starter: contactor delay, running feedback, thermal overload that latches until reset by hand.
struct Motor {
    struct Model {
        double start_s = 0.2, trip_s = 2.0;
        Contact overload = Contact::NormallyClosed;
    };
    struct State {
        double on_s = 0.0;  ///< Time the contactor has been asked for.
        double stalled_s = 0.0;
        bool tripped = false;  ///< The overload, latched.
        bool trip_fault = false;
        bool jammed = false;
    };
    enum Points { kRun, kRunning, kOverload };

    static void declare(Declaration<Motor>& kind) {
        kind.names("motor", "drives", Symbol::Motor, Placement::Panel,
                   "a motor on a direct starter with overload and running feedback")
            .quantity("start_time", &Model::start_s, Dimension::Time, "0.2 s", 0.0, 60.0,
                      "from run to running feedback and full speed")
            .quantity("trip_time", &Model::trip_s, Dimension::Time, "2 s", 0.1, 600.0,
                      "how long it may stall before the overload trips")
            .choice("overload_contact", &Model::overload, {"normally open", "normally closed"}, "normally closed",
                    "how the overload is wired: normally closed reads TRUE while healthy")
            .output("run", "TRUE closes the contactor")
            .input("running", "TRUE while it turns")
            .input("overload", "the overload contact: normally closed reads TRUE while healthy")
            .control("reset", "resets a tripped overload", [](const Model&, State& s) { s.tripped = s.trip_fault; })
            .gauge("speed", PointType::Analog, Dimension::Percent, "of full speed",
                   [](const Model&, const State&, const PlantModel&, const PlantState& state, int device) {
                       return 100.0 * state.drive_ratio[static_cast<std::size_t>(device)];
                   })
            .gauge("tripped", PointType::Boolean, Dimension::Plain, "its overload has tripped", &State::tripped)
            .fault("trip", "the overload trips; heal it, then reset by hand", &State::trip_fault)
            .fault("jammed", "cannot turn; the overload trips after trip_time", &State::jammed);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        state.tripped = state.tripped || state.trip_fault;
        const bool powered = step.output(kRun) != 0.0 && !state.tripped;
        state.on_s = powered ? state.on_s + step.dt_s : 0.0;
        state.stalled_s = powered && state.jammed ? state.stalled_s + step.dt_s : 0.0;
        if (state.stalled_s >= model.trip_s) state.tripped = true;
        const bool turning = powered && !state.jammed && !state.tripped && state.on_s >= model.start_s - 1e-9;
        step.drive_ratio() = turning ? 1.0 : 0.0;
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kRunning, step.drive_ratio() > 0.0 ? 1.0 : 0.0);
        step.input(kOverload, contact_value(model.overload, state.tripped));
    }
};

}  // namespace

Kind motor_kind() {
    return make_kind<Motor>();
}

}  // namespace vyard::plant
