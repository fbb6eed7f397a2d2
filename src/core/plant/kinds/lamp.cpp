#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct Lamp {
    struct Model {};
    struct State {
        bool lit = false;
    };
    enum Points { kOn };

    static void declare(Declaration<Lamp>& kind) {
        kind.names("lamp", "panel", Placement::Panel, "a signal lamp")
            .tile(Tile::Light)
            .output("on", "TRUE switches it on")
            .actual("lit", PointType::Boolean, base::Dimension::Plain, "it shows light", &State::lit);
    }

    static void actuate(const Model&, State& state, Step& step) { state.lit = step.output(kOn) != 0.0; }
};

}  // namespace

Kind lamp_kind() {
    return make_kind<Lamp>();
}

}  // namespace vyard::plant
