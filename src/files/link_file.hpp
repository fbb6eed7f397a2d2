// [controller.NAME.link] of a yard: a controller's link to others.
#pragma once

#include "core/session/session.hpp"
#include "files/toml_source.hpp"

namespace vyard::files {

/// `name` is the controller's. The key stand_in is read by whoever reads logic. What is wrong is reported and left as
/// it is by default: the controller has a link all the same, so that nothing else is blamed for it.
session::LinkDefinition read_link(const base::SourcePtr& source, const std::string& name, const toml::table& table,
                                  base::Diagnostics& diagnostics);

/// "127.0.0.1:1502", "[::1]:1502", "1502", "plc.local"; false with what was expected in `why`.
bool read_endpoint(std::string_view text, std::string& host, int& port, std::string& why);

}  // namespace vyard::files
