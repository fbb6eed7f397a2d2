#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

enum class Action : int { Momentary = 0, Latching = 1 };

struct Button {
    struct Model {
        Contact contact = Contact::NormallyOpen;
        Action action = Action::Momentary;
        bool lit = false;
    };
    struct State {
        bool pressed = false, lamp = false, welded = false;
    };
    enum Points { kContact, kLamp };

    static void declare(Declaration<Button>& kind) {
        kind.names("button", "panel", Placement::Panel,
                   "a push button; its contact follows the hand, or stays until pressed again; may be lit")
            .tile(Tile::Knob)
            .choice("action", &Model::action, {"momentary", "latching"}, "momentary",
                    "latching: each press changes it over")
            .choice("lamp", &Model::lit, {"none", "lit"}, "none", "whether it has a lamp of its own")
            .contact(&Model::contact, "normally open")
            .input("contact", "normally open: TRUE while pressed; normally closed: FALSE while pressed")
            .wired(&Model::contact)
            .control("press", "pushes it in; `for` a time, or until released",
                     [](const Model& m, State& s) { s.pressed = m.action == Action::Momentary || !s.pressed; })
            .output("lamp", "TRUE lights it")
            .only_if([](const Model& m) { return m.lit; })
            .control("release", "lets it go; a latching one stays",
                     [](const Model& m, State& s) {
                         if (m.action == Action::Momentary) s.pressed = false;
                     })
            .actual("pressed", PointType::Boolean, base::Dimension::Plain, "a hand is on it, or it stays in",
                    &State::pressed)
            .actual("lit", PointType::Boolean, base::Dimension::Plain, "its lamp is on", &State::lamp)
            .fault("welded", "its contact stays as if pressed", &State::welded);
    }

    static Face face(const Model& model, const State& state) {
        Face out{state.pressed ? "pressed" : "not pressed", {}};
        if (!model.lit) return out;
        out.text += state.lamp ? ", lit" : ", dark";
        out.lamps.emplace_back(Tone::Light, state.lamp);
        return out;
    }
    static void actuate(const Model&, State& state, Step& step) { state.lamp = step.output(kLamp) != 0.0; }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kContact, contact_value(model.contact, state.pressed || state.welded));
    }
};

}  // namespace

Kind button_kind() {
    return make_kind<Button>();
}

}  // namespace vyard::plant
