#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/lagged.hpp"
#include "core/plant/liquids.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Hydrostatic: p = rho g h at the bottom of a tank, rho that of water times the liquid's relative density.
struct PressureTransmitter {
    struct Model {
        int tank = kNone, air = kNone;
        double range_pa = 1e5, lag_s = 0.1;
        WireSignal signal = WireSignal::AsTheCard;
    };
    struct State {
        Lagged pressure;
    };
    enum Points { kPressure };
    static constexpr double kWater_kg_m3 = 998.0;

    static void declare(Declaration<PressureTransmitter>& kind) {
        kind.names("pressure_transmitter", "sensors", Placement::Panel,
                   "measures the pressure at the bottom of a tank, or of an air supply")
            .device("tank", &Model::tank, {"tank"}, false, "at whose bottom it sits")
            .device("air", &Model::air, {"air_supply"}, false, "whose pressure it measures")
            .quantity("range", &Model::range_pa, Dimension::Pressure, "1 bar", 1.0, 1e9, "upper end of its signal")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "0.1 s", 0.0, 600.0, "time constant")
            .analog_input("pressure", Dimension::Pressure, "above the air's, within 0 to range")
            .spans([](const Model& m) {
                return std::pair{0.0, m.range_pa};
            })
            .electrical(&Model::signal);
    }

    static void sense(const Model& model, State& state, Step& step) {
        double pressure = 0.0;
        if (model.tank != kNone)
            pressure = base::at(step.model.vessels, model.tank).relative_density * kWater_kg_m3 * kGravity_m_s2 *
                       tank_level_m(step.model, step.state, model.tank);
        else if (model.air != kNone)
            pressure = pressure_of_pa(step.model, step.state, model.air);
        step.input(kPressure, std::clamp(state.pressure.follow(pressure, model.lag_s, step.dt_s), 0.0, model.range_pa));
    }
};

}  // namespace

Kind pressure_transmitter_kind() {
    return make_kind<PressureTransmitter>();
}

}  // namespace vyard::plant
