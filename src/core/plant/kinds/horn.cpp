#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct Horn {
    struct Model {};
    struct State {
        bool sounding = false;
    };
    enum Points { kOn };

    static void declare(Declaration<Horn>& kind) {
        kind.names("horn", "panel", Placement::Panel, "a horn")
            .tile(Tile::Signal)
            .output("on", "TRUE switches it on")
            .actual("sounding", PointType::Boolean, base::Dimension::Plain, "it sounds", &State::sounding);
    }

    static void actuate(const Model&, State& state, Step& step) { state.sounding = step.output(kOn) != 0.0; }
};

}  // namespace

Kind horn_kind() {
    return make_kind<Horn>();
}

}  // namespace vyard::plant
