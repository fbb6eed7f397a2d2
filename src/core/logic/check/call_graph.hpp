// Who calls whom. The standard forbids recursion; without it every call has its frame at a fixed place.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Reports calls that lead back to their caller, and chains of calls beyond kMaxCallDepth. A call of a method counts
/// for all that override or implement it. Linear in blocks and calls, for what is called by name.
void check_call_graph(const CheckedLogic& logic, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
