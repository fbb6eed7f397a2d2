#include <cmath>

#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/switching.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A motor on a direct starter: contactor delay, running feedback, thermal overload that latches until reset by hand.
enum class Starter : int { Direct = 0, Reversing = 1 };

struct Motor {
    struct Model {
        double start_s = 0.2, trip_s = 2.0, run_down_s = 0.0;
        Contact overload = Contact::NormallyClosed;
        Starter starter = Starter::Direct;
    };
    struct State {
        double on_s = 0.0;  ///< Time the contactor has been asked for.
        double stalled_s = 0.0;
        bool tripped = false;  ///< The overload, latched.
        bool trip_fault = false;
        bool jammed = false;
        bool wrong_way = false;
        int way = 0;  ///< Contactor that is in: 1 forward, -1 backward.
        Switching contactors;
    };
    enum Points { kRun, kForward, kBackward, kRunning, kOverload };
    enum Mishaps { kBoth, kReversed, kChatters };

    static void declare(Declaration<Motor>& kind) {
        kind.names("motor", "drives", Placement::Panel,
                   "a motor on a direct starter with overload and running feedback")
            .tile(Tile::Motor)
            .drives()
            .quantity("start_time", &Model::start_s, Dimension::Time, "0.2 s", 0.0, 60.0,
                      "from run to running feedback and full speed")
            .quantity(
                "run_down", &Model::run_down_s, Dimension::Time, "0 s", 0.0, 600.0,
                "from full speed to standstill once its contactor has dropped out; it counts as running until then")
            .quantity("trip_time", &Model::trip_s, Dimension::Time, "2 s", 0.1, 600.0,
                      "how long it may stall before the overload trips")
            .choice("overload_contact", &Model::overload, {"normally open", "normally closed"}, "normally closed",
                    "how the overload is wired: normally closed reads TRUE while healthy")
            .choice("starter", &Model::starter, {"direct", "reversing"}, "direct",
                    "one contactor, or one for each direction")
            .output("run", "TRUE closes the contactor")
            .only_if([](const Model& m) { return m.starter == Starter::Direct; })
            .output("forward", "TRUE turns it forward; both at once are locked out")
            .only_if([](const Model& m) { return m.starter == Starter::Reversing; })
            .output("reverse", "TRUE turns it in reverse")
            .only_if([](const Model& m) { return m.starter == Starter::Reversing; })
            .input("running", "TRUE while it turns")
            .input("overload_contact", "normally closed: TRUE while the overload has not tripped")
            .wired(&Model::overload)
            .control("reset", "resets a tripped overload", [](const Model&, State& s) { s.tripped = s.trip_fault; })
            .actual("speed", PointType::Analog, Dimension::Percent, "of full speed",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return 100.0 * drive_ratio_of(plant, state, device);
                    })
            .actual("tripped", PointType::Boolean, Dimension::Plain, "its overload has tripped", &State::tripped)
            .moves_by_drive()
            .fault("trip", "the overload trips; heal it, then reset by hand", &State::trip_fault)
            .fault("jammed", "cannot turn; the overload trips after trip_time", &State::jammed)
            .fault("wrong_direction", "turns in the other direction, as with two phases swapped", &State::wrong_way)
            .opposite(kForward, kBackward)
            .mishap("both_directions", "both directions are asked for at once")
            .mishap("reversed_at_once", "it is changed over without a pause, or while it still turns")
            .mishap("contactor_chatters", "its contactor is switched on again and again");
    }

    static void actuate(const Model& model, State& state, Step& step) {
        state.tripped = state.tripped || state.trip_fault;
        const double wanted =
            model.starter == Starter::Direct ? step.output(kRun) : step.output(kForward) - step.output(kBackward);
        const int way = wanted > 0.0 ? 1 : wanted < 0.0 ? -1 : 0;
        state.contactors.look(way, step.drive_ratio() * (state.wrong_way ? -1.0 : 1.0), step.dt_s);
        step.mishap(kBoth, step.output(kForward) != 0.0 && step.output(kBackward) != 0.0);
        step.mishap(kReversed, state.contactors.reversed);
        step.mishap(kChatters, state.contactors.chatters);
        const bool powered = way != 0 && !state.tripped;
        if (!powered || way != state.way) state.on_s = 0.0;  // changing over starts anew
        if (powered) state.on_s = std::min(state.on_s + step.dt_s, model.start_s + 1.0);
        state.way = powered ? way : 0;
        state.stalled_s = powered && state.jammed ? state.stalled_s + step.dt_s : 0.0;
        if (state.stalled_s >= model.trip_s) state.tripped = true;
        const bool turning = powered && !state.jammed && !state.tripped && state.on_s >= model.start_s - 1e-9;
        if (turning) {
            step.drive_ratio() = state.wrong_way ? -way : way;
        } else {
            const double change = state.jammed || model.run_down_s <= 0.0 ? 2.0 : step.dt_s / model.run_down_s;
            double& ratio = step.drive_ratio();
            ratio = std::abs(ratio) <= change + 1e-9 ? 0.0 : ratio - std::copysign(change, ratio);
        }
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kRunning, step.drive_ratio() != 0.0 ? 1.0 : 0.0);
        step.input(kOverload, contact_value(model.overload, state.tripped));
    }
};

}  // namespace

Kind motor_kind() {
    return make_kind<Motor>();
}

}  // namespace vyard::plant
