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

    /// A name with its parts and elements, "places[2].full", "status.%X3", or an address; "" when there is none.
    std::string name(base::Place& where) {
        where = place();
        const bool address = current().kind == TokenKind::DirectAddress;
        if (current().kind != TokenKind::Identifier && !address) return {};
        const std::size_t first = at++;
        const auto symbol = [&](std::size_t i, std::string_view text) {
            return tokens[i].kind == TokenKind::Symbol && tokens[i].text == text;
        };
        while (!done()) {
            const TokenKind next = tokens[std::min(at + 1, tokens.size() - 1)].kind;
            if (symbol(at, ".") && (next == TokenKind::Identifier || next == TokenKind::DirectAddress)) {
                at += 2;
                continue;
            }
            std::size_t close = at;
            if (symbol(at, "[")) {
                while (tokens[close].kind != TokenKind::End && !symbol(close, "]")) ++close;
            }
            if (close == at || tokens[close].kind == TokenKind::End) break;
            at = close + 1;
        }
        const Token& last = tokens[at - 1];
        where.length = last.span.column + last.span.length - where.column;
        return text(first, at);
    }
    /// As written, from one token up to another.
    std::string text(std::size_t first, std::size_t end) const {
        if (end <= first) return {};
        const auto begin = static_cast<std::size_t>(tokens[first].text.data() - source->text.data());
        const auto stop = static_cast<std::size_t>(tokens[end - 1].text.data() - source->text.data());
        return source->text.substr(begin, stop + tokens[end - 1].text.size() - begin);
    }
};

}  // namespace vyard::procedure
