#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct Button {
    struct Model {
        Contact contact = Contact::NormallyOpen;
    };
    struct State {
        bool pressed = false;
    };
    enum Points { kContact };

    static void declare(Declaration<Button>& kind) {
        kind.names("button", "panel", Symbol::Button, Placement::Panel, "a push button; its contact follows the hand")
            .contact(&Model::contact, "normally open")
            .input("contact", "normally open: TRUE while pressed; normally closed: FALSE while pressed")
            .control("press", "pushes it in; `for` a time, or until released",
                     [](const Model&, State& s) { s.pressed = true; })
            .control("release", "lets it go", [](const Model&, State& s) { s.pressed = false; })
            .gauge("pressed", PointType::Boolean, base::Dimension::Plain, "a hand is on it", &State::pressed);
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kContact, contact_value(model.contact, state.pressed));
    }
};

}  // namespace

Kind button_kind() {
    return make_kind<Button>();
}

}  // namespace vyard::plant
