// Coils in two places: the later one wins in every scan, and the earlier one is lost.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Warns of a BOOL that two places write in every scan, and of a block that is called in two. What only one of several
/// ways through the logic does (automatic and manual) is no such place. A default before, such as q := FALSE, is fine
/// within a unit; of two units one undoes what the other does.
void check_writers(const CheckedLogic& logic, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
