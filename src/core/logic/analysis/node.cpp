#include "core/logic/analysis/node.hpp"

namespace vyard::logic {

int home_of(const CheckedLogic& logic, int unit) {
    if (unit < 0) return unit;
    if (logic.block(unit).owner >= 0) unit = logic.block(unit).owner;
    for (int depth = 0; depth < kMaxExtends && logic.block(unit).parent >= 0; ++depth) unit = logic.block(unit).parent;
    return unit;
}

Node node_at(const CheckedLogic& logic, const Binding& b, int unit) {
    const int home = b.space == Space::Instance ? home_of(logic, unit) : b.space == Space::Frame ? unit : -1;
    return {home, b.space, b.offset, b.bit};
}

std::optional<Node> node_of(const CheckedLogic& logic, const Expression& e, int unit) {
    const bool named = e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Direct;
    if (!named || e.binding.space == Space::None) return std::nullopt;
    return node_at(logic, e.binding, unit);
}

std::optional<Node> root_of(const CheckedLogic& logic, const Expression& e, int unit) {
    const Expression* at = &e;
    while ((at->kind == ExpressionKind::Member || at->kind == ExpressionKind::Index ||
            at->kind == ExpressionKind::Partial || at->kind == ExpressionKind::Dereference) &&
           !at->operands.empty())
        at = at->operands[0].get();
    return node_of(logic, *at, unit);
}

}  // namespace vyard::logic
