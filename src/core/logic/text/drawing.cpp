#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

Drawing drawing_of(const Token& token, const base::SourceText& source) {
    Drawing out;
    out.form = token.span.length == 3 ? DrawnForm::Blocks : DrawnForm::Ladder;
    out.span = token.span;
    out.text = token.text;
    out.offset = token.text.empty() ? 0 : static_cast<std::size_t>(token.text.data() - source.text.data());
    return out;
}

int net_that_leaves(const Network& network, const std::string& name) {
    for (const DrawnElement& e : network.elements) {
        if (e.kind == ElementKind::Leave && base::fold(e.name.text) == base::fold(name)) return e.pins[0].net;
    }
    return -1;
}

}  // namespace vyard::logic
