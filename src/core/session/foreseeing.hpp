// What can be foreseen of the logic of a yard, by what its map says of its inputs.
#pragma once

#include "core/session/session_state.hpp"

namespace vyard::session {

/// Warns of what logic::warn_foreseen sees in the program of every controller. It costs as much as building a yard
/// does, so that it is for whoever shows warnings.
void warn_foreseen(const SessionModel& model, base::Diagnostics& diagnostics);

}  // namespace vyard::session
