// How often values fall where: bars over an axis.
#pragma once

#include <string>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

/// `unit`: behind the numbers of the axis. `values` is not empty; the classes are as many as the root of their number,
/// 5 to 30.
std::unique_ptr<Canvas> draw_histogram(const std::string& title, const std::vector<double>& values,
                                       const std::string& unit);

}  // namespace vyard::figures
