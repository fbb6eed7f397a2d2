#include <numbers>

#include "core/plant/kinds/kinds.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class ValveType : int { OnOff = 0, Proportional = 1 };

// From a supply: its nominal flow times the opening. From a tank: outflow by gravity through the bore,
// q = Cd A sqrt(2 g h) (Torricelli), times the opening.
struct Valve {
    struct Model {
        ValveType type = ValveType::OnOff;
        int from = kNone, into = kNone;
        double flow_m3_s = 0.5e-3, bore_m = 0.02, discharge = 0.62, stroke_s = 0.3;
    };
    struct State {
        double opening = 0.0;  ///< 0 shut, 1 open.
        double flow_m3_s = 0.0;
        bool jammed = false;
    };
    enum Points { kOpen, kOpening };

    static void declare(Declaration<Valve>& kind) {
        kind.names("valve", "liquid", Symbol::Valve, Placement::Panel,
                   "lets liquid from a supply or a tank into a tank or away; on/off or proportional")
            .choice("type", &Model::type, {"on/off", "proportional"}, "on/off", "how it is driven")
            .device("from", &Model::from, {"tank"}, false, "the tank it drains by gravity; without one, a supply")
            .device("into", &Model::into, {"tank"}, false, "the tank it fills; without one, the drain")
            .quantity("flow", &Model::flow_m3_s, Dimension::Flow, "0.5 l/s", 0.0, 10.0, "from a supply, fully open")
            .quantity("bore", &Model::bore_m, Dimension::Length, "20 mm", 0.001, 2.0,
                      "diameter, for the outflow of a tank")
            .quantity("discharge", &Model::discharge, Dimension::Plain, "0.62", 0.01, 1.0,
                      "discharge coefficient of the bore; 0.62 is a sharp-edged orifice")
            .quantity("stroke_time", &Model::stroke_s, Dimension::Time, "0.3 s", 0.0, 600.0, "from shut to open")
            .output("open", "TRUE opens it")
            .only_if([](const Model& m) { return m.type == ValveType::OnOff; })
            .analog_output("opening", Dimension::Percent, "wanted opening, 0 to 100 %")
            .only_if([](const Model& m) { return m.type == ValveType::Proportional; })
            .gauge("opening", PointType::Analog, Dimension::Percent, "true opening",
                   [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                       return s.opening * 100.0;
                   })
            .gauge("flow", PointType::Analog, Dimension::Flow, "through it, now", &State::flow_m3_s)
            .fault("jammed", "stays where it is", &State::jammed);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double wanted = model.type == ValveType::OnOff ? (step.output(kOpen) != 0.0 ? 1.0 : 0.0)
                                                             : std::clamp(step.output(kOpening) / 100.0, 0.0, 1.0);
        const double way = model.stroke_s > 0.0 ? step.dt_s / model.stroke_s : 1.0;
        if (!state.jammed) state.opening += std::clamp(wanted - state.opening, -way, way);
        double moved_m3 = state.opening * model.flow_m3_s * step.dt_s;
        if (model.from != kNone) moved_m3 = drain(model, state, step);
        if (model.into != kNone) step.state.volume_m3[static_cast<std::size_t>(model.into)] += moved_m3;
        state.flow_m3_s = moved_m3 / step.dt_s;
    }

    static double drain(const Model& model, const State& state, Step& step) {
        const auto tank = static_cast<std::size_t>(model.from);
        double& volume = step.state.volume_m3[tank];
        const double level_m = volume / step.model.cross_section_m2[tank];
        const double area_m2 = std::numbers::pi / 4.0 * model.bore_m * model.bore_m;
        const double flow =
            state.opening * model.discharge * area_m2 * std::sqrt(2.0 * kGravity_m_s2 * std::max(level_m, 0.0));
        const double out_m3 = std::min(volume, flow * step.dt_s);
        volume -= out_m3;
        return out_m3;
    }
};

}  // namespace

Kind valve_kind() {
    return make_kind<Valve>();
}

}  // namespace vyard::plant
