// A stimulus table: columns time, tag, value, in a header line of any order. Each value is written once, just before
// the first scan that starts at or after its time. A time is in seconds, or a quantity with its unit ("250 ms"); a
// value is what its tag's type takes: TRUE, 0, 3.5, T#2s, or a text.
#pragma once

#include "core/session/session.hpp"

namespace vyard::files {

/// Reads the rows into the controllers' models, in order of time (rows of one time in the order of the file).
void read_stimulus(const base::SourcePtr& source, session::SessionModel& model, base::Diagnostics& diagnostics);

}  // namespace vyard::files
