// Where in the sources a variable is declared, and its initial value written.
#pragma once

#include "core/logic/program.hpp"
#include "core/logic/text/token.hpp"

namespace vyard::logic {

/// The text of the initial value of what is declared at `place` (see Variable::place). Empty when there is none, when
/// others have the same one ("a, b : INT := 5"), and of a program without its tree. Cost: the declarations of the file.
Extent initial_at(const Program& program, const base::Place& place);

}  // namespace vyard::logic
