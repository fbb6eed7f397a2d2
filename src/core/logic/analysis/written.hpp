// Who writes what in checked logic: which bodies write a variable, what is written in ways that are not followed, what
// loops write, which numbers variables are compared with.
#pragma once

#include <map>
#include <set>

#include "core/logic/analysis/interval.hpp"
#include "core/logic/analysis/node.hpp"

namespace vyard::logic {

struct Written {
    std::map<Node, std::set<int>> by;  ///< Units whose bodies write it, callers of a block for its inputs.
    /// Written by reference, by address, in parts, through VAR_IN_OUT or VAR_CONFIG.
    std::set<Node> opaque;
    std::map<Node, std::set<Interval::Number>> compared_with;  ///< Literals, and their neighbours.
    std::map<Node, std::set<Interval::Number>> named;          ///< Those literals alone.
    struct Loop {
        std::set<Node> nodes;
        bool calls = false;   ///< Of what has a body: more may be written.
        bool leaves = false;  ///< By EXIT, RETURN or a jump: how far it goes cannot be told.
    };
    std::map<const Statement*, Loop> loops;
    std::set<int> shared;  ///< Blocks whose instances other blocks write too: by methods, by EXTENDS.

    /// The one body that writes a node which lives from scan to scan; -1 when there is none, or are several.
    int only_writer(const Node& node) const;
};

/// Cost: the bodies.
Written find_written(const CheckedLogic& logic);

}  // namespace vyard::logic
