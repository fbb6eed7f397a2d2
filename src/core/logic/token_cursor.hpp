// Where a parser stands in its tokens, how it reports, and how it finds its way back after a mistake. Internal to
// logic.
#pragma once

#include <fmt/format.h>

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/logic/parser.hpp"

namespace vyard::logic {

/// Words that cannot name a variable (IEC 61131-3 table 5); folded.
bool is_reserved(const std::string& folded);

class TokenCursor {
  public:
    TokenCursor(const base::SourcePtr& source, const std::vector<Token>& tokens, std::size_t at,
                base::Diagnostics& diagnostics)
        : source_(source), tokens_(tokens), at_(at), diagnostics_(diagnostics) {}

    std::size_t position() const { return at_; }

  protected:
    // --- tokens ---
    const Token& current() const { return tokens_[at_]; }
    const Token& previous() const { return tokens_[at_ > 0 ? at_ - 1 : 0]; }
    bool at_end() const { return current().kind == TokenKind::End; }
    void skip() {
        if (!at_end()) ++at_;
    }
    bool is_symbol(std::string_view s) const { return current().kind == TokenKind::Symbol && current().text == s; }
    bool is_word(std::string_view folded) const {
        return current().kind == TokenKind::Identifier && current().text.size() == folded.size() &&
               base::fold(current().text) == folded;
    }
    bool accept(std::string_view s) {
        if (!is_symbol(s)) return false;
        ++at_;
        return true;
    }
    bool accept_word(std::string_view folded) {
        if (!is_word(folded)) return false;
        ++at_;
        return true;
    }

    std::string found_text() const {
        if (at_end()) return "the end of the text";
        return fmt::format("'{}'", current().text);
    }
    void error(base::Code code, Span span, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place_in(source_, span), std::move(message), std::move(hint));
    }
    void error_here(std::string message, std::string hint = {}) {
        if (current().kind == TokenKind::Bad) return;  // the lexer has said it
        error(base::Code::Syntax, current().span, std::move(message), std::move(hint));
    }
    /// The place right behind the last token: where a missing ';' belongs.
    Span behind_previous() const {
        const Span s = previous().span;
        return {s.line, s.column + s.length, 1};
    }

    bool expect(std::string_view symbol) {
        if (accept(symbol)) return true;
        error_here(fmt::format("expected '{}', found {}", symbol, found_text()));
        return false;
    }
    bool expect_word(std::string_view folded) {
        if (accept_word(folded)) return true;
        std::string upper(folded);
        for (char& c : upper) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
        error_here(fmt::format("expected {}, found {}", upper, found_text()));
        return false;
    }
    void expect_semicolon() {
        if (accept(";")) {
            while (accept(";")) {
            }
            return;
        }
        const bool starts_statement =
            current().kind == TokenKind::Identifier && current().span.line > previous().span.line;
        if (starts_statement || at_end() || is_statement_end()) {
            error(base::Code::Syntax, behind_previous(), "expected ';' at the end of the statement");
            return;
        }
        error_here(fmt::format("expected ';', found {}", found_text()),
                   is_symbol("=") ? "an assignment is written ':='" : "");
        synchronize();
    }
    bool is_statement_end() const {
        static constexpr std::array<std::string_view, 12> kEnds = {
            "end_if", "elsif",      "else",        "end_case",           "end_for", "end_while",
            "until",  "end_repeat", "end_program", "end_function_block", "program", "function_block"};
        if (current().kind != TokenKind::Identifier) return false;
        const std::string word = base::fold(current().text);
        for (const auto end : kEnds) {
            if (word == end) return true;
        }
        return false;
    }
    /// Skips to behind the next ';', or to a word that starts or ends a statement on a later line.
    void synchronize() {
        const int line = current().span.line;
        while (!at_end()) {
            if (accept(";")) return;
            if (is_statement_end()) return;
            if (current().span.line > line &&
                (is_word("if") || is_word("case") || is_word("for") || is_word("while") || is_word("repeat")))
                return;
            ++at_;
        }
    }

    struct DepthGuard {
        int& depth;
        explicit DepthGuard(int& d) : depth(d) { ++depth; }
        ~DepthGuard() { --depth; }
        DepthGuard(const DepthGuard&) = delete;
        DepthGuard& operator=(const DepthGuard&) = delete;
    };
    bool too_deep(Span span) {
        if (depth_ < kMaxDepth) return false;
        if (!depth_reported_)
            error(base::Code::TooDeep, span, fmt::format("nested more than {} deep", kMaxDepth),
                  "split it into several statements");
        depth_reported_ = true;
        return true;
    }

    const base::SourcePtr& source_;
    const std::vector<Token>& tokens_;
    std::size_t at_;
    base::Diagnostics& diagnostics_;
    int depth_ = 0;
    bool depth_reported_ = false;
};

/// Expressions and names; the base of the parser of files.
class ExpressionParser : public TokenCursor {
  public:
    using TokenCursor::TokenCursor;

    ExpressionPtr expression() { return binary(0); }

  protected:
    // --- expressions, by the precedence of IEC 61131-3 table 71 ---
    struct Level {
        std::array<std::pair<std::string_view, Operator>, 4> operators;
        int count;
    };
    static constexpr int kAdditive = 5;
    static constexpr std::array<Level, 7> kLevels = {{
        {{{{"or", Operator::Or}}}, 1},
        {{{{"xor", Operator::Xor}}}, 1},
        {{{{"and", Operator::And}, {"&", Operator::And}}}, 2},
        {{{{"=", Operator::Equal}, {"<>", Operator::NotEqual}}}, 2},
        {{{{"<", Operator::Less},
           {"<=", Operator::LessEqual},
           {">", Operator::Greater},
           {">=", Operator::GreaterEqual}}},
         4},
        {{{{"+", Operator::Add}, {"-", Operator::Subtract}}}, 2},
        {{{{"*", Operator::Multiply}, {"/", Operator::Divide}, {"mod", Operator::Modulo}}}, 3},
    }};

    static constexpr int kMaxChain = 1000;  ///< Operands of one expression without parentheses.

    ExpressionPtr binary(int level);
    ExpressionPtr unary();
    ExpressionPtr primary();

  private:
    std::optional<Operator> operator_at(int level) const;
    ExpressionPtr name_or_call(ExpressionPtr node);
    bool argument(Expression& call);
};

}  // namespace vyard::logic
