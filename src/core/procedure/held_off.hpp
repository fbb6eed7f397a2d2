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
    std::string network;               ///< "rung 3 of main"; "" where it is not drawn.
    base::Place place;                 ///< Of the assignment.
    std::vector<std::string> missing;  ///< Its parts that do not hold, see logic::Why.
};

/// Where that is, for people: "rung 3 of main, panel.st:13:41".
std::string where_text(const HeldOff& held);

/// BOOL tags that the logic has FALSE now, an entry for each place that could make them TRUE or makes them FALSE.
/// Cost: the statements of the programs.
std::vector<HeldOff> held_off(const session::Session& session);

}  // namespace vyard::procedure
