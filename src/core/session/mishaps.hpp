// The mishaps of a run, for verdicts, figures and the live session.
#pragma once

#include <string>
#include <vector>

#include "core/session/session_state.hpp"

namespace vyard::session {

/// One mishap of one device since the start of a run.
struct MishapNote {
    std::string name;           ///< "infeed.item_fell"
    std::string text;           ///< What happened, to which item, by which device.
    base::Nanoseconds first{};  ///< When it began, the first time.
    base::Nanoseconds last{};   ///< And the last time.
    std::uint32_t times = 0;
    double seconds = 0.0;  ///< How long it went on in all; 0 of what lasts no time.
    bool goes_on = false;
    std::string allowed;  ///< The yard's reason; "" where it is not allowed.
};

/// In the order of their first time.
std::vector<MishapNote> mishaps_of(const Session& session);
/// "infeed.item_fell at 12.345 s: an item fell off it to the floor: tile 4; 3 times" and, where the yard allows it,
/// why.
std::string mishap_line(const MishapNote& note);
/// How often mishaps began that are not allowed.
std::uint32_t mishaps_counted(const Session& session);

}  // namespace vyard::session
