// Tokens of the textual language, and of procedures, which borrow its expressions.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/types.hpp"

namespace vyard::logic {

/// A place inside one source: 1-based line and column, length in bytes.
struct Span {
    int line = 0;
    int column = 0;
    int length = 1;
};

/// Bytes [begin, end) of one source.
struct Extent {
    std::uint32_t begin = 0, end = 0;

    bool empty() const { return begin == end; }
    std::string_view of(const base::SourceText& source) const {
        return std::string_view(source.text).substr(begin, end - begin);
    }
};

inline base::Place place_in(const base::SourcePtr& source, Span span) {
    return {source, span.line, span.column, span.length};
}

enum class TokenKind : std::uint8_t {
    End,
    Identifier,  ///< Keywords too; the parser compares their folded text.
    Integer,
    Real,
    Time,           ///< Durations, dates, times of day; `type` says which.
    Text,           ///< '...' or "..."
    TypedName,      ///< Colour#Red
    DirectAddress,  ///< %IX0.1
    Symbol,         ///< := => <> <= >= ** .. and single characters
    Drawing,        ///< From LADDER or FBD, alone on a line, to its END_; `text` is what stands between.
    Bad,            ///< Already reported.
};

struct Token {
    TokenKind kind = TokenKind::End;
    Span span;
    std::string_view text;               ///< As written; valid as long as the source.
    std::uint64_t integer = 0;           ///< Integer: magnitude. Time: nanoseconds (dates: since 1970).
    double real = 0.0;                   ///< Real.
    Elementary type = Elementary::None;  ///< Of a typed literal such as INT#5; None otherwise.
    bool negative = false;               ///< INT#-5, T#-2s.
};

/// Splits a source into tokens, the last of kind End. Comments are passed over. Reports what it cannot read and goes
/// on. Time and memory linear in the text.
std::vector<Token> tokenize(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// The comments of a source, marks and all, in order; those within drawings are not among them.
std::vector<Extent> comments_of(const base::SourcePtr& source);

/// The tokens of a piece of one line, `length` bytes from `offset` of the source, which stand at `line` and `column`.
std::vector<Token> tokenize_piece(const base::SourcePtr& source, std::size_t offset, std::size_t length, int line,
                                  int column, base::Diagnostics& diagnostics);

/// One line a token: "3:5 Identifier start_pb". For tests and people.
std::string tokens_text(const std::vector<Token>& tokens);

}  // namespace vyard::logic
