#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A positioning axis with its own controller: it is enabled, homed against its switch, and then goes to targets with a
// trapezoidal profile (constant acceleration, constant speed). The true position follows the wanted one as a
// first-order lag; the difference is the following error, which stops it when it grows too large.
struct Axis {
    struct Model {
        double travel_m = 1.0, top_m_s = 0.5, acceleration_m_s2 = 1.0, lag_s = 0.01, most_error_m = 0.02;
        double start_m = 0.1, homing_m_s = 0.05;
    };
    enum class Mode : int { Idle, Homing, Moving, Jogging, Stopping };
    struct State {
        double wanted_m = 0.0, true_m = 0.0, speed_m_s = 0.0, target_m = 0.0, limit_m_s = 0.0, offset_m = 0.0;
        Mode mode = Mode::Idle;
        bool started = false, homed = false, fault = false, jammed = false, unhomed = false;
        bool last_home = false, last_move = false, last_reset = false, reached = false;
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

    static void declare(Declaration<Axis>& kind) {
        kind.names("axis", "motion", Symbol::Axis, Placement::Panel,
                   "a positioning axis with its drive: enable, home, move to a target, jog, stop; limit switches")
            .quantity("travel", &Model::travel_m, Dimension::Length, "", 0.001, 100.0, "between its ends")
            .quantity("speed", &Model::top_m_s, Dimension::Speed, "0.5 m/s", 0.001, 10.0, "at most")
            .quantity("acceleration", &Model::acceleration_m_s2, Dimension::Acceleration, "1 m/s2", 0.001, 100.0,
                      "up and down")
            .quantity("homing_speed", &Model::homing_m_s, Dimension::Speed, "0.05 m/s", 0.001, 10.0,
                      "towards its low end")
            .quantity("start", &Model::start_m, Dimension::Length, "0.1 m", 0.0, 100.0,
                      "where it stands at power-up, above its low end")
            .quantity("lag", &Model::lag_s, Dimension::Time, "0.01 s", 0.0, 1.0, "time constant of the position loop")
            .quantity("most_error", &Model::most_error_m, Dimension::Length, "20 mm", 0.0001, 1.0,
                      "following error at which it stops with a fault")
            .output("enable", "TRUE holds and moves it; FALSE lets it stand without power")
            .output("home", "a rising edge looks for the low end and counts from there")
            .output("move", "a rising edge starts for the target")
            .analog_output("target", Dimension::Length, "position to go to")
            .analog_output("velocity", Dimension::Speed, "at most on the way, and of jogging; 0 for its own")
            .output("forward", "TRUE jogs it away from its low end")
            .output("backward", "TRUE jogs it towards its low end")
            .output("stop", "TRUE stops it as fast as it can")
            .output("reset", "a rising edge clears a fault")
            .input("ready", "TRUE while enabled without a fault")
            .input("homed", "TRUE once it knows where it is")
            .input("busy", "TRUE while it homes, moves or jogs")
            .input("in_position", "TRUE after a move until the next one")
            .input("fault", "TRUE after a fault until it is reset")
            .input("low_limit", "normally closed: FALSE at its low end")
            .input("high_limit", "normally closed: FALSE at its high end")
            .analog_input("position", Dimension::Length, "as it counts, from where it was homed")
            .analog_input("speed", Dimension::Speed, "of the axis, now")
            .gauge("position", PointType::Analog, Dimension::Length, "true, from its low end", &State::true_m)
            .gauge("error", PointType::Analog, Dimension::Length, "wanted less true position",
                   [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                       return s.wanted_m - s.true_m;
                   })
            .fault("jammed", "does not move: the following error grows until it stops", &State::jammed)
            .fault("unhomed", "has lost its count and must be homed", &State::unhomed);
    }

