// Expressions: precedence climbing over a table of levels.
#include <algorithm>
#include <cctype>
#include <unordered_set>

#include "core/logic/text/parsers.hpp"

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
    // clang-format off
    static const std::unordered_set<std::string> words = {
        "if", "then", "elsif", "else", "end_if", "case", "of", "end_case", "for", "to", "by", "do", "end_for", "while",
        "end_while", "repeat", "until", "end_repeat", "exit", "return", "var", "end_var", "var_input", "var_output",
        "var_in_out", "var_temp", "var_global", "var_external", "var_config", "var_access", "program", "end_program",
        "function_block", "end_function_block", "function", "end_function", "method", "end_method", "class",
        "end_class", "interface", "end_interface", "namespace", "end_namespace", "using", "configuration",
        "end_configuration", "end_resource", "type", "end_type", "struct", "end_struct", "array", "ref_to", "null",
        "this", "super", "and", "or", "xor", "not", "mod", "true", "false", "continue", "constant", "retain",
        "non_retain", "at", "initial_step", "end_step", "end_transition", "end_action"};
    // clang-format on
    return words.contains(folded);
}

bool TokenCursor::is_statement_end() const {
    // clang-format off
    static const std::unordered_set<std::string_view> ends = {
        "end_if", "elsif", "else", "end_case", "end_for", "end_while", "until", "end_repeat", "end_program",
        "end_function_block", "end_function", "end_method", "end_class", "end_interface", "end_action", "end_step",
        "end_transition", "end_namespace", "end_configuration", "end_type", "program", "function_block", "function",
        "method"};
    // clang-format on
    if (current().kind != TokenKind::Identifier) return false;
    const char first = current().text[0];
    if ((first | 0x20) != 'e' && (first | 0x20) != 'u' && (first | 0x20) != 'p' && (first | 0x20) != 'f' &&
        (first | 0x20) != 'm')
        return false;
    return ends.contains(base::fold(current().text));
}

std::optional<std::string> ExpressionParser::identifier(const char* what) {
    if (current().kind == TokenKind::Identifier && !is_reserved(base::fold(current().text))) {
        return std::string(tokens_[at_++].text);
    }
    error_here(fmt::format("expected {}, found {}", what, found_text()),
               current().kind == TokenKind::Identifier ? "this word is reserved" : "");
    return std::nullopt;
}

std::optional<std::string> ExpressionParser::dotted(const char* what) {
    auto name = identifier(what);
    while (name && accept(".")) {
        const auto next = identifier("a name after '.'");
        if (!next) return std::nullopt;
        *name += "." + *next;
    }
    return name;
}

std::optional<Operator> ExpressionParser::operator_at(int level) const {
    const Token& t = current();
    if (t.kind != TokenKind::Symbol && t.kind != TokenKind::Identifier) return std::nullopt;
    const Level& l = base::at(kLevels, level);
    for (int i = 0; i < l.count; ++i) {
        const auto& [text, op] = base::at(l.operators, i);
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
            if (units_ && t.kind != TokenKind::Time && t.type == Elementary::None) unit(*node);
            return node;
        case TokenKind::DirectAddress:
            node->kind = ExpressionKind::Direct;
            node->name = std::string(t.text);
            ++at_;
            return node;
        case TokenKind::Text: return text();
        case TokenKind::TypedName: {
            const std::size_t mark = t.text.find('#');
            node->kind = ExpressionKind::TypedName;
            node->type_prefix = std::string(t.text.substr(0, mark));
            node->name = std::string(t.text.substr(mark + 1));
            ++at_;
            return node;
        }
        case TokenKind::Symbol:
            if (accept("(")) {
                ExpressionPtr inner = expression();
                if (inner && !expect(")")) return nullptr;
                return inner ? postfix(std::move(inner)) : nullptr;
            }
            break;
        case TokenKind::Identifier: return name();
        default: break;
    }
    error_here(fmt::format("expected a value, found {}", found_text()));
    return nullptr;
}

