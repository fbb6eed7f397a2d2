#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/positioning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A positioning axis with its own controller, told by wires: it is enabled, homed against its low end, and goes to
// targets.
struct Axis {
    struct Model : AxisLimits {};
    struct State : AxisMotion {
        bool last_home = false, last_move = false, last_reset = false;
    };
    enum Points {
        kEnable,
        kHome,
        kMove,
        kTarget,
        kVelocity,
        kForward,
        kBackward,
        kStop,
        kReset,
        kReady,
        kHomed,
        kBusy,
        kInPosition,
        kFault,
        kLow,
        kHigh,
        kPosition,
        kSpeed
    };
    enum Mishaps { kAgainstEnd, kDisabled, kBoth };

    static void declare(Declaration<Axis>& kind) {
        kind.names("axis", "motion", Placement::Panel,
                   "a positioning axis with its drive: enable, home, move to a target, jog, stop; limit switches")
            .extends()
            .output("enable", "TRUE holds and moves it; FALSE lets it stand without power")
            .output("home", "a rising edge looks for the low end and counts from there")
            .output("move", "a rising edge starts for the target")
            .analog_output("target", Dimension::Length, "position to go to")
            .takes([](const Model& m) {
                return std::pair{0.0, m.travel_m};
            })
            .analog_output("velocity", Dimension::Speed, "at most on the way, and of jogging; 0 for its own")
            .takes([](const Model& m) {
                return std::pair{0.0, m.top_m_s};
            })
            .output("forward", "TRUE jogs it away from its low end")
            .output("reverse", "TRUE jogs it towards its low end")
            .output("stop", "TRUE stops it as fast as it can")
            .output("reset", "a rising edge clears a fault")
            .input("ready", "TRUE while enabled without a fault")
            .input("homed", "TRUE once it knows where it is")
            .input("busy", "TRUE while it homes, moves or jogs")
            .input("in_position", "TRUE after a move until the next one")
            .input("fault", "TRUE after a fault until it is reset")
            .input("low_limit", "normally closed: FALSE at its low end")
            .wired(Contact::NormallyClosed)
            .input("high_limit", "normally closed: FALSE at its high end")
            .wired(Contact::NormallyClosed)
            .analog_input("position", Dimension::Length, "as it counts, from where it was homed")
            .analog_input("speed", Dimension::Speed, "of the axis, now");
        declare_axis(kind);
        kind.mishap("driven_against_end", "it is driven against its end")
            .mishap("disabled_in_motion", "its enable is taken off while it moves")
            .opposite(kForward, kBackward)
            .mishap("both_directions", "jogging in both directions is asked for at once");
    }

    static void place(Placing& at, Model& model, State& state) {
        at.reaches(model.travel_m);
        state.stand(model);
    }

    static bool rises(bool now, bool& last) {
        const bool out = now && !last;
        last = now;
        return out;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        if (state.unhomed) state.homed = false;
        if (rises(step.output(kReset) != 0.0, state.last_reset)) state.fault = false;
        const bool powered = step.output(kEnable) != 0.0 && !state.fault;
        const bool home = rises(step.output(kHome) != 0.0, state.last_home);
        const bool move = rises(step.output(kMove) != 0.0, state.last_move);
        step.mishap(kBoth, step.output(kForward) != 0.0 && step.output(kBackward) != 0.0);
        if (!powered) {
            if (step.output(kEnable) == 0.0 && state.speed_m_s != 0.0) step.mishap_once(kDisabled);
            step.mishap(kAgainstEnd, false);
            return state.let_go();
        }
        take_order(model, state, step, home, move);
        state.advance(model, step.dt_s);
        step.mishap(kAgainstEnd, state.against_end(model));
    }

    static void take_order(const Model& model, State& state, const Step& step, bool home, bool move) {
        const double asked = std::abs(step.output(kVelocity));
        state.limit_m_s = asked > 0.0 ? std::min(asked, model.top_m_s) : model.top_m_s;
        const double jog = step.output(kForward) - step.output(kBackward);
        if (step.output(kStop) != 0.0) {
            state.stop();
        } else if (home) {
            state.go_home();
        } else if (move && state.homed) {
            state.go_to(model, step.output(kTarget));
        } else if (move) {
            state.fault = true;  // a target means nothing before it is homed
        } else if (jog != 0.0 && (state.mode == AxisMode::Idle || state.mode == AxisMode::Jogging)) {
            state.jog(jog * state.limit_m_s);
        } else if (state.mode == AxisMode::Jogging) {
            state.mode = AxisMode::Stopping;
        }
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kReady, step.output(kEnable) != 0.0 && !state.fault ? 1.0 : 0.0);
        step.input(kHomed, state.homed ? 1.0 : 0.0);
        step.input(kBusy, state.mode != AxisMode::Idle ? 1.0 : 0.0);
        step.input(kInPosition, state.in_position() ? 1.0 : 0.0);
        step.input(kFault, state.fault ? 1.0 : 0.0);
        step.input(kLow, state.true_m > 1e-4 ? 1.0 : 0.0);
        step.input(kHigh, state.true_m < model.travel_m - 1e-4 ? 1.0 : 0.0);
        step.input(kPosition, state.counted_m());
        step.input(kSpeed, state.speed_m_s);
        step.extension_m() = state.true_m;
    }
};

}  // namespace

Kind axis_kind() {
    return make_kind<Axis>();
}

}  // namespace vyard::plant
