#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

struct TextDisplay {
    struct Model {};
    struct State {};
    enum Points { kText };

    static void declare(Declaration<TextDisplay>& kind) {
        kind.names("text_display", "panel", Placement::Panel, "shows a line of text")
            .text_output("text", "the line to show");
    }
};

}  // namespace

Kind text_display_kind() {
    return make_kind<TextDisplay>();
}

}  // namespace vyard::plant
