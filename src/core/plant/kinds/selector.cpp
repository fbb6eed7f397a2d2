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
    static constexpr int kMostPositions = 8;

    static void declare(Declaration<Selector>& kind) {
        kind.names("selector", "panel", Placement::Panel,
                   "a switch, or key, of two to eight named positions; starts in the first")
            .tile(Tile::Knob)
            .positions("positions", &Model::count, "the names, two to eight")
            .input("contact_1", "TRUE in the second position")
            .input("contact_2", "TRUE in the third position")
            .only_if([](const Model& m) { return m.count > 2; })
            .input("contact_3", "TRUE in the fourth position")
            .only_if([](const Model& m) { return m.count > 3; })
            .input("contact_4", "TRUE in the fifth position")
            .only_if([](const Model& m) { return m.count > 4; })
            .input("contact_5", "TRUE in the sixth position")
            .only_if([](const Model& m) { return m.count > 5; })
            .input("contact_6", "TRUE in the seventh position")
            .only_if([](const Model& m) { return m.count > 6; })
            .input("contact_7", "TRUE in the eighth position")
            .only_if([](const Model& m) { return m.count > 7; })
            .control_position("turn", "turns it to a position", &State::position)
            .actual("position", PointType::Number, base::Dimension::Plain, "number of its position, counted from 0",
                    &State::position);
    }

    static void sense(const Model&, State& state, Step& step) {
        for (int p = 1; p < kMostPositions; ++p) step.input(p - 1, state.position == p ? 1.0 : 0.0);
    }
};

}  // namespace

Kind selector_kind() {
    return make_kind<Selector>();
}

}  // namespace vyard::plant
