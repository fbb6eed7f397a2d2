// Whether what stops a machine has a say in what moves it.
#pragma once

#include "core/session/session_state.hpp"

namespace vyard::session {

/// Warns of every output that moves a device and in which an emergency stop, a pull cord, a guard door or the device's
/// own overload, joined to a tag, has no say. Yards with several controllers are not looked at: one may guard another.
void warn_unguarded(const SessionModel& model, base::Diagnostics& diagnostics);

}  // namespace vyard::session
