#include <fmt/format.h>

#include <charconv>
#include <chrono>
#include <map>
#include <optional>
#include <set>

#include "core/logic/text/token.hpp"

namespace vyard::logic {

namespace {

using base::Code;

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}
bool is_letter(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
}
bool is_word(char c) {
    return is_letter(c) || is_digit(c);
}

int digit_value(char c) {
    if (is_digit(c)) return c - '0';
    if (c >= 'a' && c <= 'f') return c - 'a' + 10;
    if (c >= 'A' && c <= 'F') return c - 'A' + 10;
    return 99;
}

class Lexer {
  public:
    Lexer(const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : source_(source), text_(source->text), diagnostics_(diagnostics) {}
    /// Of a piece of one line.
    Lexer(const base::SourcePtr& source, std::size_t offset, std::size_t length, int line, int column,
          base::Diagnostics& diagnostics)
        : source_(source),
          text_(std::string_view(source->text).substr(0, offset + length)),
          diagnostics_(diagnostics),
          at_(offset),
          line_start_(offset + 1 - static_cast<std::size_t>(column)),
          line_(line) {}

    std::vector<Token> run() {
        if (at_ == 0 && text_.starts_with("\xEF\xBB\xBF")) at_ = line_start_ = 3;
        std::vector<Token> tokens;
        tokens.reserve(text_.size() / 5 + 1);
        for (;;) {
            skip_blank();
            if (at_ >= text_.size()) break;
            tokens.push_back(next());
        }
        tokens.push_back(Token{TokenKind::End, span_from(at_), text_.substr(text_.size()), 0, 0.0, {}, false});
        return tokens;
    }
    std::vector<Extent> comments() const { return comments_; }

  private:
    char peek(std::size_t ahead = 0) const { return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0'; }

    Span span_from(std::size_t start) const {
        const int length = static_cast<int>(at_ > start ? at_ - start : 1);
        return {line_, static_cast<int>(start - line_start_) + 1, length};
    }

    void error(std::size_t start, Code code, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place_in(source_, span_from(start)), std::move(message), std::move(hint));
    }

    void advance() {
        if (text_[at_] == '\n') {
            ++line_;
            line_start_ = at_ + 1;
        }
        ++at_;
    }

    void skip_blank() {
        while (at_ < text_.size()) {
            const char c = text_[at_];
            if (c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == '\f') {
                advance();
                continue;
            }
            const std::size_t start = at_;
            if (c == '/' && peek(1) == '/') {
                while (at_ < text_.size() && text_[at_] != '\n') ++at_;
            } else if (c == '(' && peek(1) == '*') {
                skip_comment("(*", "*)");
            } else if (c == '/' && peek(1) == '*') {
                skip_comment("/*", "*/");
            } else if (c == '{') {
                skip_comment("{", "}");  // a pragma means something to the tool it was written for
            } else {
                return;
            }
            comments_.push_back({static_cast<std::uint32_t>(start), static_cast<std::uint32_t>(at_)});
        }
    }

    /// Comments nest (IEC 61131-3 edition 3, 6.1.5).
    void skip_comment(std::string_view open, std::string_view close) {
        const Span begin{line_, static_cast<int>(at_ - line_start_) + 1, static_cast<int>(open.size())};
        int depth = 0;
        while (at_ < text_.size()) {
            if (text_.substr(at_, open.size()) == open) {
                ++depth;
                at_ += open.size();
            } else if (text_.substr(at_, close.size()) == close) {
                at_ += close.size();
                if (--depth == 0) return;
            } else {
                advance();
            }
        }
        diagnostics_.error(Code::Syntax, place_in(source_, begin),
                           open == "{" ? "this pragma is never closed" : "this comment is never closed",
                           fmt::format("close it with {}", close));
    }

    Token token(TokenKind kind, std::size_t start) const {
        return Token{kind, span_from(start), text_.substr(start, at_ - start), 0, 0.0, Elementary::None, false};
    }

    Token next() {
        const std::size_t start = at_;
        const char c = text_[at_];
        if (is_letter(c)) return word(start);
        if (is_digit(c)) return number(start, Elementary::None, false);
        if (c == '\'' || c == '"') return quoted(start, c);
        if (c == '%') return direct_address(start);
        return symbol(start);
    }

    /// The word at `start`, folded, if nothing else stands on its line; else "".
    std::string word_alone(std::size_t start) const {
        const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\r'; };
        for (std::size_t i = start; i > 0 && text_[i - 1] != '\n'; --i) {
            if (!blank(text_[i - 1])) return {};
        }
        std::size_t end = start;
        while (end < text_.size() && is_word(text_[end])) ++end;
        for (std::size_t i = end; i < text_.size() && text_[i] != '\n'; ++i) {
            if (!blank(text_[i])) return {};
        }
        return base::fold(text_.substr(start, end - start));
    }

    /// What is drawn from the line below `start` to the line of the word that ends it. A drawing that is never closed
    /// ends where its program unit does.
    Token drawing(std::size_t start, const std::string& word) {
        const Span span = span_from(start);
        while (at_ < text_.size() && text_[at_] != '\n') ++at_;
        if (at_ < text_.size()) advance();
        const std::size_t begin = at_;
        Token out = Token{TokenKind::Drawing, span, {}, 0, 0.0, Elementary::None, false};
        while (at_ < text_.size()) {
            std::size_t first = at_;
            while (first < text_.size() && (text_[first] == ' ' || text_[first] == '\t')) ++first;
            const std::string closing = first < text_.size() && is_letter(text_[first]) ? word_alone(first) : "";
            const bool closed = closing == "end_" + word;
            if (closed || (closing.starts_with("end_") && find_end_of_unit(closing)) || closing == "ladder" ||
                closing == "fbd") {
                out.text = text_.substr(begin, at_ - begin);
                if (closed) at_ = first + closing.size();
                if (!closed) never_closed(span, word);
                return out;
            }
            while (at_ < text_.size() && text_[at_] != '\n') ++at_;
            if (at_ < text_.size()) advance();
        }
        never_closed(span, word);
        out.text = text_.substr(begin);
        return out;
    }
    static bool find_end_of_unit(const std::string& word) {
        return word == "end_program" || word == "end_function_block" || word == "end_function" ||
               word == "end_method" || word == "end_action" || word == "end_transition" || word == "end_ladder" ||
               word == "end_fbd";
    }
    void never_closed(Span span, const std::string& word) {
        const std::string shown = word == "fbd" ? "FBD" : "LADDER";
        diagnostics_.error(Code::Syntax, place_in(source_, span), fmt::format("this {} is never closed", shown),
                           fmt::format("close it with END_{} on a line of its own", shown));
    }

    Token word(std::size_t start) {
        while (is_word(peek())) ++at_;
        const std::size_t size = at_ - start;
        if (size == 3 || size == 6) {
            const std::string alone = word_alone(start);
            if (alone == "ladder" || alone == "fbd") return drawing(start, alone);
        }
        if (peek() != '#') {
            check_underscores(start);
            return token(TokenKind::Identifier, start);
        }
        return typed_literal(start, text_.substr(start, at_ - start));
    }

    /// Once a name.
    void check_underscores(std::size_t start) {
        const std::string_view name = text_.substr(start, at_ - start);
        const bool twice = name.find("__") != std::string_view::npos;
        if ((!twice && name.back() != '_') || !underscored_.insert(base::fold(name)).second) return;
        error(
            start, Code::Syntax,
            fmt::format("the name '{}' has {}; the standard allows neither two underscores in a row nor one at the end",
                        name, twice ? "two underscores in a row" : "an underscore at its end"));
    }

    Token typed_literal(std::size_t start, std::string_view prefix) {
        ++at_;  // '#'
        const std::string folded = base::fold(prefix);
        if (folded == "t" || folded == "time") return time_literal(start, Elementary::Time);
        if (folded == "lt" || folded == "ltime") return time_literal(start, Elementary::Ltime);
        static const std::map<std::string, Elementary, std::less<>> moments = {
            {"d", Elementary::Date},           {"ld", Elementary::Ldate},          {"date", Elementary::Date},
            {"ldate", Elementary::Ldate},      {"tod", Elementary::Tod},           {"time_of_day", Elementary::Tod},
            {"ltod", Elementary::Ltod},        {"ltime_of_day", Elementary::Ltod}, {"dt", Elementary::Dt},
            {"date_and_time", Elementary::Dt}, {"ldt", Elementary::Ldt},           {"ldate_and_time", Elementary::Ldt}};
        if (const auto moment = moments.find(folded); moment != moments.end())
            return moment_literal(start, moment->second);
        const auto type = find_type(prefix);
        if (type && (is_text(*type) || is_character(*type))) {
            if (peek() == '\'' || peek() == '"') {
                const std::size_t quote = at_;
                Token out = quoted(quote, peek());
                out.type = *type;
                return out;
            }
            error(start, Code::Syntax, fmt::format("a string in quotes is missing after '{}#'", prefix));
            return token(TokenKind::Bad, start);
        }
        if (!type && is_letter(peek())) {
            while (is_word(peek())) ++at_;
            return token(TokenKind::TypedName, start);
        }
        if (!type) {
            while (is_word(peek())) ++at_;
            error(start, Code::UnknownType, fmt::format("'{}#' is not a valid literal prefix", prefix),
                  "known: a type name such as INT#, a base such as 16#, or T# for a time");
            return token(TokenKind::Bad, start);
        }
        if (*type == Elementary::Bool && is_letter(peek())) {
            const std::size_t value_start = at_;
            while (is_word(peek())) ++at_;
            const std::string value = base::fold(text_.substr(value_start, at_ - value_start));
            if (value != "true" && value != "false") {
                error(start, Code::Syntax, "BOOL# takes TRUE, FALSE, 0 or 1");
                return token(TokenKind::Bad, start);
            }
            Token out = token(TokenKind::Integer, start);
            out.integer = value == "true" ? 1 : 0;
            out.type = *type;
            return out;
        }
        bool negative = false;
        if (peek() == '-' || peek() == '+') {
            negative = peek() == '-';
            ++at_;
        }
        if (!is_digit(peek())) {
            error(start, Code::Syntax, fmt::format("a number is missing after '{}#'", prefix));
            return token(TokenKind::Bad, start);
        }
        return number(start, *type, negative);
    }

    /// Digits of one base with single underscores; false when there is none or the value passes 64 bits.
    bool digits(int number_base, std::uint64_t& value, bool& overflow) {
        bool any = false;
        while (at_ < text_.size()) {
            const char c = text_[at_];
            if (c == '_' && any && digit_value(peek(1)) < number_base) {
                ++at_;
                continue;
            }
            const int d = digit_value(c);
            if (d >= number_base) break;
            if (value > (UINT64_MAX - static_cast<std::uint64_t>(d)) / static_cast<std::uint64_t>(number_base)) {
                overflow = true;
            } else {
                value = value * static_cast<std::uint64_t>(number_base) + static_cast<std::uint64_t>(d);
            }
            any = true;
            ++at_;
        }
        return any;
    }

    Token number(std::size_t start, Elementary type, bool negative) {
        const std::size_t digits_start = at_;
        std::uint64_t value = 0;
        bool overflow = false;
        digits(10, value, overflow);
        if (peek() == '#') return based(start, value, type, negative);
        const bool fraction = peek() == '.' && is_digit(peek(1));
        const bool exponent = (peek() == 'e' || peek() == 'E') &&
                              (is_digit(peek(1)) || ((peek(1) == '-' || peek(1) == '+') && is_digit(peek(2))));
        if (fraction || exponent) return real(start, digits_start, type, negative);
        if (overflow) error(start, Code::LiteralRange, "this number does not fit 64 bits");
        Token out = token(TokenKind::Integer, start);
        out.integer = value;
        out.type = type;
        out.negative = negative;
        if (is_real(type)) {
            out.kind = TokenKind::Real;
            out.real = static_cast<double>(value) * (negative ? -1.0 : 1.0);
        }
        return out;
    }

    Token based(std::size_t start, std::uint64_t number_base, Elementary type, bool negative) {
        ++at_;
        if (number_base != 2 && number_base != 8 && number_base != 16) {
            while (is_word(peek())) ++at_;
            error(start, Code::Syntax, fmt::format("{} is not a number base", number_base), "known: 2#, 8#, 16#");
            return token(TokenKind::Bad, start);
        }
        std::uint64_t value = 0;
        bool overflow = false;
        const bool any = digits(static_cast<int>(number_base), value, overflow);
        if (!any || is_word(peek())) {
            while (is_word(peek())) ++at_;
            error(start, Code::Syntax,
                  fmt::format("'{}' is not a valid number to base {}", text_.substr(start, at_ - start), number_base));
            return token(TokenKind::Bad, start);
        }
        if (overflow) error(start, Code::LiteralRange, "this number does not fit 64 bits");
        Token out = token(TokenKind::Integer, start);
        out.integer = value;
        out.type = type;
        out.negative = negative;
        return out;
    }

    Token real(std::size_t start, std::size_t digits_start, Elementary type, bool negative) {
        const auto skip = [&] {
            while (is_digit(peek()) || (peek() == '_' && is_digit(peek(1)))) ++at_;
        };
        if (peek() == '.') {
            ++at_;
            skip();
        }
        if ((peek() == 'e' || peek() == 'E') &&
            (is_digit(peek(1)) || ((peek(1) == '-' || peek(1) == '+') && is_digit(peek(2))))) {
            at_ += 2;
            skip();
        }
        std::string plain;
        for (const char c : text_.substr(digits_start, at_ - digits_start)) {
            if (c != '_') plain += c;
        }
        Token out = token(TokenKind::Real, start);
        const auto result = std::from_chars(plain.data(), plain.data() + plain.size(), out.real);
        if (result.ec != std::errc()) error(start, Code::LiteralRange, "this number is outside the range of LREAL");
        if (negative) out.real = -out.real;
        out.type = type;
        return out;
    }

    /// T#1d2h3m4s5ms6us7.5ns, underscores between parts, one leading sign. Units stand from the largest to the
    /// smallest, a fraction only in the last, and only the first may be more than the next larger unit holds (IEC
    /// 61131-3, 6.3.4 and table 8). Whole parts are summed exactly; long double holds every nanosecond of the range.
    Token time_literal(std::size_t start, Elementary type) {
        static constexpr struct {
            std::string_view name;
            long double nanoseconds, most;  ///< `most`: how many make the next larger unit.
        } kParts[] = {{"d", 86400e9L, 0.0L}, {"h", 3600e9L, 24.0L}, {"m", 60e9L, 60.0L},  {"s", 1e9L, 60.0L},
                      {"ms", 1e6L, 1000.0L}, {"us", 1e3L, 1000.0L}, {"ns", 1.0L, 1000.0L}};
        bool negative = false;
        if (peek() == '-' || peek() == '+') {
            negative = peek() == '-';
            ++at_;
        }
        long double total = 0.0L;
        std::string wrong;
        int last = -1;
        bool bad = false, fraction = false;
        while (is_digit(peek())) {
            const std::size_t number_start = at_;
            const long double value = decimal();
            const std::string_view number = text_.substr(number_start, at_ - number_start);
            if (fraction && wrong.empty()) wrong = "only the last unit of a time has a fraction";
            fraction = number.find('.') != std::string::npos;
            const std::size_t unit_start = at_;
            while (is_letter(peek()) && peek() != '_') ++at_;
            const std::string unit = base::fold(text_.substr(unit_start, at_ - unit_start));
            int found = -1;
            for (int k = 0; k < static_cast<int>(std::size(kParts)); ++k) {
                if (base::at(kParts, k).name == unit) found = k;
            }
            bad = bad || found < 0;
            if (found >= 0) {
                total += value * base::at(kParts, found).nanoseconds;
                if (wrong.empty() && found <= last)
                    wrong =
                        fmt::format("the units of a time go from the largest to the smallest: '{}' stands behind '{}'",
                                    unit, base::at(kParts, last).name);
                if (wrong.empty() && last >= 0 && value >= base::at(kParts, found).most)
                    wrong = fmt::format(
                        "{}{} is more than the next larger unit holds; only the first unit of a time may be", number,
                        unit);
                last = found;
            }
            if (peek() == '_' && is_digit(peek(1))) ++at_;
        }
        while (is_word(peek())) {
            ++at_;
            bad = true;
        }
        if (last < 0 || bad) {
            error(start, Code::Syntax, "this time cannot be read; expected a form such as T#1.5s, T#250ms or T#1h30m");
            return token(TokenKind::Bad, start);
        }
        if (!wrong.empty()) error(start, Code::Syntax, wrong);
        if (total > 9223372036854775807.0L) {
            error(start, Code::LiteralRange, "this time is too long; the longest is about 292 years");
            total = 0.0L;
        }
        Token out = token(TokenKind::Time, start);
        out.integer = static_cast<std::uint64_t>(total + 0.5L);
        out.type = type;
        out.negative = negative;
        return out;
    }

    /// Digits with underscores and a fraction.
    long double decimal() {
        long double value = 0.0L;
        long double scale = 1.0L;
        bool fraction = false;
        for (; at_ < text_.size(); ++at_) {
            if (is_digit(peek())) {
                value = value * 10.0L + static_cast<long double>(digit_value(peek()));
                if (fraction) scale *= 10.0L;
            } else if (peek() == '.' && !fraction && is_digit(peek(1))) {
                fraction = true;
            } else if (!(peek() == '_' && is_digit(peek(1)))) {
                break;
            }
        }
        return value / scale;
    }

    bool whole(int& value, std::size_t max_digits) {
        value = 0;
        std::size_t count = 0;
        for (; is_digit(peek()) && count < max_digits; ++at_, ++count) value = value * 10 + digit_value(peek());
        return count > 0;
    }

    /// D#2026-03-01, TOD#23:59:59.5, DT#2026-03-01-23:59:59 (IEC 61131-3 table 9).
    Token moment_literal(std::size_t start, Elementary type) {
        const bool has_date = type != Elementary::Tod && type != Elementary::Ltod;
        const bool has_time = type != Elementary::Date && type != Elementary::Ldate;
        int year = 1970, month = 1, day = 1, hour = 0, minute = 0;
        long double second = 0.0L;
        bool ok = true;
        const auto sign = [&](char c) {
            if (peek() != c) return false;
            ++at_;
            return true;
        };
        if (has_date) ok = whole(year, 4) && sign('-') && whole(month, 2) && sign('-') && whole(day, 2);
        if (ok && has_date && has_time) ok = sign('-');
        if (ok && has_time) {
            ok = whole(hour, 2) && sign(':') && whole(minute, 2);
            if (ok && sign(':')) {
                ok = is_digit(peek());
                second = decimal();
            }
        }
        const std::chrono::year_month_day date(std::chrono::year(year),
                                               std::chrono::month(static_cast<unsigned>(month)),
                                               std::chrono::day(static_cast<unsigned>(day)));
        ok = ok && date.ok() && hour < 24 && minute < 60 && second < 60.0L && !is_word(peek());
        if (!ok) {
            while (is_word(peek()) || peek() == '-' || peek() == ':' || (peek() == '.' && is_digit(peek(1)))) ++at_;
            error(start, Code::Syntax,
                  fmt::format("this is no {}", has_date ? has_time ? "date and time" : "date" : "time of day"),
                  "expected a form such as D#2026-03-01, TOD#23:59:59.5 or DT#2026-03-01-23:59:59");
            return token(TokenKind::Bad, start);
        }
        if (year < 1970 || year > 2261) {
            error(start, Code::LiteralRange, "dates reach from 1970 to 2261");
            return token(TokenKind::Bad, start);
        }
        const auto days = std::chrono::sys_days(date).time_since_epoch().count();
        Token out = token(TokenKind::Time, start);
        out.integer = static_cast<std::uint64_t>(days) * 86'400'000'000'000ULL +
                      static_cast<std::uint64_t>(hour * 3600 + minute * 60) * 1'000'000'000ULL +
                      static_cast<std::uint64_t>(second * 1e9L + 0.5L);
        out.type = type;
        return out;
    }

    /// The `$` that escapes a mark, or another `$`, does not end the text.
    Token quoted(std::size_t start, char mark) {
        ++at_;
        while (at_ < text_.size() && text_[at_] != mark && text_[at_] != '\n') {
            if (text_[at_] == '$' && (peek(1) == mark || peek(1) == '$')) ++at_;
            ++at_;
        }
        if (peek() != mark) {
            error(start, Code::Syntax, "this string is never closed",
                  fmt::format("close it with {} on the same line", mark));
            return token(TokenKind::Bad, start);
        }
        ++at_;
        return token(TokenKind::Text, start);
    }

    Token direct_address(std::size_t start) {
        ++at_;
        while (is_word(peek()) || (peek() == '.' && is_digit(peek(1))) || peek() == '*') ++at_;
        return token(TokenKind::DirectAddress, start);
    }

    Token symbol(std::size_t start) {
        static constexpr std::string_view kPairs[] = {":=", "=>", "<>", "<=", ">=", "**", "->", "..", "?="};
        for (const std::string_view pair : kPairs) {
            if (text_.substr(at_, 2) == pair) {
                at_ += 2;
                return token(TokenKind::Symbol, start);
            }
        }
        static constexpr std::string_view kSingle = "+-*/=<>()[]{},;:.&^#";
        if (kSingle.find(text_[at_]) != std::string_view::npos) {
            ++at_;
            return token(TokenKind::Symbol, start);
        }
        // A run of foreign bytes (another script, a control character) is one mistake.
        while (at_ < text_.size() && !is_word(text_[at_]) && kSingle.find(text_[at_]) == std::string_view::npos &&
               text_[at_] != ' ' && text_[at_] != '\n' && text_[at_] != '\t' && text_[at_] != '\r' &&
               text_[at_] != '\'' && text_[at_] != '"' && text_[at_] != '%' && text_[at_] != '\f') {
            ++at_;
        }
        error(start, Code::Syntax, "this character has no meaning here");
        return token(TokenKind::Bad, start);
    }

    const base::SourcePtr& source_;
    std::string_view text_;
    base::Diagnostics& diagnostics_;
    std::size_t at_ = 0;
    std::set<std::string> underscored_;  ///< Names that were reported.
    std::size_t line_start_ = 0;
    int line_ = 1;
    std::vector<Extent> comments_;
};

constexpr const char* kKindNames[] = {"End",       "Identifier",    "Integer", "Real",    "Time", "Text",
                                      "TypedName", "DirectAddress", "Symbol",  "Drawing", "Bad"};

}  // namespace

std::vector<Token> tokenize(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    return Lexer(source, diagnostics).run();
}

std::vector<Token> tokenize_piece(const base::SourcePtr& source, std::size_t offset, std::size_t length, int line,
                                  int column, base::Diagnostics& diagnostics) {
    return Lexer(source, offset, length, line, column, diagnostics).run();
}

std::vector<Extent> comments_of(const base::SourcePtr& source) {
    base::Diagnostics ignored;
    Lexer lexer(source, ignored);
    lexer.run();
    return lexer.comments();
}

std::string tokens_text(const std::vector<Token>& tokens) {
    std::string out;
    for (const Token& t : tokens) {
        out += fmt::format("{}:{} {} {}", t.span.line, t.span.column, base::at(kKindNames, t.kind), t.text);
        if (t.kind == TokenKind::Integer || t.kind == TokenKind::Time) {
            out += fmt::format(" = {}{}", t.negative ? "-" : "", t.integer);
        }
        if (t.kind == TokenKind::Real) out += fmt::format(" = {}", t.real);
        out += '\n';
    }
    return out;
}

}  // namespace vyard::logic
