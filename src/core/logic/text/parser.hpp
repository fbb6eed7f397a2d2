// Recursive descent over the tokens of one file. Reports every mistake it can tell apart, skips to the next
// statement or declaration, and goes on. Nesting is bounded (kMaxDepth), so no input can exhaust the stack.
#pragma once

#include "core/logic/text/syntax.hpp"

namespace vyard::logic {

constexpr int kMaxDepth = 200;  ///< Deeper nesting is refused; real logic stays below 20.

SyntaxFile parse_file(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// Parses one expression from `tokens[at...]`, leaving `at` behind it. For procedures, whose conditions are
/// expressions; `units` lets numbers carry one. Null when there is none (reported).
ExpressionPtr parse_expression(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                               base::Diagnostics& diagnostics, bool units = false);

}  // namespace vyard::logic
