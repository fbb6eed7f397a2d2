#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Joystick {
    struct Model {
        double dead_percent = 10.0;
    };
    struct State {
        double percent = 0.0;
    };
    enum Points { kForward, kBackward, kDeflection };

    static void declare(Declaration<Joystick>& kind) {
        kind.names("joystick", "panel", Placement::Panel, "a lever of two directions that springs back to its middle")
            .quantity("dead_zone", &Model::dead_percent, Dimension::Percent, "10 %", 0.0, 90.0,
                      "around the middle, where neither contact is on")
            .input("forward", "TRUE while it is pushed forward")
            .input("reverse", "TRUE while it is pulled backward")
            .analog_input("deflection", Dimension::Percent, "-100 % backward to 100 % forward")
            .spans([](const Model&) {
                return std::pair{-100.0, 100.0};
            })
            .control_value("tilt", Dimension::Percent, -100.0, 100.0, "tilts it and keeps it there", &State::percent)
            .control("release", "lets it spring back", [](const Model&, State& s) { s.percent = 0.0; })
            .actual("actual_deflection", PointType::Analog, Dimension::Percent, "of the lever", &State::percent);
    }
    static void sense(const Model& model, State& state, Step& step) {
        step.input(kForward, state.percent > model.dead_percent ? 1.0 : 0.0);
        step.input(kBackward, state.percent < -model.dead_percent ? 1.0 : 0.0);
        step.input(kDeflection, state.percent);
    }
};

}  // namespace

Kind joystick_kind() {
    return make_kind<Joystick>();
}

}  // namespace vyard::plant