    static void place(Placing&, Model& model, State& state) {
        state.wanted_m = state.true_m = std::min(model.start_m, model.travel_m);
        state.offset_m = state.true_m;  // it counts from where it stood
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
        if (!powered) {
            state.mode = Mode::Idle;
            state.speed_m_s = 0.0;
            state.wanted_m = state.true_m;
            return;
        }
        take_order(model, state, step, home, move);
        state.speed_m_s = next_speed(model, state, step);
        state.wanted_m = std::clamp(state.wanted_m + state.speed_m_s * step.dt_s, 0.0, model.travel_m);
        arrive(model, state, step);
        const double share = model.lag_s > 0.0 ? -std::expm1(-step.dt_s / model.lag_s) : 1.0;
        if (!state.jammed) state.true_m += (state.wanted_m - state.true_m) * share;
        if (std::abs(state.wanted_m - state.true_m) > model.most_error_m) {
            state.fault = true;
            state.reached = false;
        }
    }

    static void take_order(const Model& model, State& state, const Step& step, bool home, bool move) {
        const double asked = std::abs(step.output(kVelocity));
        state.limit_m_s = asked > 0.0 ? std::min(asked, model.top_m_s) : model.top_m_s;
        const double jog = step.output(kForward) - step.output(kBackward);
        if (step.output(kStop) != 0.0) {
            state.mode = state.mode == Mode::Idle ? Mode::Idle : Mode::Stopping;
        } else if (home) {
            state.mode = Mode::Homing;
            state.homed = state.reached = false;
        } else if (move && state.homed) {
            state.mode = Mode::Moving;
            state.target_m = std::clamp(step.output(kTarget) + state.offset_m, 0.0, model.travel_m);
            state.reached = false;
        } else if (move) {
            state.fault = true;  // a target means nothing before it is homed
        } else if (jog != 0.0 && (state.mode == Mode::Idle || state.mode == Mode::Jogging)) {
            state.mode = Mode::Jogging;
            state.reached = false;
        } else if (state.mode == Mode::Jogging) {
            state.mode = Mode::Stopping;
        }
    }

    static double next_speed(const Model& model, const State& state, const Step& step) {
        const double change = model.acceleration_m_s2 * step.dt_s;
        double aim = 0.0;
        if (state.mode == Mode::Homing) aim = -model.homing_m_s;
        if (state.mode == Mode::Jogging) aim = (step.output(kForward) - step.output(kBackward)) * state.limit_m_s;
        if (state.mode == Mode::Moving) {
            const double way = state.target_m - state.wanted_m;
            // The speed from which it can still stop at the target, braking from the next step on.
            const double brakes =
                std::sqrt(change * change / 4.0 + 2.0 * model.acceleration_m_s2 * std::abs(way)) - change / 2.0;
            aim = std::copysign(std::min({state.limit_m_s, brakes, std::abs(way) / step.dt_s}), way);
        }
        return state.speed_m_s + std::clamp(aim - state.speed_m_s, -change, change);
    }

    static void arrive(const Model& model, State& state, const Step&) {
        if (state.mode == Mode::Homing && state.true_m <= 1e-4) {
            state.mode = Mode::Idle;
            state.homed = true;
            state.speed_m_s = 0.0;
            state.offset_m = state.wanted_m = 0.0;
        }
        if (state.mode == Mode::Moving && std::abs(state.target_m - state.wanted_m) < 1e-7 &&
            std::abs(state.speed_m_s) < 0.01 * model.top_m_s + 1e-6) {
            state.mode = Mode::Idle;
            state.speed_m_s = 0.0;
            state.wanted_m = state.target_m;
            state.reached = true;
        }
        if (state.mode == Mode::Stopping && state.speed_m_s == 0.0) state.mode = Mode::Idle;
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kReady, step.output(kEnable) != 0.0 && !state.fault ? 1.0 : 0.0);
        step.input(kHomed, state.homed ? 1.0 : 0.0);
        step.input(kBusy, state.mode != Mode::Idle ? 1.0 : 0.0);
        step.input(kInPosition, state.reached && std::abs(state.target_m - state.true_m) < 0.0005 ? 1.0 : 0.0);
        step.input(kFault, state.fault ? 1.0 : 0.0);
        step.input(kLow, state.true_m > 1e-4 ? 1.0 : 0.0);
        step.input(kHigh, state.true_m < model.travel_m - 1e-4 ? 1.0 : 0.0);
        step.input(kPosition, state.true_m - state.offset_m);
        step.input(kSpeed, state.speed_m_s);
        step.extension_m() = state.true_m;
    }
};

}  // namespace

Kind axis_kind() {
    return make_kind<Axis>();
}

}  // namespace vyard::plant
