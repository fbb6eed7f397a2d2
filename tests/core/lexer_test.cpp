#include "core/support.hpp"

using namespace vyard;

namespace {

std::string tokens(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto source = base::make_source("t", text);
    std::string out = logic::tokens_text(logic::tokenize(source, diagnostics));
    return out + test::joined(test::lines_of(diagnostics));
}

}  // namespace

TEST_CASE("tokens of a line, with places and values") {
    CHECK(tokens("x := INT#5 + 16#FF;") ==
          "1:1 Identifier x\n1:3 Symbol :=\n1:6 Integer INT#5 = 5\n1:12 Symbol +\n1:14 Integer 16#FF = 255\n1:19 "
          "Symbol ;\n1:20 End \n");
}

TEST_CASE("literals") {
    struct Row {
        const char* text;
        const char* tokens;
    };
    const Row rows[] = {
        {"1_000_000", "1:1 Integer 1_000_000 = 1000000\n"},
        {"2#1010_0101", "1:1 Integer 2#1010_0101 = 165\n"},
        {"8#17", "1:1 Integer 8#17 = 15\n"},
        {"INT#-7", "1:1 Integer INT#-7 = -7\n"},
        {"WORD#16#ABCD", "1:1 Integer WORD#16#ABCD = 43981\n"},
        {"BOOL#TRUE", "1:1 Integer BOOL#TRUE = 1\n"},
        {"3.25", "1:1 Real 3.25 = 3.25\n"},
        {"1.5e3", "1:1 Real 1.5e3 = 1500\n"},
        {"2E-2", "1:1 Real 2E-2 = 0.02\n"},
        {"REAL#7", "1:1 Real REAL#7 = 7\n"},
        {"T#1.5s", "1:1 Time T#1.5s = 1500000000\n"},
        {"t#1h30m", "1:1 Time t#1h30m = 5400000000000\n"},
        {"TIME#2d_3ms", "1:1 Time TIME#2d_3ms = 172800003000000\n"},
        {"T#-250ms", "1:1 Time T#-250ms = -250000000\n"},
        {"18446744073709551615", "1:1 Integer 18446744073709551615 = 18446744073709551615\n"},
        {"%IX0.1", "1:1 DirectAddress %IX0.1\n"},
        {"'text'", "1:1 Text 'text'\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        const std::string got = tokens(row.text);
        CHECK(got.substr(0, got.find("\n") + 1) == row.tokens);
    }
}

TEST_CASE("comments nest and are passed over; lines are counted through them") {
    CHECK(tokens("(* a (* b *)\n c *) x // y\n/* z */ w") == "2:7 Identifier x\n3:9 Identifier w\n3:10 End \n");
}

TEST_CASE("a range is no real number") {
    CHECK(tokens("1..5") == "1:1 Integer 1 = 1\n1:2 Symbol ..\n1:4 Integer 5 = 5\n1:5 End \n");
}

TEST_CASE("a byte order mark is passed over") {
    CHECK(tokens("\xEF\xBB\xBFx") == "1:1 Identifier x\n1:2 End \n");
}

TEST_CASE("what cannot be read is reported once, at its place, and reading goes on") {
    struct Row {
        const char* text;
        const char* message;
    };
    const Row rows[] = {
        {"x (* never closed\n", "1:3 this comment is never closed [close it with *)]"},
        {"'open\nx", "1:1 this string is never closed [close it with ' on the same line]"},
        {"T#5", "1:1 this time cannot be read; expected a form such as T#1.5s, T#250ms or T#1h30m"},
        {"T#5parsec", "1:1 this time cannot be read; expected a form such as T#1.5s, T#250ms or T#1h30m"},
        {"7#12", "1:1 7 is not a number base [known: 2#, 8#, 16#]"},
        {"2#123", "1:1 '2#123' is not a valid number to base 2"},
        {"FOO#1",
         "1:1 'FOO#' is not a valid literal prefix [known: a type name such as INT#, a base such as 16#, or T# for a "
         "time]"},
        {"99999999999999999999", "1:1 this number does not fit 64 bits"},
        {"BOOL#MAYBE", "1:1 BOOL# takes TRUE, FALSE, 0 or 1"},
        {"INT#", "1:1 a number is missing after 'INT#'"},
        {"x \xC3\xA4\xC3\xB6 y", "1:3 this character has no meaning here"},
        {"1e999", "1:1 this number is outside the range of LREAL"},
        {"T#999999999d", "1:1 this time is too long; the longest is about 292 years"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        base::Diagnostics diagnostics;
        const auto source = base::make_source("t", row.text);
        const auto list = logic::tokenize(source, diagnostics);
        CHECK(test::joined(test::lines_of(diagnostics)) == std::string(row.message) + "\n");
        CHECK(list.back().kind == logic::TokenKind::End);
    }
}
