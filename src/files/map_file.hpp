// map.csv: which tag is joined to which point. A header line, then columns tag, point, scaling, note in any order.
#pragma once

#include "core/wiring/wiring.hpp"

namespace vyard::files {

std::vector<wiring::MapRow> read_map(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::files
