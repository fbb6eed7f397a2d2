// map.csv: which tag is joined to which point. A header line, then columns tag, point, scaling, note, delay, when in
// any order; all but the first two may be missing.
#pragma once

#include "core/wiring/wiring.hpp"

namespace vyard::files {

std::vector<wiring::MapRow> read_map(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// A tag and a point that are to be joined.
struct NewRow {
    std::string tag, point, note;
};
/// The map's text with more rows at its end, in its own columns, separators and ends of lines.
std::string with_rows(const std::string& map_text, const std::vector<NewRow>& rows);

}  // namespace vyard::files
