#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/positioning.hpp"
#include "core/plant/kinds/text_commands.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A positioning axis that takes its commands as lines of text and answers in lines of text (text_commands.hpp). It has
// no wires but the line, so all that a controller knows of it, it was told.
struct TextAxis {
    struct Model : AxisLimits {
        double answer_s = 0.02;
    };
    struct State : AxisMotion {
        WireText line;        ///< As it was seen last; a line that differs from it is a new command.
        int running = kNone;  ///< Of the command that still moves it.
        double speed_limit_m_s = 0.0;
        double until_s = 0.0;  ///< Till the answer is on the line.
        bool enabled = false, silent = false;
        WireText answer;
    };
    enum Points { kOrder, kAnswer };
    enum Mishaps { kAgainstEnd, kDisabled };

    static void declare(Declaration<TextAxis>& kind) {
        kind.names("text_axis", "motion", Placement::Panel,
                   "a positioning axis that takes its commands as lines of text and answers so: docs/text-axis.md")
            .extends()
            .quantity("answer_time", &Model::answer_s, Dimension::Time, "20 ms", 0.0, 10.0,
                      "from a command to its answer")
            .text_output("command", "a number of your choice and the command: 12 GO 350 mm")
            .text_input("answer", "the number of the command and what came of it: 12 DONE 350.0 mm")
            .fault("silent", "takes no command and answers nothing", &State::silent);
        declare_axis(kind);
        kind.mishap("driven_against_end", "it is driven against its end")
            .mishap("disabled_in_motion", "it is disabled while it moves");
    }

    static void place(Placing& at, Model& model, State& state) {
        at.reaches(model.travel_m);
        state.stand(model);
        state.speed_limit_m_s = model.top_m_s;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        if (state.unhomed) state.homed = false;
        if (!state.silent) take_line(model, state, step.text_output(kOrder));
        const bool sound = !state.fault;
        if (!state.enabled && sound && state.speed_m_s != 0.0) step.mishap_once(kDisabled);
        if (state.enabled && sound) {
            state.limit_m_s = state.speed_limit_m_s;
            state.advance(model, step.dt_s);
        } else {
            state.let_go();
        }
        step.mishap(kAgainstEnd, state.enabled && sound && state.against_end(model));
        if (state.running != kNone) follow(model, state);
        state.until_s = std::max(0.0, state.until_s - step.dt_s);
    }

    static void take_line(const Model& model, State& state, std::string_view line) {
        if (!state.line.set(line) || line.empty()) return;
        const TextCommand command = read_text_command(line);
        state.until_s = model.answer_s;
        const TextError error = refusal(model, state, command);
        if (error != TextError::None) {
            state.answer.set(error_line(command.number, error));
            return;
        }
        obey(model, state, command);
    }

    static TextError refusal(const Model& model, const State& state, const TextCommand& command) {
        const bool moves = command.verb == TextVerb::Home || command.verb == TextVerb::Go ||
                           command.verb == TextVerb::GoBy || command.verb == TextVerb::Run;
        const bool goes = command.verb == TextVerb::Go || command.verb == TextVerb::GoBy;
        if (command.verb == TextVerb::Unknown) return TextError::NotUnderstood;
        if (state.fault && (moves || command.verb == TextVerb::Enable)) return TextError::Fault;
        if (moves && !state.enabled) return TextError::NotEnabled;
        if (goes && !state.homed) return TextError::NotHomed;
        if (goes && !within(model, state, aim_m(state, command))) return TextError::OutOfTravel;
        const double speed_m_s = std::abs(command.value);
        const bool speeds = command.verb == TextVerb::Speed || command.verb == TextVerb::Run;
        if (speeds && (speed_m_s == 0.0 || speed_m_s > model.top_m_s)) return TextError::TooFast;
        return TextError::None;
    }

    static double aim_m(const State& state, const TextCommand& command) {
        return command.verb == TextVerb::Go ? command.value : state.counted_m() + command.value;
    }
    static bool within(const Model& model, const State& state, double counted_m) {
        const double from_low_m = counted_m + state.offset_m;
        return from_low_m >= -1e-9 && from_low_m <= model.travel_m + 1e-9;
    }

    static void obey(const Model& model, State& state, const TextCommand& command) {
        const auto takes_time = [&] {
            state.running = command.number;
            state.answer.set(taken_line(command.number));
        };
        switch (command.verb) {
            case TextVerb::Home: state.go_home(); return takes_time();
            case TextVerb::Go:
            case TextVerb::GoBy: state.go_to(model, aim_m(state, command)); return takes_time();
            case TextVerb::Run: state.jog(command.value); return takes_time();
            case TextVerb::Stop: state.stop(); return takes_time();
            case TextVerb::Enable: state.enabled = true; break;
            case TextVerb::Disable: state.enabled = false; break;
            case TextVerb::Speed: state.speed_limit_m_s = std::abs(command.value); break;
            case TextVerb::Reset: state.fault = false; break;
            case TextVerb::Where:
            case TextVerb::Unknown: break;
        }
        // A command that was still moving it is cut short only where it stops or is told anew.
        if (command.verb == TextVerb::Disable) state.running = kNone;
        state.answer.set(done_line(command.number, state.counted_m()));
    }

    /// What became of the command that moves it.
    static void follow(const Model& model, State& state) {
        const bool at_end = state.mode == AxisMode::Jogging &&
                            (state.jog_m_s < 0.0 ? state.true_m <= 1e-4 : state.true_m >= model.travel_m - 1e-4);
        if (at_end) state.stop();
        constexpr double kSettled_m = 2e-5;  // far below the tenth of a millimetre that is told
        const bool still = state.mode == AxisMode::Idle && std::abs(state.wanted_m - state.true_m) < kSettled_m;
        if (state.fault) {
            state.answer.set(error_line(state.running, TextError::Fault));
        } else if (still) {
            state.answer.set(done_line(state.running, state.counted_m()));
        } else {
            return;
        }
        state.running = kNone;
    }

    static void sense(const Model&, State& state, Step& step) {
        if (!state.silent && state.until_s <= 1e-9) step.text_input(kAnswer, state.answer.view());
        step.extension_m() = state.true_m;
    }
};

}  // namespace

Kind text_axis_kind() {
    return make_kind<TextAxis>();
}

}  // namespace vyard::plant
