#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct EmergencyStop {
    struct Model {
        Contact contact = Contact::NormallyClosed;
    };
    struct State {
        bool latched = false;
    };
    enum Points { kContact };

    static void declare(Declaration<EmergencyStop>& kind) {
        kind.names("estop", "panel", Placement::Panel, "an emergency stop; stays in until it is pulled out")
            .tile(Tile::Knob)
            .contact(&Model::contact, "normally closed")
            .input("contact", "normally closed: TRUE while the machine may run")
            .wired(&Model::contact)
            .control("press", "strikes it; it latches", [](const Model&, State& s) { s.latched = true; })
            .control("release", "turns and pulls it out", [](const Model&, State& s) { s.latched = false; })
            .actual("latched", PointType::Boolean, base::Dimension::Plain, "it is in", &State::latched);
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kContact, contact_value(model.contact, state.latched));
    }
};

}  // namespace

Kind estop_kind() {
    return make_kind<EmergencyStop>();
}

}  // namespace vyard::plant
