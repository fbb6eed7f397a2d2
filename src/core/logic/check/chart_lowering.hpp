// Sequential function charts become variables and statements of the same unit, before anything is checked: a CHART_STEP
// instance for each step, an ACTION_CONTROL for each action, and a body that follows the rules of evolution
// (IEC 61131-3, 6.7.5 and 6.7.4.7).
#pragma once

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

/// The BOOL of a unit that is TRUE in the scans in which a transition of its chart fires; counted from 0.
std::string fired_name(std::size_t transition);

/// Does nothing to a unit without a chart.
void lower_chart(ProgramUnit& unit, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
