// Orders that exclude one another, such as both ways of a motor: whether anything in the logic keeps them apart.
#pragma once

#include "core/session/session_state.hpp"

namespace vyard::session {

/// Executes the logic by itself, from power-up, with up to three devices away from rest, as far as 250 of the ways
/// their contacts can be go, few devices first, and warns where both orders come in one scan: what it says can happen
/// has happened. What it does not find may still be: what takes longer than a few scans, numbers, more devices at once.
/// Contacts of one device are taken to exclude one another; what stops the machine stays at rest. Cost: some hundred
/// scans for each such pair.
void warn_not_interlocked(const SessionModelPtr& model, base::Diagnostics& diagnostics);

}  // namespace vyard::session
