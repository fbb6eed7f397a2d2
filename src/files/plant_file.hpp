// plant.toml: the devices of a plant. [KIND.NAME] tables; a table that holds only tables is a group, its name goes in
// front ([button.panel.start] is the button "panel.start"). [item.NAME] and [plant] colours beside them.
#pragma once

#include "core/plant/definition.hpp"

namespace vyard::files {

plant::PlantDefinition read_plant(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::files
