#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/lagged.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct TemperatureTransmitter {
    struct Model {
        int tank = kNone;
        double low_c = 0.0, high_c = 100.0, lag_s = 5.0;
        WireSignal signal = WireSignal::AsTheCard;
    };
    struct State {
        Lagged temperature;
    };
    enum Points { kTemperature };

    static void declare(Declaration<TemperatureTransmitter>& kind) {
        kind.names("temperature_transmitter", "sensors", Placement::Panel, "measures how warm the liquid of a tank is")
            .device("tank", &Model::tank, {"tank"}, true, "whose liquid it measures")
            .quantity("low", &Model::low_c, Dimension::Temperature, "0 degC", -100.0, 500.0, "lower end of its signal")
            .quantity("high", &Model::high_c, Dimension::Temperature, "100 degC", -100.0, 500.0, "upper end")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "5 s", 0.0, 600.0, "time constant")
            .analog_input("temperature", Dimension::Temperature, "within its range")
            .spans([](const Model& m) {
                return std::pair{m.low_c, m.high_c};
            })
            .electrical(&Model::signal);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const double t = state.temperature.follow(step.liquid(model.tank).temperature_c, model.lag_s, step.dt_s);
        step.input(kTemperature,
                   std::clamp(t, std::min(model.low_c, model.high_c), std::max(model.low_c, model.high_c)));
    }
};

}  // namespace

Kind temperature_transmitter_kind() {
    return make_kind<TemperatureTransmitter>();
}

}  // namespace vyard::plant
