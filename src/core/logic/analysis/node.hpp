// A variable of checked logic as what looks at the logic without executing it sees it: one node, wherever it is named.
// Instances of one block share their nodes.
#pragma once

#include <compare>
#include <optional>

#include "core/logic/check/model.hpp"

namespace vyard::logic {

struct Node {
    int unit = -1;  ///< The block that declares it; -1 of what all see.
    Space space = Space::None;
    std::uint32_t offset = 0;
    int bit = -1;

    auto operator<=>(const Node&) const = default;
};

/// The block whose instance the body of `unit` works on: of a method its block, of a block that EXTENDS another the
/// first of them all.
int home_of(const CheckedLogic& logic, int unit);

/// Of a variable of `unit`, as it is bound.
Node node_at(const CheckedLogic& logic, const Binding& binding, int unit);

/// Of a name or a direct address in the body of `unit`; null of anything else.
std::optional<Node> node_of(const CheckedLogic& logic, const Expression& e, int unit);

/// Of the variable that a place is a part of.
std::optional<Node> root_of(const CheckedLogic& logic, const Expression& e, int unit);

}  // namespace vyard::logic
