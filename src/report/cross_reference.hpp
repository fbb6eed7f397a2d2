// Everything that is known of one tag or address: declaration, joins, jumpers, what shares its bits, uses.
#pragma once

#include <string>

#include "core/session/session.hpp"

namespace vyard::report {

/// `name` is a tag, a part of one ("status.%X3"), an address ("%QD2") or one of these behind "CONTROLLER."; all that
/// bear it are told, one after the other. "" when there is none.
std::string cross_reference(const session::Session& session, const std::string& name);

}  // namespace vyard::report
