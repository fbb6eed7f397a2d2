#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct Display {
    struct Model {};
    struct State {
        double shown = 0.0;
    };
    enum Points { kValue };

    static void declare(Declaration<Display>& kind) {
        kind.names("display", "panel", Placement::Panel, "shows a whole number")
            .number_output("value", "the number to show")
            .actual("shown", PointType::Number, base::Dimension::Plain, "the number it shows", &State::shown);
    }

    static void actuate(const Model&, State& state, Step& step) { state.shown = step.output(kValue); }
};

}  // namespace

Kind display_kind() {
    return make_kind<Display>();
}

}  // namespace vyard::plant
