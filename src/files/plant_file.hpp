// plant.toml: the devices of a plant. [KIND.NAME] tables; a table that holds only tables is a group, its name goes in
// front ([button.panel.start] is the button "panel.start"). [item.NAME] and [plant] colours beside them.
#pragma once

#include <functional>

#include "core/plant/plant.hpp"

namespace vyard::files {

/// Reads a file that the plant names (logic, or a list); null after a report.
using FileReader = std::function<base::SourcePtr(const std::string& path, const base::Place& place)>;

plant::PlantDefinition read_plant(const base::SourcePtr& source, base::Diagnostics& diagnostics,
                                  const FileReader& read = {});

}  // namespace vyard::files
