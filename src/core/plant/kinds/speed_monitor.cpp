#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct SpeedMonitor {
    struct Model {
        int on = kNone;
        double full_hz = 10.0, least_percent = 80.0, start_s = 3.0;
    };
    struct State {
        double turns = 0.0, waited_s = 0.0;
        bool slipping = false;
    };
    enum Points { kPulse, kHealthy };

    static void declare(Declaration<SpeedMonitor>& kind) {
        kind.names("speed_monitor", "sensors", Placement::Panel,
                   "watches a shaft: a pulse a turn, and whether it turns fast enough")
            .device("on", &Model::on, {"motor", "drive", "pump"}, true, "what turns the shaft")
            .quantity("pulse_rate", &Model::full_hz, Dimension::Plain, "10", 0.01, 10000.0,
                      "pulses a second at full speed")
            .quantity("minimum_speed", &Model::least_percent, Dimension::Percent, "80 %", 0.0, 100.0,
                      "slower than this share of full speed is too slow")
            .quantity("start_time", &Model::start_s, Dimension::Time, "3 s", 0.0, 600.0,
                      "how long the shaft may be too slow, to start")
            .input("pulse", "TRUE in the first half of each turn")
            .input("speed_ok", "FALSE once it is too slow for longer than start_time")
            .actual("turns", PointType::Analog, Dimension::Plain, "of the shaft so far", &State::turns)
            .fault("slipping", "the shaft does not follow the motor, as with a torn belt", &State::slipping);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const double ratio = state.slipping ? 0.0 : std::abs(drive_ratio_of(step.model, step.state, model.on));
        state.turns += ratio * model.full_hz * step.dt_s;
        const bool slow = ratio * 100.0 < model.least_percent;
        state.waited_s = slow ? state.waited_s + step.dt_s : 0.0;
        step.input(kPulse, ratio > 0.0 && state.turns - std::floor(state.turns) < 0.5 ? 1.0 : 0.0);
        step.input(kHealthy, state.waited_s <= model.start_s ? 1.0 : 0.0);
    }
};

}  // namespace

Kind speed_monitor_kind() {
    return make_kind<SpeedMonitor>();
}

}  // namespace vyard::plant
