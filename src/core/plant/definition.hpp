// A plant as its file said it: names and values with their places, nothing checked yet. Any reader can fill one.
#pragma once

#include <optional>
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
    /// Where the assemblies stand that it is part of, outermost first: their `at` and `heading`.
    struct Origin {
        std::optional<DefinitionValue> at, heading;
    };
    std::vector<Origin> origins;
};

/// A group of devices with parameters, placed by its name as if it were a kind. A text "$NAME" in it is the parameter's
/// value; names of its devices stand for those of the placed group.
struct AssemblyDefinition {
    std::string name;
    base::Place place;
    std::vector<DefinitionKey> parameters;  ///< With their defaults.
    std::vector<DeviceDefinition> devices;
};

/// A kind whose behaviour is a FUNCTION_BLOCK.
struct OwnKindDefinition {
    std::string name;
    base::Place place;
    std::string block;
    base::Place block_place;
    std::string summary;
    std::vector<base::SourcePtr> logic;
    std::vector<DefinitionValue> controls;    ///< Inputs that hands set.
    std::vector<DefinitionValue> parameters;  ///< Inputs that the file sets.
    std::vector<DefinitionValue> faults;      ///< BOOL inputs that faults set.
    std::vector<DefinitionValue> mishaps;     ///< BOOL outputs that tell mishaps.
};

/// A mishap that the yard allows: "infeed.item_fell", and why.
struct AllowedDefinition {
    std::string mishap, reason;
    base::Place place;
};

struct PlantDefinition {
    std::vector<DeviceDefinition> devices;
    std::vector<DeviceDefinition> items;  ///< kind "item"
    std::vector<AssemblyDefinition> assemblies;
    std::vector<OwnKindDefinition> own_kinds;
    std::vector<DefinitionValue> colours;
    std::vector<AllowedDefinition> allowed;
    double step_s = 0.005;
    std::uint64_t seed = 1;  ///< Of all that is random in a run.
};

}  // namespace vyard::plant
