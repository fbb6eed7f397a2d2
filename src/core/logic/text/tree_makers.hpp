// Small trees, for what becomes statements without having been written as such: charts, drawings, edges.
#pragma once

#include "core/logic/text/syntax.hpp"

namespace vyard::logic::tree {

ExpressionPtr name(const std::string& text, Span span);
ExpressionPtr member(ExpressionPtr of, std::string part, Span span);
ExpressionPtr member(const std::string& of, std::string part, Span span);
ExpressionPtr truth(bool value, Span span);
bool is_true(const Expression& e);  ///< The literal TRUE.
/// `left op right`; `right` alone where there is no left.
ExpressionPtr join(Operator op, ExpressionPtr left, ExpressionPtr right);
ExpressionPtr negation(ExpressionPtr operand);
Argument argument(std::string input, ExpressionPtr value);
ExpressionPtr call_expression(ExpressionPtr callee, std::vector<Argument> arguments, Span span);

Statement assignment(ExpressionPtr target, ExpressionPtr value);
Statement when(ExpressionPtr condition, StatementList body);
Statement call(ExpressionPtr instance, std::vector<Argument> arguments, Span span);

/// A variable of a named type, for everyone to read.
Declaration variable(const std::string& name, const std::string& type, Span span);

}  // namespace vyard::logic::tree
