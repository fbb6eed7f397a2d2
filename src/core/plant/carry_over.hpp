// The state of one plant brought into another that was built from changed files: what is of the same name and kind goes
// on as it was.
#pragma once

#include <string>
#include <vector>

#include "core/plant/model.hpp"

namespace vyard::plant {

struct CarriedOver {
    PlantState state;
    bool whole = true;              ///< Items and all devices go on; else only hands, liquids, air and drives do.
    std::vector<std::string> lost;  ///< For people: "device 'old_belt' is gone", "3 items, as 'old_belt' is gone".
};

/// Devices are told apart by name and kind. Items go on if every surface and type of item that there was is there
/// still; where they cannot, devices that act on items start anew, as what they know of them would be wrong. A surface
/// that stood at rest stands where it is now; one that moves keeps its place. Cost: linear in both plants.
CarriedOver carry_over(const PlantModel& from, const PlantState& state, const PlantModel& to);

}  // namespace vyard::plant
