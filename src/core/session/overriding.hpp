// Values that replace what the files say, for one build, where they stand in a text: of CONSTANTs in the logic, of the
// ends of scalings in the map. The texts themselves are changed, in memory, so that all else is read as ever.
#pragma once

#include "core/session/build.hpp"

namespace vyard::session {

/// The sources of a controller with its CONSTANTs as the overrides have them; the same sources when none names one.
/// A CONSTANT of a block is that of all its instances. `used` marks the overrides that were taken or refused.
std::vector<base::SourcePtr> with_constants(const std::vector<base::SourcePtr>& sources, const logic::Program& program,
                                            const std::string& controller, const std::vector<Override>& overrides,
                                            std::vector<bool>& used, base::Diagnostics& diagnostics);

/// Rows of the map, with ends of scalings as overrides named "map.TAG.END" have them. Of "0 m..1 m -> 4000..20000" the
/// ends are point_low, point_high, tag_low, tag_high.
std::vector<wiring::MapRow> with_scalings(std::vector<wiring::MapRow> rows, const std::vector<Override>& overrides,
                                          std::vector<bool>& used, base::Diagnostics& diagnostics);

}  // namespace vyard::session
