// Where a parser stands in its tokens, how it reports, and how it finds its way back after a mistake. Internal to
// logic.
#pragma once

#include <fmt/format.h>

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/logic/text/parser.hpp"

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
    bool is_word(std::string_view folded) const { return word_at(at_, folded); }
    bool word_at(std::size_t at, std::string_view folded) const {
        if (at >= tokens_.size()) return false;
        const Token& t = tokens_[at];
        if (t.kind != TokenKind::Identifier || t.text.size() != folded.size()) return false;
        for (std::size_t i = 0; i < folded.size(); ++i) {
            const char c = t.text[i];
            if ((c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c) != folded[i]) return false;
        }
        return true;
    }
    bool symbol_at(std::size_t at, std::string_view s) const {
        return at < tokens_.size() && tokens_[at].kind == TokenKind::Symbol && tokens_[at].text == s;
    }
    static std::string upper(std::string_view folded) {
        std::string out(folded);
        for (char& c : out) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
        return out;
    }
    std::uint32_t offset_of(const Token& t) const {
        return t.kind == TokenKind::End ? static_cast<std::uint32_t>(source_->text.size())
                                        : static_cast<std::uint32_t>(t.text.data() - source_->text.data());
    }
    /// From token `first` to the one read last.
    Extent from(std::size_t first) const {
        if (at_ <= first) return {};
        return {offset_of(tokens_[first]), offset_of(previous()) + static_cast<std::uint32_t>(previous().text.size())};
    }
    template <class Node>
    Node reaching(std::size_t first, Node node) const {
        if (node) node->written = from(first);
        return node;
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

    /// One turn of a loop over tokens: what reads nothing is stepped over, so that every loop ends.
    template <class F>
    void advancing(F&& turn) {
        const std::size_t before = at_;
        turn();
        if (at_ == before) skip();
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
        error_here(fmt::format("expected {}, found {}", upper(folded), found_text()));
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
    bool is_statement_end() const;
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

}  // namespace vyard::logic
