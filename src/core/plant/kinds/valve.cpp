#include <numbers>

#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// From a supply: its nominal flow times the opening. From a tank: outflow by gravity through the bore,
// q = Cd A sqrt(2 g h) (Torricelli), times the opening.
struct Valve {
    enum class ValveType : int { OnOff = 0, Proportional = 1 };
    struct Model {
        ValveType type = ValveType::OnOff;
        int from = kNone, into = kNone;
        double flow_m3_s = 0.5e-3, bore_m = 0.02, discharge = 0.62, stroke_s = 0.3, drop_m = 0.0;
        double pipe_m = 0.0, friction = 0.02;
        bool against = false, switches = false;
    };
    struct State {
        double opening = 0.0;  ///< 0 shut, 1 open.
        double flow_m3_s = 0.0;
        bool jammed = false, moves = false;
        double leak_m3_s = 0.0;
    };
    enum Points { kOpen, kOpening, kOpened, kClosed };

    static void declare(Declaration<Valve>& kind) {
        kind.names("valve", "liquid", Placement::Panel,
                   "lets liquid from a supply or a tank into a tank or away; on/off or proportional")
            .tile(Tile::Valve)
            .choice("control", &Model::type, {"on/off", "proportional"}, "on/off", "how it is driven")
            .device("from", &Model::from, {"tank"}, false, "the tank it drains by gravity; without one, a supply")
            .device("into", &Model::into, {"tank"}, false, "the tank it fills; without one, the drain")
            .quantity("flow", &Model::flow_m3_s, Dimension::Flow, "0.5 l/s", 0.0, 10.0, "from a supply, fully open")
            .quantity("bore", &Model::bore_m, Dimension::Length, "20 mm", 0.001, 2.0,
                      "diameter, for the outflow of a tank")
            .quantity("discharge_coefficient", &Model::discharge, Dimension::Plain, "0.62", 0.01, 1.0,
                      "discharge coefficient of the bore; 0.62 is a sharp-edged orifice")
            .quantity("pipe", &Model::pipe_m, Dimension::Length, "0 m", 0.0, 10000.0,
                      "length of pipe of that bore at the outlet of a tank; it takes some of the height")
            .quantity("friction", &Model::friction, Dimension::Plain, "0.02", 0.001, 0.2,
                      "Darcy friction factor of the pipe")
            .quantity("stroke_time", &Model::stroke_s, Dimension::Time, "0.3 s", 0.0, 600.0, "from shut to open")
            .choice("feedback", &Model::switches, {"none", "end switches"}, "none", "whether it reports its ends")
            .quantity("drop", &Model::drop_m, Dimension::Length, "0 m", -100.0, 100.0,
                      "height of the bottom of the tank it drains above its outlet")
            .choice("outlet", &Model::against, {"above the liquid", "under the liquid"}, "above the liquid",
                    "under the liquid of the tank it fills, the levels come to one height, as in a lock")
            .output("open", "TRUE opens it")
            .only_if([](const Model& m) { return m.type == ValveType::OnOff; })
            .analog_output("opening", Dimension::Percent, "wanted opening, 0 to 100 %")
            .takes([](const Model&) {
                return std::pair{0.0, 100.0};
            })
            .only_if([](const Model& m) { return m.type == ValveType::Proportional; })
            .input("opened", "TRUE while it is fully open")
            .only_if([](const Model& m) { return m.switches; })
            .input("closed", "TRUE while it is shut")
            .only_if([](const Model& m) { return m.switches; })
            .actual("actual_opening", PointType::Analog, Dimension::Percent, "true opening",
                    [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                        return s.opening * 100.0;
                    })
            .actual("flow", PointType::Analog, Dimension::Flow, "through it, now", &State::flow_m3_s)
            .moves("it opens or shuts, or lets liquid through", &State::moves)
            .fault("jammed", "stays where it is", &State::jammed)
            .fault_amount("leaking", Dimension::Flow, 0.05e-3, 0.0, 10.0, "lets this much through when shut",
                          &State::leak_m3_s);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double wanted = model.type == ValveType::OnOff ? (step.output(kOpen) != 0.0 ? 1.0 : 0.0)
                                                             : std::clamp(step.output(kOpening) / 100.0, 0.0, 1.0);
        const double way = model.stroke_s > 0.0 ? step.dt_s / model.stroke_s : 1.0;
        const double before = state.opening;
        if (!state.jammed) state.opening += std::clamp(wanted - state.opening, -way, way);
        const double wanted_m3 =
            model.from != kNone ? by_gravity_m3(model, state, step) : state.opening * model.flow_m3_s * step.dt_s;
        const double leak_m3 = state.leak_m3_s * step.dt_s;
        state.flow_m3_s = move_liquid(step, model.from, model.into, wanted_m3 + leak_m3) / step.dt_s;
        state.moves = state.opening != before || (state.opening > 0.0 && state.flow_m3_s > 0.0);
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kOpened, state.opening >= 1.0 - 1e-9 ? 1.0 : 0.0);
        step.input(kClosed, state.opening <= 1e-9 ? 1.0 : 0.0);
    }

    /// From the higher liquid to the lower one. Valve and pipe take the height: h = (1 / Cd^2 + f l / d) v^2 / 2g
    /// (Darcy and Weisbach); without a pipe that is q = Cd A sqrt(2 g h).
    static double by_gravity_m3(const Model& model, const State& state, const Step& step) {
        double height_m = model.drop_m + tank_level_m(step.model, step.state, model.from);
        if (model.into != kNone && model.against) height_m -= tank_level_m(step.model, step.state, model.into);
        const double area_m2 = std::numbers::pi / 4.0 * model.bore_m * model.bore_m;
        const double valve = state.opening * model.discharge;
        const double pipe = model.friction * model.pipe_m / model.bore_m;
        const double flow =
            valve <= 0.0
                ? 0.0
                : area_m2 * std::sqrt(2.0 * kGravity_m_s2 * std::max(height_m, 0.0) / (1.0 / (valve * valve) + pipe));
        // Two tanks come to one level and stay there: the last step may not go past it.
        const double most_m3 =
            !model.against || model.into == kNone
                ? step.liquid(model.from).volume_m3
                : std::max(height_m, 0.0) / (1.0 / surface_m2(model.from, step) + 1.0 / surface_m2(model.into, step));
        return std::min(flow * step.dt_s, most_m3);
    }

    static double surface_m2(int tank, const Step& step) {
        return base::at(step.model.vessels, tank).surface_m2(step.liquid(tank).volume_m3);
    }
};

}  // namespace

Kind valve_kind() {
    return make_kind<Valve>();
}

}  // namespace vyard::plant