/// The unit behind a number, if one stands there; the number is then in SI.
void ExpressionParser::unit(Expression& literal) {
    const Token& first = current();
    const bool percent = first.kind == TokenKind::DirectAddress && first.text == "%";
    if (first.kind != TokenKind::Identifier && !percent) return;
    std::size_t tokens = 1;
    std::optional<base::UnitReading> found;
    if (symbol_at(at_ + 1, "/") && tokens_[at_ + 2].kind == TokenKind::Identifier) {
        found = base::find_unit(std::string(first.text) + "/" + std::string(tokens_[at_ + 2].text));
        tokens = found ? 3 : 1;
    }
    if (!found) found = base::find_unit(first.text);
    if (!found) return;
    const double number = literal.type.is(Elementary::AnyReal) ? literal.real : static_cast<double>(literal.integer);
    literal.real = number * found->si_factor;
    literal.unit = found->dimension;
    literal.type = {Elementary::Lreal, -1};
    at_ += tokens;
    const Span& last = tokens_[at_ - 1].span;
    if (last.line == literal.span.line) literal.span.length = last.column + last.length - literal.span.column;
}

namespace {

void append_utf8(std::string& out, std::uint32_t code) {
    const auto byte = [&](std::uint32_t b) { out += static_cast<char>(b); };
    if (code < 0x80) {
        byte(code);
    } else if (code < 0x800) {
        byte(0xC0 | (code >> 6));
        byte(0x80 | (code & 0x3F));
    } else {
        byte(0xE0 | (code >> 12));
        byte(0x80 | ((code >> 6) & 0x3F));
        byte(0x80 | (code & 0x3F));
    }
}

/// Decodes the `$` escapes (IEC 61131-3 table 6): $$ $' $" $L $N $P $R $T and $hh (or $hhhh in "..."). False when one
/// is wrong.
bool decode_text(std::string_view raw, bool wide, std::string& out) {
    for (std::size_t i = 0; i < raw.size(); ++i) {
        if (raw[i] != '$') {
            out += raw[i];
            continue;
        }
        if (++i >= raw.size()) return false;
        switch (raw[i]) {
            case '$':
            case '\'':
            case '"': out += raw[i]; continue;
            case 'L':
            case 'l':
            case 'N':
            case 'n': out += '\n'; continue;
            case 'P':
            case 'p': out += '\f'; continue;
            case 'R':
            case 'r': out += '\r'; continue;
            case 'T':
            case 't': out += '\t'; continue;
            default: break;
        }
        const std::size_t digits = wide ? 4 : 2;
        std::uint32_t code = 0;
        for (std::size_t d = 0; d < digits; ++d, ++i) {
            if (i >= raw.size() || std::isxdigit(static_cast<unsigned char>(raw[i])) == 0) return false;
            const char c = raw[i];
            code = code * 16 + static_cast<std::uint32_t>(c <= '9' ? c - '0' : (c | 0x20) - 'a' + 10);
        }
        --i;
        if (wide) {
            append_utf8(out, code);
        } else {
            out += static_cast<char>(code);
        }
    }
    return true;
}

/// UTF-16 units of UTF-8 bytes.
int wide_length(std::string_view bytes) {
    int units = 0;
    for (const char c : bytes) {
        const auto b = static_cast<unsigned char>(c);
        if ((b & 0xC0U) != 0x80U) units += b >= 0xF0U ? 2 : 1;
    }
    return units;
}

}  // namespace

ExpressionPtr ExpressionParser::text() {
    const Token& t = current();
    auto node = std::make_unique<Expression>();
    node->span = t.span;
    node->kind = ExpressionKind::Text;
    std::string_view raw = t.text;
    const std::size_t mark = raw.find_first_of("'\"");
    const bool wide = raw[mark] == '"';
    raw = raw.substr(mark + 1, raw.size() - mark - 2);
    if (!decode_text(raw, wide, node->name)) {
        error(Code::Syntax, t.span, "this string holds a '$' that starts no escape",
              wide ? "known: $$ $\" $L $N $P $R $T and $ with four hexadecimal digits"
                   : "known: $$ $' $L $N $P $R $T and $ with two hexadecimal digits");
    }
    const int length = wide ? wide_length(node->name) : static_cast<int>(node->name.size());
    if (length > kMaxCapacity)
        error(Code::TooDeep, t.span, fmt::format("this string is longer than {} characters", kMaxCapacity));
    node->type = {wide ? Elementary::Wstring : Elementary::String, std::min(length, kMaxCapacity)};
    if (is_character(t.type)) node->type.elementary = t.type;
    ++at_;
    return node;
}

