// What keeps an output from coming on: the parts of its assignment that do not hold now. For the question "why does
// nothing start" with the machine idle.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::procedure {

struct HeldOff {
    std::string tag;
    base::Place place;                 ///< Of the assignment.
    std::vector<std::string> missing;  ///< Its parts between ANDs that are FALSE, as written.
};

/// BOOL tags that are FALSE now and have one plain assignment `tag := a AND b ...` in a program. Parts that cannot be
/// looked at from outside (calls, variables of functions) are passed over. Cost: the assignments' text.
std::vector<HeldOff> held_off(const session::Session& session);

}  // namespace vyard::procedure
