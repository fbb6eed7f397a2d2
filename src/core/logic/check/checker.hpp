// From syntax trees to checked logic.
#pragma once

#include "core/logic/check/model.hpp"

namespace vyard::logic {

/// Checks the files of one controller together. The result is usable only if no error was reported.
CheckedLogic check_logic(std::vector<SyntaxFile> files, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
