#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A consumer: draws around a mean that swings as a sine over its period.
struct Demand {
    struct Model {
        int from = kNone;
        double flow_m3_s = 0.1e-3, swing_percent = 0.0, period_s = 60.0;
    };
    struct State {
        double time_s = 0.0, flow_m3_s = 0.0, missing_m3 = 0.0, percent = 100.0;
    };

    static void declare(Declaration<Demand>& kind) {
        kind.names("demand", "liquid", Placement::Panel, "a consumer that draws from a tank, steadily or in a swing")
            .device("from", &Model::from, {"tank"}, true, "the tank it draws from")
            .quantity("flow", &Model::flow_m3_s, Dimension::Flow, "0.1 l/s", 0.0, 10.0, "on average")
            .quantity("swing", &Model::swing_percent, Dimension::Percent, "0 %", 0.0, 100.0,
                      "how far it goes above and below the average")
            .quantity("period", &Model::period_s, Dimension::Time, "60 s", 0.1, 86400.0, "of a swing")
            .control_value("set", Dimension::Percent, 0.0, 500.0, "how much is wanted, of the average", &State::percent)
            .actual("flow", PointType::Analog, Dimension::Flow, "drawn, now", &State::flow_m3_s)
            .actual("missing", PointType::Analog, Dimension::Volume, "wanted in vain so far", &State::missing_m3);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double phase = 2.0 * std::numbers::pi * state.time_s / model.period_s;
        state.time_s += step.dt_s;
        const double flow =
            model.flow_m3_s * state.percent / 100.0 * (1.0 + model.swing_percent / 100.0 * std::sin(phase));
        const double wanted_m3 = flow * step.dt_s;
        const double moved_m3 = move_liquid(step, model.from, kNone, wanted_m3);
        state.flow_m3_s = moved_m3 / step.dt_s;
        state.missing_m3 += wanted_m3 - moved_m3;
    }
};

}  // namespace

Kind demand_kind() {
    return make_kind<Demand>();
}

}  // namespace vyard::plant
