// A stand-in for a controller: executes its logic and speaks for it over its link, as the real one will.
#pragma once

#include <functional>
#include <string>

#include "core/session/session.hpp"

namespace vyard::link {

struct StandInFigures {
    std::uint64_t scans = 0, connections = 0;
    std::uint64_t asked = 0;  ///< Requests to other controllers.
    std::string problem;      ///< Why it ended; "" when it was asked to.
};

/// `model`: a controller with its logic, and the link that the plant has to it. Runs until `ended` says so, in the
/// plant's steps where the link is locked, else by the clock. A count of 1 or 2 starts the logic anew, from power-up.
StandInFigures stand_in(const controller::ControllerModel& model, const std::function<bool()>& ended);

}  // namespace vyard::link
