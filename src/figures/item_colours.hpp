// What an item of some colour looks like on a plan.
#pragma once

#include <string>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

/// Of the plant's colours, the one of that number: by its name where the name tells, else one of the palette by its
/// place in the list.
Colour item_colour(const std::vector<std::string>& names, int number);

}  // namespace vyard::figures
