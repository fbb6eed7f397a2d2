#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct PullCord {
    struct Model {
        Contact contact = Contact::NormallyClosed;
    };
    struct State {
        bool pulled = false, slack = false;
    };
    enum Points { kHealthy };

    static void declare(Declaration<PullCord>& kind) {
        kind.names("pull_cord", "panel", Placement::Panel,
                   "an emergency cord along a machine: pulled, it stays so until reset; a slack rope trips it too")
            .contact(&Model::contact, "normally closed")
            .input("contact", "normally closed: TRUE while the cord is tight and not pulled")
            .wired(&Model::contact)
            .control("pull", "pulls the cord", [](const Model&, State& s) { s.pulled = true; })
            .control("reset", "resets its switch", [](const Model&, State& s) { s.pulled = false; })
            .actual("pulled", PointType::Boolean, Dimension::Plain, "it has been pulled", &State::pulled)
            .fault("slack", "the rope hangs: the switch trips", &State::slack);
    }
    static void sense(const Model& model, State& state, Step& step) {
        state.pulled = state.pulled || state.slack;
        step.input(kHealthy, contact_value(model.contact, state.pulled));
    }
};

}  // namespace

Kind pull_cord_kind() {
    return make_kind<PullCord>();
}

}  // namespace vyard::plant
