// The standard functions (IEC 61131-3, 6.6.2.5), by name.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

enum class Function : std::uint8_t {
    Absolute,
    SquareRoot,
    NaturalLogarithm,
    DecimalLogarithm,
    Exponential,
    Sine,
    Cosine,
    Tangent,
    ArcSine,
    ArcCosine,
    ArcTangent,
    ArcTangent2,
    Power,
    Minimum,
    Maximum,
    Limit,
    Select,
    Multiplex,
    Move,
    ShiftLeft,
    ShiftRight,
    RotateLeft,
    RotateRight,
    Operate,  ///< Written as an operator in other places: ADD, GT, AND ...
    Length,
    Left,
    Right,
    Middle,
    Concatenate,
    Insert,
    Delete,
    Replace,
    Find,
    JoinMoment,  ///< CONCAT_DATE_TOD
    MakeDate,
    MakeTimeOfDay,
    MakeMoment,
    SplitDate,
    SplitTimeOfDay,
    SplitMoment,
    DayOfWeek,
    SwapBytes,  ///< To and from big endian.
    KeepBytes,  ///< To and from little endian, which the memory is.
    IsValid,
    IsValidBcd,
    LowerBound,
    UpperBound,
    Reference,
    Rises,  ///< Only in conditions of procedures.
    Falls,
};

struct FunctionInfo {
    const char* name;
    Function function;
    int least, most;     ///< Arguments.
    const char* formal;  ///< Names of the arguments, separated by blanks; the last one counts on when there are more.
    const char* summary;
    Operator op = Operator::Or;          ///< Operate.
    Elementary type = Elementary::None;  ///< Of the result, where the name says it.
};

const std::vector<FunctionInfo>& standard_functions();
const FunctionInfo* find_function(std::string_view name);
/// The function that a sign in a box stands for: AND for &. Other names as they are; without blanks.
std::string function_of_sign(std::string_view type);

/// INT_TO_REAL, TO_REAL, TRUNC, REAL_TRUNC_INT, WORD_BCD_TO_UINT and their like; null when `name` is none.
struct Conversion {
    Elementary from = Elementary::None;  ///< None: any.
    Elementary to = Elementary::None;
    ConvertKind kind = kConvertNamed;
};
std::optional<Conversion> find_conversion(std::string_view name);

}  // namespace vyard::logic
