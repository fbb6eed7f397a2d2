// Which program units of a yard's logic a command is to show.
#pragma once

#include "figures/logic_figure.hpp"

namespace vyard::cli {

/// The units that people call so, divided by commas; for "" all, or all in which something is drawn when
/// `drawn_by_default`. Null after a report.
std::optional<std::vector<figures::LogicUnit>> units_for(const session::SessionModel& model, const std::string& wanted,
                                                         bool drawn_by_default);

}  // namespace vyard::cli
