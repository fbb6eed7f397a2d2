#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/switching.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A centrifugal pump against the height between two liquids: q = q0 sqrt(1 - h / h0), with the affinity laws for
// speed: q0 goes with the speed, h0 with its square (Gülich, Centrifugal Pumps, 3.4). Running dry it moves nothing and
// is worn.
struct Pump {
    enum class Control : int { OnOff = 0, Setpoint = 1 };
    struct Model {
        int from = kNone, into = kNone;
        double flow_m3_s = 0.5e-3, head_m = 10.0, lift_m = 0.0, start_s = 0.3, dry_s = 10.0;
        Control control = Control::OnOff;
        Contact overload = Contact::NormallyClosed;
    };
    struct State {
        double speed = 0.0, flow_m3_s = 0.0, dry_s = 0.0;
        bool tripped = false, blocked = false, trip_fault = false;
        double worn_percent = 0.0;
        double still_s = 0.0;  ///< For how long it has moved nothing at its speed.
        Switching contactor;
    };
    enum Points { kRun, kSpeed, kRunning, kOverload };
    enum Mishaps { kDry, kMovesNothing, kChatters };
    static constexpr double kMostStill_s = 1.0;  ///< Running against a shut way; what it holds heats up.

    static void declare(Declaration<Pump>& kind) {
        kind.names("pump", "liquid", Placement::Panel,
                   "a centrifugal pump with its motor; trips when it runs dry for too long")
            .tile(Tile::Pump)
            .drives()
            .device("from", &Model::from, {"tank"}, false, "the tank it empties; without one, a supply that never ends")
            .device("into", &Model::into, {"tank"}, false, "the tank it fills; without one, away")
            .quantity("flow", &Model::flow_m3_s, Dimension::Flow, "0.5 l/s", 1e-7, 10.0,
                      "at full speed against no height")
            .quantity("head", &Model::head_m, Dimension::Length, "10 m", 0.1, 1000.0,
                      "height against which it moves nothing")
            .quantity("lift", &Model::lift_m, Dimension::Length, "0 m", -100.0, 1000.0,
                      "height from the liquid it takes to the one it fills, when both are at the bottom")
            .quantity("start_time", &Model::start_s, Dimension::Time, "0.3 s", 0.0, 60.0, "from rest to full speed")
            .quantity("dry_time", &Model::dry_s, Dimension::Time, "10 s", 0.1, 3600.0, "running dry until it trips")
            .choice("control", &Model::control, {"on/off", "setpoint"}, "on/off", "one point to run it, or a speed")
            .choice("overload_contact", &Model::overload, {"normally open", "normally closed"}, "normally closed",
                    "how the overload is wired: normally closed reads TRUE while healthy")
            .output("run", "TRUE runs it")
            .analog_output("speed", Dimension::Percent, "wanted speed while run is TRUE")
            .takes([](const Model&) {
                return std::pair{0.0, 100.0};
            })
            .only_if([](const Model& m) { return m.control == Control::Setpoint; })
            .input("running", "TRUE at more than half its speed")
            .input("overload_contact", "normally closed: TRUE while the overload has not tripped")
            .wired(&Model::overload)
            .control("reset", "resets a tripped overload",
                     [](const Model&, State& s) {
                         s.tripped = s.trip_fault;
                         s.dry_s = 0.0;
                     })
            .actual("flow", PointType::Analog, Dimension::Flow, "through it, now", &State::flow_m3_s)
            .actual(
                "actual_speed", PointType::Analog, Dimension::Percent, "of full speed",
                [](const Model&, const State& s, const PlantModel&, const PlantState&, int) { return s.speed * 100.0; })
            .actual("tripped", PointType::Boolean, Dimension::Plain, "its overload has tripped", &State::tripped)
            .moves_by_drive()
            .fault("blocked", "turns but moves nothing", &State::blocked)
            .fault("trip", "the overload trips; heal it, then reset by hand", &State::trip_fault)
            .fault_amount("worn", Dimension::Percent, 30.0, 0.0, 100.0, "moves less by this share",
                          &State::worn_percent)
            .mishap("dry_running", "it runs with nothing in the tank it empties")
            .mishap("moves_nothing", "it runs for more than a second against more height than it gives, or shut off")
            .mishap("contactor_chatters", "its contactor is switched on again and again");
    }

    static void actuate(const Model& model, State& state, Step& step) {
        state.tripped = state.tripped || state.trip_fault;
        const bool on = step.output(kRun) != 0.0 && !state.tripped;
        const double share =
            model.control == Control::Setpoint ? std::clamp(step.output(kSpeed) / 100.0, 0.0, 1.0) : 1.0;
        const double change = model.start_s > 0.0 ? step.dt_s / model.start_s : 1.0;
        state.speed += std::clamp((on ? share : 0.0) - state.speed, -change, change);
        const double height_m = model.lift_m + level(model.into, step) - level(model.from, step);
        const double against = height_m / std::max(model.head_m * state.speed * state.speed, 1e-9);
        double flow = model.flow_m3_s * state.speed * std::sqrt(std::max(1.0 - against, 0.0));
        if (against < 0.0) flow = std::min(flow, 2.0 * model.flow_m3_s * state.speed);  // it does not run away
        flow *= state.blocked ? 0.0 : 1.0 - state.worn_percent / 100.0;
        const double moved_m3 = move_liquid(step, model.from, model.into, flow * step.dt_s);
        state.flow_m3_s = moved_m3 / step.dt_s;
        const bool dry = state.speed > 0.1 && model.from != kNone && step.liquid(model.from).volume_m3 <= 1e-9;
        state.dry_s = dry ? state.dry_s + step.dt_s : 0.0;
        const bool still = on && !dry && state.speed > 0.1 && state.speed >= share - 1e-9 && moved_m3 <= 0.0;
        state.still_s = still ? std::min(state.still_s + step.dt_s, 2.0 * kMostStill_s) : 0.0;
        state.contactor.look(on ? 1 : 0, 0.0, step.dt_s);
        step.mishap(kDry, dry);
        step.mishap(kMovesNothing, state.still_s > kMostStill_s);
        step.mishap(kChatters, state.contactor.chatters);
        if (state.dry_s >= model.dry_s) state.tripped = true;
        step.drive_ratio() = state.speed;
    }

    static double level(int tank, const Step& step) {
        if (tank == kNone) return 0.0;
        return tank_level_m(step.model, step.state, tank);
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kRunning, state.speed > 0.5 ? 1.0 : 0.0);
        step.input(kOverload, contact_value(model.overload, state.tripped));
    }
};

}  // namespace

Kind pump_kind() {
    return make_kind<Pump>();
}

}  // namespace vyard::plant
