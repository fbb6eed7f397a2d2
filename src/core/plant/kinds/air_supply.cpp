#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Compressed air for cylinders. The pressure follows the valve of the supply as a first-order lag.
struct AirSupply {
    struct Model {
        double pressure_pa = 6e5, lag_s = 0.5, least_pa = 4e5;
    };
    struct State {
        bool lost = false;
        double weak_percent = 0.0;
    };
    enum Points { kOpen, kHealthy };

    static void declare(Declaration<AirSupply>& kind) {
        kind.names("air_supply", "air", Placement::Panel, "compressed air with its main valve and pressure switch")
            .gives_air()
            .quantity("pressure", &Model::pressure_pa, Dimension::Pressure, "6 bar", 1e4, 2e6, "when it is on")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "0.5 s", 0.0, 60.0,
                      "time constant of filling and emptying")
            .quantity("minimum_pressure", &Model::least_pa, Dimension::Pressure, "4 bar", 0.0, 2e6,
                      "the pressure switch is TRUE from here on")
            .output("open", "TRUE lets air in, FALSE vents")
            .input("pressure_ok", "TRUE while the pressure is at least `minimum_pressure`")
            .actual("pressure", PointType::Analog, Dimension::Pressure, "of the air",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return pressure_of_pa(plant, state, device);
                    })
            .fault("lost", "no air comes", &State::lost)
            .fault_amount("weak", Dimension::Percent, 50.0, 0.0, 100.0, "gives less pressure by this share",
                          &State::weak_percent);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        double& pressure = step.pressure_pa();
        const bool on = step.output(kOpen) != 0.0 && !state.lost;
        const double wanted = on ? model.pressure_pa * (1.0 - state.weak_percent / 100.0) : 0.0;
        pressure += (wanted - pressure) * (model.lag_s > 0.0 ? -std::expm1(-step.dt_s / model.lag_s) : 1.0);
    }

    static void sense(const Model& model, State&, Step& step) {
        const double pressure = step.pressure_pa();
        step.input(kHealthy, pressure >= model.least_pa ? 1.0 : 0.0);
    }
};

}  // namespace

Kind air_supply_kind() {
    return make_kind<AirSupply>();
}

}  // namespace vyard::plant
