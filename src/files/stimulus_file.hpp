// A stimulus table: columns time, tag, value, expect, in a header line of any order; value or expect may be missing,
// and be empty in a row. Each value is written once, just before the first scan that starts at or after its time; what
// is expected is looked at after that scan. A time is in seconds, or a quantity with its unit ("250 ms"); a value is
// what its tag's type takes: TRUE, 0, 3.5, T#2s, or a text.
#pragma once

#include "core/session/session.hpp"

namespace vyard::files {

/// The rows in the order of the file; names and values are checked where the session is built.
std::vector<session::StimulusDefinition> read_stimulus(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::files
