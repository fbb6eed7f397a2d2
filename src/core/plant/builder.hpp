// From a definition to a plant: kinds found, parameters read and checked, devices placed, points numbered.
#pragma once

#include <memory>

#include "core/plant/definition.hpp"
#include "core/plant/kind.hpp"
#include "core/plant/model.hpp"

namespace vyard::plant {

/// Null after errors, all of which are in `diagnostics`.
std::shared_ptr<const PlantModel> build_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics);

/// The same, but what could be built is handed out after errors too, for checking the files that name its points. Not
/// fit to run then.
struct CheckedPlant {
    std::shared_ptr<const PlantModel> model;
    std::vector<std::string>
        left_out;  ///< Names of devices that are not in the model, or without some points, because of their mistakes.
};
CheckedPlant check_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics);

}  // namespace vyard::plant
