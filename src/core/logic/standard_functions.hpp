// The standard functions of this version (IEC 61131-3, 6.6.2.5), by name.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/logic/types.hpp"

namespace vyard::logic {

enum class Function : std::uint8_t {
    Absolute,
    SquareRoot,
    NaturalLogarithm,
    Exponential,
    Sine,
    Cosine,
    ArcTangent,
    Power,
    Minimum,
    Maximum,
    Limit,
    Select,
    Truncate,
    ShiftLeft,
    ShiftRight,
    RotateLeft,
    RotateRight,
    Rises,  ///< Only in conditions of procedures.
    Falls,
};

struct FunctionInfo {
    const char* name;
    Function function;
    int arguments;
    const char* summary;
};

const std::vector<FunctionInfo>& standard_functions();
const FunctionInfo* find_function(std::string_view name);

/// INT_TO_REAL and its like; null when `name` is none.
struct Conversion {
    Elementary from;
    Elementary to;
};
std::optional<Conversion> find_conversion(std::string_view name);

}  // namespace vyard::logic
