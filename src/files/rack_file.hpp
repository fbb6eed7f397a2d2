// [[controller.NAME.module]]: the modules of a controller's rack.
#pragma once

#include <vector>

#include "core/wiring/wiring.hpp"
#include "files/toml_source.hpp"

namespace vyard::files {

/// Appends to `rack`; what is wrong is reported, and such a module left out.
void read_modules(const base::SourcePtr& source, const toml::node& node, int controller,
                  std::vector<wiring::Module>& rack, base::Diagnostics& diagnostics);

}  // namespace vyard::files
