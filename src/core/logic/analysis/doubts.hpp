// What is well-formed and hardly meant: an output that nothing switches off, a step that cannot be left, a loop that
// copies one element over all others, a timer of which nothing is read. What numbers say of it: foreseen.hpp.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Looks at the bodies of checked logic without errors. Cost: statements, and variables that are written.
void warn_doubts(const CheckedLogic& logic, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
