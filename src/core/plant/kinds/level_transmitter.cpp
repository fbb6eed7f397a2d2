#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// First-order lag, exact over a step for a constant input: y += (x - y)(1 - exp(-dt / T)).
struct LevelTransmitter {
    struct Model {
        int tank = kNone;
        double range_m = 1.0, lag_s = 0.2;
        WireSignal signal = WireSignal::AsTheCard;
    };
    struct State {
        double shown_m = 0.0;
        bool settled = false;
    };
    enum Points { kLevel };

    static void declare(Declaration<LevelTransmitter>& kind) {
        kind.names("level_transmitter", "sensors", Placement::Panel,
                   "measures the level of a tank or a hopper as an analog signal")
            .device("tank", &Model::tank, {"tank", "hopper"}, true, "whose level it measures")
            .quantity("range", &Model::range_m, Dimension::Length, "1 m", 0.01, 100.0,
                      "level at the upper end of its signal")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "0.2 s", 0.0, 600.0,
                      "time constant of its first-order lag")
            .analog_input("level", Dimension::Length, "level above the bottom, within 0 to range")
            .spans([](const Model& m) {
                return std::pair{0.0, m.range_m};
            })
            .electrical(&Model::signal);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const double level_m = tank_level_m(step.model, step.state, model.tank);
        if (!state.settled || model.lag_s <= 0.0) {
            state.shown_m = level_m;  // at power-up it has been there for long
            state.settled = true;
        } else {
            state.shown_m += (level_m - state.shown_m) * -std::expm1(-step.dt_s / model.lag_s);
        }
        step.input(kLevel, std::clamp(state.shown_m, 0.0, model.range_m));
    }
};

}  // namespace

Kind level_transmitter_kind() {
    return make_kind<LevelTransmitter>();
}

}  // namespace vyard::plant
