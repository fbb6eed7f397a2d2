#include "core/logic/library/standard_functions.hpp"

#include <map>

#include "core/base/base.hpp"

namespace vyard::logic {

using E = Elementary;
using O = Operator;

const std::vector<FunctionInfo>& standard_functions() {
    constexpr int kMany = 64;
    static const std::vector<FunctionInfo> functions = {
        {"ABS", Function::Absolute, 1, 1, "IN", "absolute value of a number"},
        {"SQRT", Function::SquareRoot, 1, 1, "IN", "square root of a real"},
        {"LN", Function::NaturalLogarithm, 1, 1, "IN", "natural logarithm"},
        {"LOG", Function::DecimalLogarithm, 1, 1, "IN", "logarithm to base 10"},
        {"EXP", Function::Exponential, 1, 1, "IN", "e to the power of IN"},
        {"SIN", Function::Sine, 1, 1, "IN", "sine, IN in radians"},
        {"COS", Function::Cosine, 1, 1, "IN", "cosine, IN in radians"},
        {"TAN", Function::Tangent, 1, 1, "IN", "tangent, IN in radians"},
        {"ASIN", Function::ArcSine, 1, 1, "IN", "arc sine in radians"},
        {"ACOS", Function::ArcCosine, 1, 1, "IN", "arc cosine in radians"},
        {"ATAN", Function::ArcTangent, 1, 1, "IN", "arc tangent in radians"},
        {"ATAN2", Function::ArcTangent2, 2, 2, "Y X", "angle of the point (X, Y) in radians"},
        {"EXPT", Function::Power, 2, 2, "IN1 IN2", "IN1 to the power of IN2"},
        {"MIN", Function::Minimum, 2, kMany, "IN1", "the smallest of its arguments"},
        {"MAX", Function::Maximum, 2, kMany, "IN1", "the largest of its arguments"},
        {"LIMIT", Function::Limit, 3, 3, "MN IN MX", "IN kept within MN and MX: LIMIT(MN, IN, MX)"},
        {"SEL", Function::Select, 3, 3, "G IN0 IN1", "SEL(G, IN0, IN1): IN0 when G is FALSE, else IN1"},
        {"MUX", Function::Multiplex, 3, kMany, "K IN0", "MUX(K, IN0, IN1 ...): the input of number K"},
        {"MOVE", Function::Move, 1, 1, "IN", "IN unchanged"},
        {"SHL", Function::ShiftLeft, 2, 2, "IN N", "bit string shifted left by N"},
        {"SHR", Function::ShiftRight, 2, 2, "IN N", "bit string shifted right by N"},
        {"ROL", Function::RotateLeft, 2, 2, "IN N", "bit string rotated left by N"},
        {"ROR", Function::RotateRight, 2, 2, "IN N", "bit string rotated right by N"},
        {"ADD", Function::Operate, 2, kMany, "IN1", "sum", O::Add},
        {"SUB", Function::Operate, 2, 2, "IN1 IN2", "IN1 - IN2", O::Subtract},
        {"MUL", Function::Operate, 2, kMany, "IN1", "product", O::Multiply},
        {"DIV", Function::Operate, 2, 2, "IN1 IN2", "IN1 / IN2", O::Divide},
        {"MOD", Function::Operate, 2, 2, "IN1 IN2", "remainder of IN1 / IN2", O::Modulo},
        {"AND", Function::Operate, 2, kMany, "IN1", "and of bits", O::And},
        {"OR", Function::Operate, 2, kMany, "IN1", "or of bits", O::Or},
        {"XOR", Function::Operate, 2, kMany, "IN1", "exclusive or of bits", O::Xor},
        {"GT", Function::Operate, 2, kMany, "IN1", "each larger than the next", O::Greater},
        {"GE", Function::Operate, 2, kMany, "IN1", "each at least the next", O::GreaterEqual},
        {"EQ", Function::Operate, 2, kMany, "IN1", "all equal", O::Equal},
        {"LE", Function::Operate, 2, kMany, "IN1", "each at most the next", O::LessEqual},
        {"LT", Function::Operate, 2, kMany, "IN1", "each smaller than the next", O::Less},
        {"NE", Function::Operate, 2, 2, "IN1 IN2", "not equal", O::NotEqual},
        {"ADD_TIME", Function::Operate, 2, 2, "IN1 IN2", "sum of two TIMEs", O::Add},
        {"ADD_LTIME", Function::Operate, 2, 2, "IN1 IN2", "sum of two LTIMEs", O::Add},
        {"ADD_TOD_TIME", Function::Operate, 2, 2, "IN1 IN2", "time of day later by IN2", O::Add},
        {"ADD_LTOD_LTIME", Function::Operate, 2, 2, "IN1 IN2", "time of day later by IN2", O::Add},
        {"ADD_DT_TIME", Function::Operate, 2, 2, "IN1 IN2", "date and time later by IN2", O::Add},
        {"ADD_LDT_LTIME", Function::Operate, 2, 2, "IN1 IN2", "date and time later by IN2", O::Add},
        {"SUB_TIME", Function::Operate, 2, 2, "IN1 IN2", "difference of two TIMEs", O::Subtract},
        {"SUB_LTIME", Function::Operate, 2, 2, "IN1 IN2", "difference of two LTIMEs", O::Subtract},
        {"SUB_DATE_DATE", Function::Operate, 2, 2, "IN1 IN2", "TIME from IN2 to IN1", O::Subtract},
        {"SUB_LDATE_LDATE", Function::Operate, 2, 2, "IN1 IN2", "LTIME from IN2 to IN1", O::Subtract},
        {"SUB_TOD_TIME", Function::Operate, 2, 2, "IN1 IN2", "time of day earlier by IN2", O::Subtract},
        {"SUB_LTOD_LTIME", Function::Operate, 2, 2, "IN1 IN2", "time of day earlier by IN2", O::Subtract},
        {"SUB_TOD_TOD", Function::Operate, 2, 2, "IN1 IN2", "TIME from IN2 to IN1", O::Subtract},
        {"SUB_LTOD_LTOD", Function::Operate, 2, 2, "IN1 IN2", "LTIME from IN2 to IN1", O::Subtract},
        {"SUB_DT_TIME", Function::Operate, 2, 2, "IN1 IN2", "date and time earlier by IN2", O::Subtract},
        {"SUB_LDT_LTIME", Function::Operate, 2, 2, "IN1 IN2", "date and time earlier by IN2", O::Subtract},
        {"SUB_DT_DT", Function::Operate, 2, 2, "IN1 IN2", "TIME from IN2 to IN1", O::Subtract},
        {"SUB_LDT_LDT", Function::Operate, 2, 2, "IN1 IN2", "LTIME from IN2 to IN1", O::Subtract},
        {"MUL_TIME", Function::Operate, 2, 2, "IN1 IN2", "TIME times a number", O::Multiply},
        {"MUL_LTIME", Function::Operate, 2, 2, "IN1 IN2", "LTIME times a number", O::Multiply},
        {"DIV_TIME", Function::Operate, 2, 2, "IN1 IN2", "TIME divided by a number", O::Divide},
        {"DIV_LTIME", Function::Operate, 2, 2, "IN1 IN2", "LTIME divided by a number", O::Divide},
        {"LEN", Function::Length, 1, 1, "IN", "length of a string"},
        {"LEFT", Function::Left, 2, 2, "IN L", "the first L characters"},
        {"RIGHT", Function::Right, 2, 2, "IN L", "the last L characters"},
        {"MID", Function::Middle, 3, 3, "IN L P", "L characters from place P on; the first place is 1"},
        {"CONCAT", Function::Concatenate, 2, kMany, "IN1", "strings put together"},
        {"INSERT", Function::Insert, 3, 3, "IN1 IN2 P", "IN2 put into IN1 behind place P"},
        {"DELETE", Function::Delete, 3, 3, "IN L P", "IN without L characters from place P on"},
        {"REPLACE", Function::Replace, 4, 4, "IN1 IN2 L P", "IN2 in place of L characters of IN1 from place P on"},
        {"FIND", Function::Find, 2, 2, "IN1 IN2", "the place where IN2 first stands in IN1; 0 for nowhere"},
        {"CONCAT_DATE_TOD", Function::JoinMoment, 2, 2, "DATE TOD", "date and time of day together", O::Or, E::Dt},
        {"CONCAT_DATE_LTOD", Function::JoinMoment, 2, 2, "DATE LTOD", "date and time of day together", O::Or, E::Ldt},
        {"CONCAT_DATE", Function::MakeDate, 3, 3, "YEAR MONTH DAY", "a date from its numbers", O::Or, E::Date},
        {"CONCAT_TOD", Function::MakeTimeOfDay, 4, 4, "HOUR MINUTE SECOND MILLISECOND",
         "a time of day from its numbers", O::Or, E::Tod},
        {"CONCAT_LTOD", Function::MakeTimeOfDay, 4, 4, "HOUR MINUTE SECOND MILLISECOND",
         "a time of day from its numbers", O::Or, E::Ltod},
        {"CONCAT_DT", Function::MakeMoment, 7, 7, "YEAR MONTH DAY HOUR MINUTE SECOND MILLISECOND",
         "date and time from their numbers", O::Or, E::Dt},
        {"CONCAT_LDT", Function::MakeMoment, 7, 7, "YEAR MONTH DAY HOUR MINUTE SECOND MILLISECOND",
         "date and time from their numbers", O::Or, E::Ldt},
        {"SPLIT_DATE", Function::SplitDate, 4, 4, "IN YEAR MONTH DAY", "the numbers of a date"},
        {"SPLIT_TOD", Function::SplitTimeOfDay, 5, 5, "IN HOUR MINUTE SECOND MILLISECOND",
         "the numbers of a time of day"},
        {"SPLIT_LTOD", Function::SplitTimeOfDay, 5, 5, "IN HOUR MINUTE SECOND MILLISECOND",
         "the numbers of a time of day"},
        {"SPLIT_DT", Function::SplitMoment, 8, 8, "IN YEAR MONTH DAY HOUR MINUTE SECOND MILLISECOND",
         "the numbers of a date and time"},
        {"SPLIT_LDT", Function::SplitMoment, 8, 8, "IN YEAR MONTH DAY HOUR MINUTE SECOND MILLISECOND",
         "the numbers of a date and time"},
        {"DAY_OF_WEEK", Function::DayOfWeek, 1, 1, "IN", "0 for Sunday to 6 for Saturday"},
        {"TO_BIG_ENDIAN", Function::SwapBytes, 1, 1, "IN", "most significant byte first"},
        {"FROM_BIG_ENDIAN", Function::SwapBytes, 1, 1, "IN", "read with the most significant byte first"},
        {"TO_LITTLE_ENDIAN", Function::KeepBytes, 1, 1, "IN", "least significant byte first, as the memory is"},
        {"FROM_LITTLE_ENDIAN", Function::KeepBytes, 1, 1, "IN", "read with the least significant byte first"},
        {"IS_VALID", Function::IsValid, 1, 1, "IN", "TRUE when a real is a number"},
        {"IS_VALID_BCD", Function::IsValidBcd, 1, 1, "IN", "TRUE when every four bits are a decimal digit"},
        {"LOWER_BOUND", Function::LowerBound, 2, 2, "ARR DIM", "the lowest index of dimension DIM of an array"},
        {"UPPER_BOUND", Function::UpperBound, 2, 2, "ARR DIM", "the highest index of dimension DIM of an array"},
        {"REF", Function::Reference, 1, 1, "IN", "a reference to a variable"},
        {"RISES", Function::Rises, 1, 1, "IN", "the condition became TRUE in this scan"},
        {"FALLS", Function::Falls, 1, 1, "IN", "the condition became FALSE in this scan"},
    };
    return functions;
}

const FunctionInfo* find_function(std::string_view name) {
    static const std::map<std::string, const FunctionInfo*> by_name = [] {
        std::map<std::string, const FunctionInfo*> out;
        for (const FunctionInfo& f : standard_functions()) out.emplace(base::fold(f.name), &f);
        return out;
    }();
    const auto found = by_name.find(base::fold(name));
    return found == by_name.end() ? nullptr : found->second;
}

std::optional<Conversion> find_conversion(std::string_view name) {
    const std::string folded = base::fold(name);
    const auto type = [](const std::string& text) { return find_type(text).value_or(E::None); };
    const auto split = [&](const std::string& middle, ConvertKind kind) -> std::optional<Conversion> {
        for (std::size_t at = folded.find(middle); at != std::string::npos; at = folded.find(middle, at + 1)) {
            const Conversion c{type(folded.substr(0, at)), type(folded.substr(at + middle.size())), kind};
            if (c.from != E::None && c.to != E::None) return c;
        }
        return std::nullopt;
    };
    if (folded == "trunc") return Conversion{E::None, E::Dint, kConvertTruncate};
    if (folded.find("_to_") != std::string::npos || folded.find("_bcd") != std::string::npos) {
        if (const auto c = split("_bcd_to_", kConvertFromBcd)) return c;
        if (const auto c = split("_to_bcd_", kConvertToBcd)) return c;
        if (const auto c = split("_to_", kConvertNamed)) return c;
    }
    if (const auto c = split("_trunc_", kConvertTruncate)) return c;
    const auto overloaded = [&](const char* prefix, ConvertKind kind) -> std::optional<Conversion> {
        if (!folded.starts_with(prefix)) return std::nullopt;
        const E to = type(folded.substr(std::string(prefix).size()));
        if (to == E::None) return std::nullopt;
        return Conversion{E::None, to, kind};
    };
    if (const auto c = overloaded("to_bcd_", kConvertToBcd)) return c;
    if (const auto c = overloaded("bcd_to_", kConvertFromBcd)) return c;
    if (const auto c = overloaded("trunc_", kConvertTruncate)) return c;
    return overloaded("to_", kConvertNamed);
}

std::string function_of_sign(std::string_view type) {
    static constexpr std::array<std::pair<std::string_view, std::string_view>, 15> kSigns = {{
        {"&", "AND"},
        {">=1", "OR"},
        {"=1", "XOR"},
        {"+", "ADD"},
        {"-", "SUB"},
        {"*", "MUL"},
        {"/", "DIV"},
        {"**", "EXPT"},
        {":=", "MOVE"},
        {"=", "EQ"},
        {"<>", "NE"},
        {"<", "LT"},
        {"<=", "LE"},
        {">", "GT"},
        {">=", "GE"},
    }};
    std::string plain;
    for (const char c : type) {
        if (c != ' ') plain += c;
    }
    for (const auto& [sign, name] : kSigns) {
        if (plain == sign) return std::string(name);
    }
    return plain;
}

}  // namespace vyard::logic
