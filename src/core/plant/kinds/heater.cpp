#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Heat into (or, cooling, out of) the liquid of a tank: dT/dt = P / (m c), with the density and heat capacity of water
// (998 kg/m3 and 4182 J/(kg K) at 20 degC, CRC Handbook). The loss to the surroundings is the tank's own.
struct Heater {
    enum class Control : int { OnOff = 0, Proportional = 1 };
    struct Model {
        int tank = kNone;
        double power_w = 1000.0, lag_s = 5.0;
        Control control = Control::OnOff;
    };
    struct State {
        double power_w = 0.0;
        bool broken = false;
    };
    enum Points { kOn, kPower };
    enum Mishaps { kDry, kBoils };
    static constexpr double kHeat_j_m3_k = 998.0 * 4182.0;

    static void declare(Declaration<Heater>& kind) {
        kind.names("heater", "heat", Placement::Panel, "heats the liquid of a tank; with negative power it cools")
            .device("tank", &Model::tank, {"tank"}, true, "whose liquid it heats")
            .quantity("power", &Model::power_w, Dimension::Power, "", -1e7, 1e7, "when fully on; negative cools")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "5 s", 0.0, 3600.0,
                      "from switching on to the heat in the liquid")
            .choice("control", &Model::control, {"on/off", "proportional"}, "on/off", "how it is driven")
            .output("on", "TRUE heats")
            .only_if([](const Model& m) { return m.control == Control::OnOff; })
            .analog_output("power", Dimension::Percent, "wanted share of its power")
            .takes([](const Model&) {
                return std::pair{0.0, 100.0};
            })
            .only_if([](const Model& m) { return m.control == Control::Proportional; })
            .actual("actual_power", PointType::Analog, Dimension::Power, "into the liquid, now", &State::power_w)
            .fault("broken", "gives no heat", &State::broken)
            .mishap("dry", "it heats without liquid around it")
            .mishap("boiling", "it heats what boils already");
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double share =
            model.control == Control::OnOff ? step.output(kOn) : std::clamp(step.output(kPower) / 100.0, 0.0, 1.0);
        const double wanted_w = state.broken ? 0.0 : share * model.power_w;
        state.power_w += (wanted_w - state.power_w) * (model.lag_s > 0.0 ? -std::expm1(-step.dt_s / model.lag_s) : 1.0);
        Liquid& liquid = step.liquid(model.tank);
        const bool heats = wanted_w > 0.0;
        step.mishap(kDry, heats && liquid.volume_m3 < 1e-6);
        step.mishap(kBoils, heats && liquid.volume_m3 >= 1e-6 && liquid.temperature_c >= 100.0);
        if (liquid.volume_m3 < 1e-6) return;
        liquid.temperature_c += state.power_w * step.dt_s / (liquid.volume_m3 * kHeat_j_m3_k);
        liquid.temperature_c = std::clamp(liquid.temperature_c, -20.0, 100.0);  // no ice, no steam
    }
};

}  // namespace

Kind heater_kind() {
    return make_kind<Heater>();
}

}  // namespace vyard::plant
