// The links of a run to controllers that are executed elsewhere: when they were lost.
#pragma once

#include <string>
#include <vector>

#include "core/session/session_state.hpp"

namespace vyard::session {

/// Whether any controller is executed elsewhere.
bool any_elsewhere(const SessionModel& model);

/// A time without a fresh exchange, or a controller of which nothing ever came.
struct LinkLossNote {
    int controller = 0;
    base::Nanoseconds time{};
    std::string text;    ///< "the link to 'press' was lost at 3.200 s for 0.620 s"
    bool meant = false;  ///< A person had put a fault on the link.
};
/// In order of controllers, then of time.
std::vector<LinkLossNote> link_losses(const Session& session);
/// Whether any of them was not meant.
bool link_lost_by_itself(const Session& session);

}  // namespace vyard::session
