// Which statement gave a variable the value that it has.
#pragma once

#include <optional>

#include "core/session/session.hpp"

namespace vyard::procedure {

/// The place of the instruction that gave a scalar tag or variable its value in the step after `before`; null when that
/// step does not change it, or something else than the logic did: an input, a force, a stimulus.
//
// The scan is done again with an instruction replaced by Halt, for each instruction of the program: what stands in
// memory when the scan first comes by tells on which one the value came. Of several (a call, and the assignment within)
// the one that is reached last is it. Of a body that the scan executes several times it may be the call. Cost:
// instructions x a scan.
std::optional<base::Place> last_write(const session::Session& before, const session::Signal& signal);

}  // namespace vyard::procedure
