// Names of tags and points as people abbreviate them, taken apart into words that can be compared.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace vyard::wiring {

/// "B12_MtrRunFbk" -> "b", "12", "motor", "run", "feedback": split at underscores, points, changes of case and digits,
/// folded, and common abbreviations of the trade written out.
std::vector<std::string> words_of(std::string_view name);

/// 1 for equal words, 0 for unlike ones. Between: one starts the other (from three letters on), or few letters differ
/// (optimal string alignment distance). Numbers are equal or unlike.
double likeness(const std::string& a, const std::string& b);

}  // namespace vyard::wiring
