// Where devices stand: coordinates in the plan, after or beside another, on a surface, in an assembly, each behind what
// it refers to.
#pragma once

#include <set>
#include <vector>

#include "core/plant/value_reader.hpp"

namespace vyard::plant {

/// Places every device, lets its kind add its surfaces, solids and zones, and says which surfaces an item can pass to.
/// `sources`: the definitions of the model's devices, in their order. `unusable`: devices with mistakes; those that
/// cannot be placed, or refer to such, are added.
void place_devices(PlantModel& model, const std::vector<const DeviceDefinition*>& sources, std::set<int>& unusable,
                   ValueReader& read, base::Diagnostics& diagnostics);

/// The keys that place a device, for the reference: name, help.
std::vector<std::pair<std::string, std::string>> placement_keys(Placement placement);

}  // namespace vyard::plant
