// Addresses that share bits: names, and direct addresses in code. Two names at one address are a way of looking at
// memory, a part of a larger one is too; what straddles another is hardly meant.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Warnings and remarks, one a place, each naming all that shares bits with it. What is an error is known with the map
/// (wiring). Cost: addresses x those that reach over one place.
void check_addresses(const CheckedLogic& logic, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
