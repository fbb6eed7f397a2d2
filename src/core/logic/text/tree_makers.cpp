#include "core/logic/text/tree_makers.hpp"

namespace vyard::logic::tree {

namespace {

ExpressionPtr expression(ExpressionKind kind, Span span) {
    auto e = std::make_unique<Expression>();
    e->kind = kind;
    e->span = span;
    return e;
}

}  // namespace

ExpressionPtr name(const std::string& text, Span span) {
    auto e = expression(ExpressionKind::Name, span);
    e->name = text;
    return e;
}

ExpressionPtr member(ExpressionPtr of, std::string part, Span span) {
    auto e = expression(ExpressionKind::Member, span);
    e->name = std::move(part);
    e->operands.push_back(std::move(of));
    return e;
}

ExpressionPtr member(const std::string& of, std::string part, Span span) {
    return member(name(of, span), std::move(part), span);
}

ExpressionPtr truth(bool value, Span span) {
    auto e = expression(ExpressionKind::Literal, span);
    e->type.elementary = Elementary::Bool;
    e->integer = value ? 1 : 0;
    return e;
}

bool is_true(const Expression& e) {
    return e.kind == ExpressionKind::Literal && e.type.is(Elementary::Bool) && e.integer != 0;
}

ExpressionPtr join(Operator op, ExpressionPtr left, ExpressionPtr right) {
    if (!left) return right;
    auto e = expression(ExpressionKind::Binary, right->span);
    e->op = op;
    e->operands.push_back(std::move(left));
    e->operands.push_back(std::move(right));
    return e;
}

ExpressionPtr negation(ExpressionPtr operand) {
    auto e = expression(ExpressionKind::Unary, operand->span);
    e->op = Operator::Not;
    e->operands.push_back(std::move(operand));
    return e;
}

Argument argument(std::string input, ExpressionPtr value) {
    Argument a;
    a.name = std::move(input);
    a.span = value->span;
    a.value = std::move(value);
    return a;
}

ExpressionPtr call_expression(ExpressionPtr callee, std::vector<Argument> arguments, Span span) {
    auto e = expression(ExpressionKind::Call, span);
    e->name = callee->name;
    e->operands.push_back(std::move(callee));
    e->arguments = std::move(arguments);
    return e;
}

Statement assignment(ExpressionPtr target, ExpressionPtr value) {
    Statement s;
    s.kind = StatementKind::Assign;
    s.span = target->span;
    s.target = std::move(target);
    s.value = std::move(value);
    return s;
}

Statement when(ExpressionPtr condition, StatementList body) {
    Statement s;
    s.kind = StatementKind::If;
    s.span = condition->span;
    Branch branch;
    branch.condition = std::move(condition);
    branch.body = std::move(body);
    s.branches.push_back(std::move(branch));
    return s;
}

Statement call(ExpressionPtr instance, std::vector<Argument> arguments, Span span) {
    Statement s;
    s.kind = StatementKind::Call;
    s.span = span;
    s.value = call_expression(std::move(instance), std::move(arguments), span);
    return s;
}

Declaration variable(const std::string& name, const std::string& type, Span span) {
    Declaration d;
    d.name = name;
    d.span = span;
    d.type = std::make_shared<TypeSpec>();
    d.type->name = type;
    d.type->span = span;
    d.access = Access::Public;
    return d;
}

}  // namespace vyard::logic::tree
