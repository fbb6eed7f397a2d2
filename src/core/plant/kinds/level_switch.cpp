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
        kind.names("level_switch", "sensors", Placement::Panel, "switches when the liquid of a tank reaches its height")
            .device("tank", &Model::tank, {"tank"}, true, "whose level it watches")
            .quantity("at", &Model::at_m, Dimension::Length, "", 0.0, 100.0, "level at which it switches on the way up")
            .quantity("hysteresis", &Model::hysteresis_m, Dimension::Length, "10 mm", 0.0, 10.0,
                      "how far the level must fall below to switch back")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while the liquid is at or above it (normally open)");
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
