// What the order readers share: one line of tokens and where the reader stands in it. Internal to this room.
#pragma once

#include <fmt/format.h>

#include <algorithm>

#include "core/procedure/orders.hpp"

namespace vyard::procedure {

using base::Code;
using base::Dimension;
using logic::Elementary;
using logic::Token;
using logic::TokenKind;

struct OrderReader::Line {
    const base::SourcePtr& source;
    const std::vector<Token>& tokens;
    std::size_t at = 0;

    const Token& current() const { return tokens[at]; }
    bool done() const { return current().kind == TokenKind::End; }
    base::Place place() const { return logic::place_in(source, current().span); }
    bool is_word(std::string_view word) const {
        return current().kind == TokenKind::Identifier && base::fold(current().text) == word;
    }
    bool accept(std::string_view word) {
        if (!is_word(word)) return false;
        ++at;
        return true;
    }
    bool accept_symbol(std::string_view symbol) {
        if (current().kind != TokenKind::Symbol || current().text != symbol) return false;
        ++at;
        return true;
    }
    bool is_number() const {
        return current().kind == TokenKind::Integer || current().kind == TokenKind::Real ||
               (current().kind == TokenKind::Symbol && current().text == "-");
    }
    std::string found() const { return done() ? "the end of the line" : fmt::format("'{}'", current().text); }

    /// A dotted name; "" when there is none.
    std::string name(base::Place& where) {
        where = place();
        if (current().kind != TokenKind::Identifier) return {};
        std::string out(current().text);
        ++at;
        while (current().kind == TokenKind::Symbol && current().text == "." &&
               tokens[at + 1].kind == TokenKind::Identifier) {
            out += '.';
            out += tokens[at + 1].text;
            at += 2;
        }
        const Token& last = tokens[at - 1];
        where.length = last.span.column + last.span.length - where.column;
        return out;
    }
};

}  // namespace vyard::procedure
