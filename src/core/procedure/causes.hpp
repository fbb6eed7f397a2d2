// Why a signal is as it is, back to its causes: from a tag to the contacts that hold it, from there to the inputs, and
// through the map to the devices, the defects on them and what was ordered. All of it is read from what was recorded.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/procedure/verdict.hpp"
#include "core/trace/trace.hpp"

namespace vyard::procedure {

struct Cause {
    std::string text;            ///< "line_run is FALSE since 12.310 s"
    std::vector<Cause> because;  ///< What holds it; empty where nothing is behind it that is known.
};

/// Of a signal of `session`, as people name it, with the trace of its run so far (of one without channels no times are
/// told), and what was ordered. A BOOL that is
/// FALSE has behind it the parts of its assignments that do not hold (see logic::Why); of other values, where they are
/// written. Each signal is explained once. Cost: the statements of the programs, for each signal on the way.
Cause cause_of(const session::Session& session, const trace::Trace& trace, const std::vector<Deed>& deeds,
               const std::string& name, const session::Signal& signal);

/// Of several; what was said of one is not said again of another.
std::vector<Cause> causes_of(const session::Session& session, const trace::Trace& trace, const std::vector<Deed>& deeds,
                             const std::vector<std::pair<std::string, session::Signal>>& signals);

/// When a signal took the value that it has at the end of a trace; null when it has had it from the start, or when the
/// trace does not hold it.
std::optional<base::Nanoseconds> changed_at(const trace::Trace& trace, const session::Signal& signal);

/// A line each, two blanks further in for what is behind another.
std::vector<std::string> lines_of(const Cause& cause);

}  // namespace vyard::procedure
