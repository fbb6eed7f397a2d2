// Reads single values of a plant's definition: quantities, colours, items, lists. Each mistake is reported at its
// place. Internal to the building of plants.
#pragma once

#include <optional>
#include <string>

#include "core/plant/definition.hpp"
#include "core/plant/kind.hpp"

namespace vyard::plant {

/// "a text", "a bare number" ... for messages.
const char* form_text(DefinitionValue::Form form);

class ValueReader {
  public:
    /// Colours and items go into `model`.
    ValueReader(PlantModel& model, base::Diagnostics& diagnostics) : model_(model), diagnostics_(diagnostics) {}

    void read_colours(const PlantDefinition& definition);
    void read_items(const PlantDefinition& definition);

    /// In SI units, within [low, high]. Null after a report, as everywhere here.
    std::optional<double> quantity(const DefinitionValue& value, base::Dimension dimension, double low, double high);
    /// The number of a device of one of these kinds (any, where there are none); `key` names it.
    std::optional<int> device_named(const DefinitionValue& value, const std::vector<std::string>& kinds,
                                    const std::string& key);
    std::optional<int> find_colour(const DefinitionValue& value);
    std::optional<ParameterValue> item_list(const DefinitionValue& value);
    std::optional<ParameterValue> number_list(const ParameterSpec& p, const DefinitionValue& value);
    /// Two to eight names; they are the device's positions.
    std::optional<ParameterValue> names(const ParameterSpec& p, const DefinitionValue& value, DeviceModel& device);
    std::optional<Vector2> coordinates(const DefinitionValue& value);

  private:
    void error(base::Code code, const base::Place& place, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place, std::move(message), std::move(hint));
    }
    std::string label(const DefinitionValue& value);
    Material material(const DefinitionValue& value);
    void read_size(const DefinitionValue& value, ItemType& item);

    PlantModel& model_;
    base::Diagnostics& diagnostics_;
};

}  // namespace vyard::plant
