// Expressions: precedence climbing over a table of levels.
#include <set>

#include "core/logic/token_cursor.hpp"

namespace vyard::logic {

using base::Code;

namespace {

void fill_literal(Expression& node, const Token& t) {
    node.integer = t.integer;
    node.real = t.real;
    node.negative = t.negative;
    if (t.type != Elementary::None) {
        node.type.elementary = t.type;
    } else {
        node.type.elementary = t.kind == TokenKind::Real ? Elementary::AnyReal : Elementary::AnyInt;
    }
}

}  // namespace

bool is_reserved(const std::string& folded) {
    static const std::set<std::string> words = {"if",
                                                "then",
                                                "elsif",
                                                "else",
                                                "end_if",
                                                "case",
                                                "of",
                                                "end_case",
                                                "for",
                                                "to",
                                                "by",
                                                "do",
                                                "end_for",
                                                "while",
                                                "end_while",
                                                "repeat",
                                                "until",
                                                "end_repeat",
                                                "exit",
                                                "return",
                                                "var",
                                                "end_var",
                                                "var_input",
                                                "var_output",
                                                "var_global",
                                                "var_external",
                                                "program",
                                                "end_program",
                                                "function_block",
                                                "end_function_block",
                                                "and",
                                                "or",
                                                "xor",
                                                "not",
                                                "mod",
                                                "true",
                                                "false",
                                                "continue",
                                                "constant",
                                                "retain",
                                                "at"};
    return words.contains(folded);
}

std::optional<Operator> ExpressionParser::operator_at(int level) const {
    const Token& t = current();
    if (t.kind != TokenKind::Symbol && t.kind != TokenKind::Identifier) return std::nullopt;
    const Level& l = kLevels[static_cast<std::size_t>(level)];
    for (int i = 0; i < l.count; ++i) {
        const auto& [text, op] = l.operators[static_cast<std::size_t>(i)];
        if (t.kind == TokenKind::Symbol ? t.text == text : is_word(text)) return op;
    }
    return std::nullopt;
}

ExpressionPtr ExpressionParser::binary(int level) {
    if (level == static_cast<int>(kLevels.size())) return unary();
    const DepthGuard guard(depth_);
    if (too_deep(current().span)) return nullptr;
    --depth_;  // one level of nesting is counted in primary(), not once per precedence level
    ExpressionPtr left = binary(level + 1);
    int chain = 0;
    while (left) {
        const auto op = operator_at(level);
        if (!op) break;
        auto node = std::make_unique<Expression>();
        node->kind = ExpressionKind::Binary;
        node->op = *op;
        node->span = current().span;
        ++at_;
        ExpressionPtr right = binary(level + 1);
        if (!right || ++chain > kMaxChain) {
            if (right)
                error(Code::TooDeep, node->span, fmt::format("more than {} operands in one expression", kMaxChain),
                      "split it into several statements");
            left = nullptr;
            break;
        }
        node->operands.push_back(std::move(left));
        node->operands.push_back(std::move(right));
        left = std::move(node);
    }
    ++depth_;
    return left;
}

ExpressionPtr ExpressionParser::unary() {
    const Span span = current().span;
    if (is_symbol("-") || is_symbol("+") || is_word("not")) {
        const DepthGuard guard(depth_);
        if (too_deep(span)) return nullptr;
        const bool negate = is_symbol("-");
        const bool plus = is_symbol("+");
        ++at_;
        ExpressionPtr operand = unary();
        if (!operand || plus) return operand;
        if (negate && operand->kind == ExpressionKind::Literal && !operand->type.is(Elementary::Bool)) {
            operand->negative = !operand->negative;
            operand->real = -operand->real;
            operand->span = {span.line, span.column, operand->span.column + operand->span.length - span.column};
            return operand;
        }
        auto node = std::make_unique<Expression>();
        node->kind = ExpressionKind::Unary;
        node->op = negate ? Operator::Negate : Operator::Not;
        node->span = span;
        node->operands.push_back(std::move(operand));
        return node;
    }
    return primary();
}

ExpressionPtr ExpressionParser::primary() {
    const DepthGuard guard(depth_);
    if (too_deep(current().span)) return nullptr;
    const Token& t = current();
    auto node = std::make_unique<Expression>();
    node->span = t.span;
    switch (t.kind) {
        case TokenKind::Integer:
        case TokenKind::Real:
        case TokenKind::Time:
            fill_literal(*node, t);
            ++at_;
            return node;
        case TokenKind::DirectAddress:
            node->kind = ExpressionKind::Direct;
            node->name = std::string(t.text);
            ++at_;
            return node;
        case TokenKind::Text:
            error(Code::NotSupported, t.span, "texts are not supported by this version");
            ++at_;
            return nullptr;
        case TokenKind::Symbol:
            if (accept("(")) {
                ExpressionPtr inner = expression();
                if (inner && !expect(")")) return nullptr;
                return inner;
            }
            break;
        case TokenKind::Identifier:
            if (is_word("true") || is_word("false")) {
                node->type.elementary = Elementary::Bool;
                node->integer = is_word("true") ? 1 : 0;
                ++at_;
                return node;
            }
            if (!is_reserved(base::fold(t.text))) return name_or_call(std::move(node));
            break;
        default: break;
    }
    error_here(fmt::format("expected a value, found {}", found_text()));
    return nullptr;
}

ExpressionPtr ExpressionParser::name_or_call(ExpressionPtr node) {
    node->kind = ExpressionKind::Name;
    node->name = std::string(current().text);
    ++at_;
    while (is_symbol(".")) {
        ++at_;
        const Token& part = current();
        if (part.kind != TokenKind::Identifier) {
            error_here(fmt::format("expected a name after '.', found {}", found_text()));
            return nullptr;
        }
        node->name += '.';
        node->name += part.text;
        ++at_;
    }
    node->span.length = previous().span.column + previous().span.length - node->span.column;
    if (is_symbol("[") || is_symbol("^")) {
        error(Code::NotSupported, current().span,
              is_symbol("[") ? "arrays are not supported by this version"
                             : "references are not supported by this version");
        return nullptr;
    }
    if (!accept("(")) return node;
    node->kind = ExpressionKind::Call;
    if (accept(")")) return node;
    do {
        if (!argument(*node)) return nullptr;
    } while (accept(","));
    if (!expect(")")) return nullptr;
    return node;
}

bool ExpressionParser::argument(Expression& call) {
    Argument a;
    a.span = current().span;
    const bool named = current().kind == TokenKind::Identifier && at_ + 1 < tokens_.size() &&
                       tokens_[at_ + 1].kind == TokenKind::Symbol &&
                       (tokens_[at_ + 1].text == ":=" || tokens_[at_ + 1].text == "=>");
    if (named) {
        a.name = std::string(current().text);
        a.output = tokens_[at_ + 1].text == "=>";
        at_ += 2;
    }
    a.value = expression();
    if (!a.value) return false;
    call.arguments.push_back(std::move(a));
    return true;
}

ExpressionPtr parse_expression(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                               base::Diagnostics& diagnostics) {
    ExpressionParser parser(source, tokens, at, diagnostics);
    ExpressionPtr out = parser.expression();
    at = parser.position();
    return out;
}

}  // namespace vyard::logic
