#include "core/logic/standard_functions.hpp"

#include "core/base/base.hpp"

namespace vyard::logic {

const std::vector<FunctionInfo>& standard_functions() {
    static const std::vector<FunctionInfo> functions = {
        {"ABS", Function::Absolute, 1, "absolute value of a number"},
        {"SQRT", Function::SquareRoot, 1, "square root of a real"},
        {"LN", Function::NaturalLogarithm, 1, "natural logarithm"},
        {"EXP", Function::Exponential, 1, "e to the power of IN"},
        {"SIN", Function::Sine, 1, "sine, IN in radians"},
        {"COS", Function::Cosine, 1, "cosine, IN in radians"},
        {"ATAN", Function::ArcTangent, 1, "arc tangent in radians"},
        {"EXPT", Function::Power, 2, "IN1 to the power of IN2"},
        {"MIN", Function::Minimum, 2, "the smaller of two"},
        {"MAX", Function::Maximum, 2, "the larger of two"},
        {"LIMIT", Function::Limit, 3, "IN kept within MN and MX: LIMIT(MN, IN, MX)"},
        {"SEL", Function::Select, 3, "SEL(G, IN0, IN1): IN0 when G is FALSE, else IN1"},
        {"TRUNC", Function::Truncate, 1, "a real without its fraction"},
        {"SHL", Function::ShiftLeft, 2, "bit string shifted left by N"},
        {"SHR", Function::ShiftRight, 2, "bit string shifted right by N"},
        {"ROL", Function::RotateLeft, 2, "bit string rotated left by N"},
        {"ROR", Function::RotateRight, 2, "bit string rotated right by N"},
        {"RISES", Function::Rises, 1, "the condition became TRUE in this scan"},
        {"FALLS", Function::Falls, 1, "the condition became FALSE in this scan"},
    };
    return functions;
}

const FunctionInfo* find_function(std::string_view name) {
    const std::string folded = base::fold(name);
    for (const FunctionInfo& f : standard_functions()) {
        if (base::fold(f.name) == folded) return &f;
    }
    return nullptr;
}

std::optional<Conversion> find_conversion(std::string_view name) {
    const std::string folded = base::fold(name);
    const std::size_t middle = folded.find("_to_");
    if (middle == std::string::npos) return std::nullopt;
    const auto from = find_type(folded.substr(0, middle));
    const auto to = find_type(folded.substr(middle + 4));
    if (!from || !to) return std::nullopt;
    return Conversion{*from, *to};
}

}  // namespace vyard::logic
