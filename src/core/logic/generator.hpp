// From checked logic to a program: memory laid out, code written. Reports nothing; what reaches it is right.
//
// Each block instance gets code of its own with absolute addresses: all instances are known, none is made at run
// time, and no operand then needs a base added. The cost is code size: blocks x instances.
#pragma once

#include "core/logic/checker.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

Program generate(const CheckedLogic& logic);

/// The variables alone, with code that does nothing; for logic with errors.
Program declare(const CheckedLogic& logic);

}  // namespace vyard::logic
