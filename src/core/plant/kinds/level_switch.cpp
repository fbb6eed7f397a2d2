#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct LevelSwitch {
    struct Model {
        int tank = kNone;
        double at_m = 0.0, hysteresis_m = 0.01;
        Contact contact = Contact::NormallyOpen;
    };
    struct State {
        bool wet = false;
    };
    enum Points { kSignal };

    static void declare(Declaration<LevelSwitch>& kind) {
        kind.names("level_switch", "sensors", Placement::Panel,
                   "switches when the liquid of a tank, or the bulk of a hopper, reaches its height")
            .device("tank", &Model::tank, {"tank", "hopper"}, true,
                    "whose level it watches; bulk counts as if it lay evenly over the opening of its hopper")
            .quantity("at", &Model::at_m, Dimension::Length, "", 0.0, 100.0, "level at which it switches on the way up")
            .quantity("hysteresis", &Model::hysteresis_m, Dimension::Length, "10 mm", 0.0, 10.0,
                      "how far the level must fall below to switch back")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while the liquid is at or above it (normally open)")
            .wired(&Model::contact);
    }

    static std::string doubt(const Model& m, const PlantModel& plant) {
        const double most_m = highest_level_m(plant, m.tank);
        return m.at_m > most_m ? fmt::format("it switches at {:g} m, and no more than {:g} m can be in '{}'", m.at_m,
                                             most_m, plant.device(m.tank).name)
                               : std::string();
    }

    static void draw_on_other(Drawing& d) {
        const Model& m = d.model_as<Model>();
        const double most_m = highest_level_m(d.model, m.tank);
        if (most_m > 0.0) d.level_mark(m.tank, m.at_m / most_m, d.state_as<State>().wet);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const double level_m = tank_level_m(step.model, step.state, model.tank);
        state.wet = level_m >= (state.wet ? model.at_m - model.hysteresis_m : model.at_m);
        step.input(kSignal, contact_value(model.contact, state.wet));
    }
};

}  // namespace

Kind level_switch_kind() {
    return make_kind<LevelSwitch>();
}

}  // namespace vyard::plant
