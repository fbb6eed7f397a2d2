// A rung written as a line of text, which the formatter draws:
//
//     rung: (start_pb OR run) AND stop_pb AND NOT jam -> run, (S) seen
//
// Contacts are variables joined by AND (&), OR and NOT with brackets, comparisons, and P(x) and N(x) for rising and
// falling edges. NOT of brackets is drawn as the contacts that mean it. Behind the arrow stand coils, with their mark
// where it is not a plain one, >>LABEL and <RETURN>.
#pragma once

#include <optional>

#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

/// Whether a row of a drawing is such a line.
bool is_rung_line(const std::string& row);

/// Fills the elements and nets of `out`; false after a report. `row`: the line from its word `rung` on, at row
/// `number` of the drawing.
bool read_rung_line(const DrawnText& row, int number, Network& out, const base::SourcePtr& source,
                    base::Diagnostics& diagnostics);

}  // namespace vyard::logic
