// A plant as its file said it: names and values with their places, nothing checked yet. Any reader can fill one.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::plant {

struct DefinitionValue {
    enum class Form : std::uint8_t { Text, Number, Flag, List, Other };
    Form form = Form::Other;
    std::string text;
    double number = 0.0;
    bool flag = false;
    std::vector<DefinitionValue> list;
    base::Place place;
};

struct DefinitionKey {
    std::string name;
    base::Place place;
    DefinitionValue value;
};

struct DeviceDefinition {
    std::string kind;
    base::Place kind_place;
    std::string name;
    base::Place place;
    std::vector<DefinitionKey> keys;
};

struct PlantDefinition {
    std::vector<DeviceDefinition> devices;
    std::vector<DeviceDefinition> items;  ///< kind "item"
    std::vector<DefinitionValue> colours;
    double step_s = 0.005;
    std::uint64_t seed = 1;  ///< Of all that is random in a run.
};

}  // namespace vyard::plant
