// Drawn networks become statements of the unit they stand in, before anything is checked, so that one checker and one
// generator serve all forms of the language. Order of evaluation as docs/drawn-logic.md states it (IEC 61131-3, 8.1 to
// 8.3): what takes a value is computed from top to bottom and left to right, each after all that leads to it.
#pragma once

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

/// Reads and lowers every drawing of the files: bodies, actions and transitions of charts, methods.
void lower_drawings(std::vector<SyntaxFile>& files, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
