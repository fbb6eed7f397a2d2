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
    std::vector<std::string> missing;  ///< Its parts that do not hold, see logic::Why.
};

/// BOOL tags that the logic has FALSE now, an entry for each place that could make them TRUE or makes them FALSE.
/// Cost: the statements of the programs.
std::vector<HeldOff> held_off(const session::Session& session);

}  // namespace vyard::procedure
