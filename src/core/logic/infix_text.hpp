// Checked expressions in the words of the language.
#pragma once

#include <string>

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

/// An expression as a person writes it: `a AND NOT (b OR c > 5)`.
std::string infix_text(const Expression& expression);

/// How strongly its operator binds: OR 1 ... NOT 9; 10 of what needs no brackets (IEC 61131-3, table 71).
int precedence(const Expression& expression);

/// Without the conversions that nobody wrote.
const Expression& written(const Expression& expression);

}  // namespace vyard::logic
