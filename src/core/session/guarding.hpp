// Whether what stops a machine has a say in what moves it, and the right one; and whether anything notices what does
// not do as it is told.
#pragma once

#include "core/session/session_state.hpp"

namespace vyard::session {

/// Warns of
/// - outputs that move a device and in which an emergency stop, a pull cord, a guard door or the device's own overload,
///   joined to a tag, has no say;
/// - such contacts, and stop buttons, that the logic takes the wrong way round, or whose broken wire reads as if all
///   were well;
/// - devices that say where they are, or that they run, to logic that lets no timer look at it.
/// Yards with several controllers or jumpers are not looked at: another one may guard what this one moves.
/// Cost: inputs of that kind x outputs that move something x what has a say in these; for a contact that has its say
/// through numbers up to 500 situations (Situations::find), seven scans each.
void warn_unguarded(const SessionModelPtr& model, base::Diagnostics& diagnostics);

}  // namespace vyard::session
