#include <cmath>

#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Keyed : int { Any = 0, Whole = 1 };

struct NumberSetter {
    struct Model {
        double start = 0.0, low = 0.0, high = 100.0;
        Keyed numbers = Keyed::Any;
    };
    struct State {
        double value = 0.0;
    };
    enum Points { kValue, kWhole };

    static void declare(Declaration<NumberSetter>& kind) {
        kind.names("number_setter", "panel", Placement::Panel, "a number that a person keys in")
            .tile(Tile::Knob)
            .quantity("low", &Model::low, Dimension::Plain, "0", -1e9, 1e9, "least value it takes")
            .quantity("high", &Model::high, Dimension::Plain, "100", -1e9, 1e9, "greatest value it takes")
            .quantity("initial", &Model::start, Dimension::Plain, "0", -1e9, 1e9, "at the start of a run")
            .choice("numbers", &Model::numbers, {"any", "whole"}, "any",
                    "whole ones go to a tag of whole numbers as they are, others need a scaling there")
            .analog_input("value", Dimension::Plain, "the number, from low to high (numbers = \"any\")")
            .only_if([](const Model& m) { return m.numbers == Keyed::Any; })
            .spans([](const Model& m) {
                return std::pair{std::min(m.low, m.high), std::max(m.low, m.high)};
            })
            .number_input("value", "the number, a whole one (numbers = \"whole\")")
            .only_if([](const Model& m) { return m.numbers == Keyed::Whole; })
            .control_value("set", Dimension::Plain, -1e9, 1e9, "keys a number in", &State::value)
            .actual("actual_value", PointType::Analog, Dimension::Plain, "the number", &State::value);
    }
    static void place(Placing&, Model& model, State& state) { state.value = model.start; }
    static void sense(const Model& model, State& state, Step& step) {
        state.value = std::clamp(state.value, std::min(model.low, model.high), std::max(model.low, model.high));
        if (model.numbers == Keyed::Whole) state.value = std::nearbyint(state.value);
        step.input(kValue, state.value);
        step.input(kWhole, state.value);
    }
};

}  // namespace

Kind number_setter_kind() {
    return make_kind<NumberSetter>();
}

}  // namespace vyard::plant
