// From checked logic to a program: memory laid out, code written. Reports nothing; what reaches it is right.
//
//   memory: (8 unused bytes, so that no address is 0) areas, globals, program instances | frames, regions, scratch
//
// The code of a program instance has absolute operands. The code of a function block is written once for all its
// instances, with operands that count from the instance; see machine.cpp.
#pragma once

#include "core/logic/check/model.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

/// `coverage`: with marks (see logic::Coverage).
Program generate(const CheckedLogic& logic, bool coverage = false);

/// The variables alone, with code that does nothing; for logic with errors.
Program declare(const CheckedLogic& logic);

}  // namespace vyard::logic