ExpressionPtr ExpressionParser::name() {
    const Token& t = current();
    auto node = std::make_unique<Expression>();
    node->span = t.span;
    if (is_word("true") || is_word("false")) {
        node->type.elementary = Elementary::Bool;
        node->integer = is_word("true") ? 1 : 0;
        ++at_;
        return node;
    }
    if (is_word("null")) {
        node->kind = ExpressionKind::Null;
        node->type.elementary = Elementary::Null;
        ++at_;
        return node;
    }
    const bool function_of_operator =
        (is_word("and") || is_word("or") || is_word("xor") || is_word("mod")) && symbol_at(at_ + 1, "(");
    if (is_word("this")) {
        node->kind = ExpressionKind::This;
    } else if (is_word("super")) {
        node->kind = ExpressionKind::Super;
    } else if (is_reserved(base::fold(t.text)) && !function_of_operator) {
        error_here(fmt::format("expected a value, found {}", found_text()));
        return nullptr;
    } else {
        node->kind = ExpressionKind::Name;
        node->name = std::string(t.text);
    }
    ++at_;
    return postfix(std::move(node));
}

ExpressionPtr ExpressionParser::postfix(ExpressionPtr node) {
    const auto wrap = [&](ExpressionKind kind) {
        auto outer = std::make_unique<Expression>();
        outer->kind = kind;
        outer->span = node->span;
        outer->operands.push_back(std::move(node));
        node = std::move(outer);
    };
    const auto extend = [&] {
        if (previous().span.line == node->span.line)
            node->span.length = previous().span.column + previous().span.length - node->span.column;
    };
    int chain = 0;
    while (node && current().kind == TokenKind::Symbol) {
        if (++chain > kMaxChain / 4) {
            error(Code::TooDeep, current().span, fmt::format("more than {} parts in one name", kMaxChain / 4));
            return nullptr;
        }
        if (is_symbol(".")) {
            node = part(std::move(node));
            if (node) extend();
        } else if (is_symbol("[")) {
            wrap(ExpressionKind::Index);
            ++at_;
            do {
                ExpressionPtr index = expression();
                if (!index) return nullptr;
                node->operands.push_back(std::move(index));
            } while (accept(","));
            if (!expect("]")) return nullptr;
            extend();
        } else if (is_symbol("^")) {
            wrap(ExpressionKind::Dereference);
            ++at_;
            extend();
        } else if (is_symbol("(")) {
            node = call(std::move(node));
        } else {
            break;
        }
    }
    return node;
}

ExpressionPtr ExpressionParser::part(ExpressionPtr node) {
    ++at_;  // '.'
    const Token& t = current();
    auto outer = std::make_unique<Expression>();
    outer->span = node->span;
    if (t.kind == TokenKind::Identifier) {
        outer->kind = ExpressionKind::Member;
        outer->name = std::string(t.text);
    } else if (t.kind == TokenKind::DirectAddress || t.kind == TokenKind::Integer) {
        outer->kind = ExpressionKind::Partial;
        outer->name = t.kind == TokenKind::Integer ? "%X" + std::string(t.text) : std::string(t.text);
    } else {
        error_here(fmt::format("expected a name after '.', found {}", found_text()));
        return nullptr;
    }
    ++at_;
    outer->operands.push_back(std::move(node));
    return outer;
}

ExpressionPtr ExpressionParser::call(ExpressionPtr callee) {
    ++at_;  // '('
    auto node = std::make_unique<Expression>();
    node->kind = ExpressionKind::Call;
    node->span = callee->span;
    node->name = dotted_name(*callee);
    node->operands.push_back(std::move(callee));
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
    if (is_word("not") && at_ + 2 < tokens_.size() && tokens_[at_ + 1].kind == TokenKind::Identifier &&
        symbol_at(at_ + 2, "=>")) {
        a.negated = true;
        ++at_;
    }
    const bool named =
        current().kind == TokenKind::Identifier && (symbol_at(at_ + 1, ":=") || symbol_at(at_ + 1, "=>"));
    if (named) {
        a.name = std::string(current().text);
        a.output = tokens_[at_ + 1].text == "=>";
        at_ += 2;
        if (a.output && (is_symbol(",") || is_symbol(")"))) return true;  // Q => , the output is not wanted
    }
    a.value = expression();
    if (!a.value) return false;
    call.arguments.push_back(std::move(a));
    return true;
}

ExpressionPtr parse_expression(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t& at,
                               base::Diagnostics& diagnostics, bool units) {
    ExpressionParser parser(source, tokens, at, diagnostics);
    if (units) parser.accept_units();
    ExpressionPtr out = parser.expression();
    at = parser.position();
    return out;
}

}  // namespace vyard::logic
