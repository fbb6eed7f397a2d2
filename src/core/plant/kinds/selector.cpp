#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct Selector {
    struct Model {
        int count = 2;
    };
    struct State {
        int position = 0;
    };
    enum Points { kContact1, kContact2 };

    static void declare(Declaration<Selector>& kind) {
        kind.names("selector", "panel", Symbol::Selector, Placement::Panel,
                   "a switch of two or three named positions; starts in the first")
            .positions("positions", &Model::count, "the names, two or three")
            .input("contact_1", "TRUE in the second position")
            .input("contact_2", "TRUE in the third position")
            .only_if([](const Model& m) { return m.count > 2; })
            .control_position("turn", "turns it to a position", &State::position)
            .gauge("position", PointType::Number, base::Dimension::Plain, "number of its position, counted from 0",
                   &State::position);
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kContact1, state.position == 1 ? 1.0 : 0.0);
        step.input(kContact2, state.position == 2 ? 1.0 : 0.0);
    }
};

}  // namespace

Kind selector_kind() {
    return make_kind<Selector>();
}

}  // namespace vyard::plant
