#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Potentiometer {
    struct Model {
        double start_percent = 0.0;
    };
    struct State {
        double percent = 0.0;
    };
    enum Points { kValue };

    static void declare(Declaration<Potentiometer>& kind) {
        kind.names("potentiometer", "panel", Placement::Panel, "a knob that gives an analog signal")
            .tile(Tile::Knob)
            .quantity("initial", &Model::start_percent, Dimension::Percent, "0 %", 0.0, 100.0,
                      "where it stands at the start of a run")
            .analog_input("value", Dimension::Percent, "0 % to 100 %")
            .spans([](const Model&) {
                return std::pair{0.0, 100.0};
            })
            .control_value("set", Dimension::Percent, 0.0, 100.0, "turns it to a value", &State::percent)
            .actual("position", PointType::Analog, Dimension::Percent, "where the knob stands", &State::percent);
    }

    static void place(Placing&, Model& model, State& state) { state.percent = model.start_percent; }
    static void sense(const Model&, State& state, Step& step) { step.input(kValue, state.percent); }
};

}  // namespace

Kind potentiometer_kind() {
    return make_kind<Potentiometer>();
}

}  // namespace vyard::plant
