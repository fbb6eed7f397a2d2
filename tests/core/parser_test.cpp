#include "core/support.hpp"

using namespace vyard;

namespace {

std::string wrap(const std::string& body) {
    return "PROGRAM p\nVAR a : INT; b : INT; c : BOOL; END_VAR\n" + body + "\nEND_PROGRAM\n";
}

std::string tree_of(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto file = logic::parse_file(base::make_source("t", text), diagnostics);
    return logic::tree_text(file) + test::joined(test::lines_of(diagnostics));
}

std::string expression(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto source = base::make_source("t", text);
    const auto tokens = logic::tokenize(source, diagnostics);
    std::size_t at = 0;
    const auto e = logic::parse_expression(source, tokens, at, diagnostics);
    return (e ? logic::expression_text(*e) : "nothing") +
           (diagnostics.has_errors() ? " ! " + test::lines_of(diagnostics)[0] : "");
}

std::string errors_of(const std::string& text) {
    base::Diagnostics diagnostics;
    logic::parse_file(base::make_source("t", text), diagnostics);
    return test::joined(test::lines_of(diagnostics));
}

}  // namespace

TEST_CASE("precedence is the standard's") {
    struct Row {
        const char* text;
        const char* tree;
    };
    const Row rows[] = {
        {"a OR b AND c", "(OR a (AND b c))"},
        {"a XOR b OR c", "(OR (XOR a b) c)"},
        {"a AND NOT b", "(AND a (NOT b))"},
        {"a + b * c", "(+ a (* b c))"},
        {"(a + b) * c", "(* (+ a b) c)"},
        {"a - b - c", "(- (- a b) c)"},
        {"a < b = c", "(= (< a b) c)"},
        {"a = b AND c > d", "(AND (= a b) (> c d))"},
        {"-a + b", "(+ (- a) b)"},
        {"-5", "-5"},
        {"- 2.5", "-2.5"},
        {"+a", "a"},
        {"a MOD 3 & b", "(AND (MOD a 3) b)"},
        {"x.y.z <= %IW4", "(<= x.y.z %IW4)"},
        {"MAX(a, MIN(b, 3))", "(MAX a (MIN b 3))"},
        {"T#1s > t.ET", "(> T#ns1000000000 t.ET)"},
        {"NOT NOT a", "(NOT (NOT a))"},
        {"TRUE", "1"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        CHECK(expression(row.text) == row.tree);
    }
}

TEST_CASE("a file becomes a tree") {
    CHECK(tree_of("VAR_GLOBAL\n  start AT %IX0.0 : BOOL; // the button\nEND_VAR\n"
                  "FUNCTION_BLOCK f\nVAR_INPUT x, y : INT := 3; END_VAR\nVAR_OUTPUT z : INT; END_VAR\nz := x + "
                  "y;\nEND_FUNCTION_BLOCK\n"
                  "PROGRAM p\nVAR t : TON; END_VAR\nt(IN := start, PT := T#1s);\n"
                  "IF t.Q THEN f1(x := 1, z => a); ELSIF start THEN ; ELSE RETURN; END_IF;\n"
                  "CASE a OF 1, 3..5: a := 2; ELSE a := 0; END_CASE;\n"
                  "FOR a := 1 TO 10 BY 2 DO EXIT; END_FOR;\nWHILE start DO CONTINUE; END_WHILE;\nREPEAT a := a + 1; "
                  "UNTIL a > 5 END_REPEAT;\nEND_PROGRAM") ==
          "VAR_GLOBAL start : BOOL AT %IX0.0\n"
          "FUNCTION_BLOCK f\n  VAR_INPUT x : INT := 3\n  VAR_INPUT y : INT := 3\n  VAR_OUTPUT z : INT\n  assign z (+ x "
          "y)\n"
          "PROGRAM p\n  VAR t : TON\n  call (t IN := start PT := T#ns1000000000)\n"
          "  if\n    branch t.Q\n      call (f1 x := 1 z => a)\n    branch start\n    branch\n      return\n"
          "  case a\n    branch 1 3..5\n      assign a 2\n    branch\n      assign a 0\n"
          "  for a 1 10 2\n    branch\n      exit\n  while start\n    branch\n      continue\n  repeat (> a 5)\n    "
          "branch\n      assign a (+ a 1)\n");
}

TEST_CASE("the comment behind a declaration describes it") {
    base::Diagnostics diagnostics;
    const auto file = logic::parse_file(
        base::make_source("t", "VAR_GLOBAL\n a : BOOL; // first one\n b : INT; (* second *)\n c : INT;\nEND_VAR"),
        diagnostics);
    REQUIRE(file.globals.size() == 3);
    CHECK(file.globals[0].description == "first one");
    CHECK(file.globals[1].description == "second");
    CHECK(file.globals[2].description == "");
}

TEST_CASE("each mistake is one message at its place") {
    struct Row {
        const char* body;
        const char* messages;
    };
    const Row rows[] = {
        {"a = 1;", "3:3 expected ':=', found '=' [an assignment is written ':=']\n"},
        {"a := 1\nb := 2;", "3:7 expected ';' at the end of the statement\n"},
        {"a := ;", "3:6 expected a value, found ';'\n"},
        {"a := (1 + 2;", "3:12 expected ')', found ';'\n"},
        {"IF c a := 1; END_IF;", "3:6 expected THEN, found 'a'\n"},
        {"IF c THEN a := 1;", "4:1 expected END_IF for the IF of line 3, found 'END_PROGRAM'\n"},
        {"a;", "3:1 'a' alone is not a statement; expected ':=' or a call\n"},
        {"WHILE c DO a := 1; END_IF;", "3:20 expected END_WHILE for the WHILE of line 3, found 'END_IF'\n"},
        {"5 := a;", "3:1 expected a statement, found '5'\n"},
        {"a := b +;", "3:9 expected a value, found ';'\n"},
        {"a := x[3;", "3:9 expected ']', found ';'\n"},
        {"a := 'hello;", "3:6 this string is never closed [close it with ' on the same line]\n"},
        {"a := '$q';",
         "3:6 this string holds a '$' that starts no escape [known: $$ $' $L $N $P $R $T and $ with two hexadecimal "
         "digits]\n"},
        {"d := D#2026-13-01;",
         "3:6 this is no date [expected a form such as D#2026-03-01, TOD#23:59:59.5 or DT#2026-03-01-23:59:59]\n"},
        {"a.b^.c;", "3:1 'a.b^.c' alone is not a statement; expected ':=' or a call\n"},
        {"t(IN := );", "3:9 expected a value, found ')'\n"},
        {"a := b.;", "3:8 expected a name after '.', found ';'\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.body);
        const std::string got = errors_of(wrap(row.body));
        CHECK(got.substr(0, got.find('\n') + 1) == row.messages);
    }
}

TEST_CASE("mistakes in declarations") {
    struct Row {
        const char* text;
        const char* message;
    };
    const Row rows[] = {
        {"PROGRAM p VAR a : INT = 5; END_VAR END_PROGRAM",
         "1:23 expected ':=' before an initial value, found '=' [an assignment is written ':=']\n"},
        {"PROGRAM p VAR a INT; END_VAR END_PROGRAM", "1:17 expected ':', found 'INT'\n"},
        {"PROGRAM p VAR a : ; END_VAR END_PROGRAM", "1:19 expected a type, found ';'\n"},
        {"PROGRAM p VAR if : INT; END_VAR END_PROGRAM",
         "1:15 expected a variable name, found 'if' [this word is reserved]\n"},
        {"PROGRAM p VAR a AT : INT; END_VAR END_PROGRAM", "1:20 expected an address such as %IX0.0, found ':'\n"},
        {"PROGRAM p VAR a : ARRAY[1..] OF INT; END_VAR END_PROGRAM", "1:28 expected a value, found ']'\n"},
        {"PROGRAM p VAR a : POINTER TO INT; END_VAR END_PROGRAM",
         "1:19 POINTER is not part of the standard [write REF_TO, and ^ to follow it]\n"},
        {"TYPE t : STRUCT a : INT; END_TYPE", "1:26 expected END_STRUCT before this\n"},
        {"FUNCTION_BLOCK f PROPERTY x : INT END_PROPERTY END_FUNCTION_BLOCK",
         "1:18 PROPERTY is not part of the standard [write two METHODs, one to get and one to set]\n"},
        {"PROGRAMM p END_PROGRAM", "1:1 expected a program unit, found 'PROGRAMM' [did you mean 'PROGRAM'?]\n"},
        {"PROGRAM p", "1:10 expected END_PROGRAM for 'p', found the end of the text\n"},
        {"x := 1;",
         "1:1 expected a program unit, found 'x' [known: PROGRAM, FUNCTION_BLOCK, FUNCTION, TYPE, "
         "VAR_GLOBAL, INTERFACE, CLASS, NAMESPACE, USING, CONFIGURATION]\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        CHECK(errors_of(row.text) == row.message);
    }
}

TEST_CASE("twenty mistakes in a file give twenty messages") {
    std::string body;
    for (int i = 0; i < 10; ++i) body += "a = 1;\nb := ;\n";
    base::Diagnostics diagnostics;
    logic::parse_file(base::make_source("t", wrap(body)), diagnostics);
    CHECK(diagnostics.error_count() == 20);
}

TEST_CASE("nesting without end is refused, not obeyed") {
    const std::string open(100'000, '('), nots = [] {
        std::string s;
        for (int i = 0; i < 50'000; ++i) s += "NOT ";
        return s;
    }();
    std::string ifs;
    for (int i = 0; i < 20'000; ++i) ifs += "IF c THEN ";
    std::string chain = "a";
    for (int i = 0; i < 5'000; ++i) chain += " + a";
    for (const std::string& text : {"a := " + open + "1;", "c := " + nots + "c;", ifs, "a := " + chain + ";"}) {
        const std::string got = errors_of(wrap(text));
        CHECK((got.find("nested more than 200 deep") != std::string::npos ||
               got.find("more than 1000 operands") != std::string::npos));
    }
}

TEST_CASE("no text can crash the parser: every prefix and random cuts of a real program") {
    const std::string text = wrap(
        "IF c AND (a > 5) THEN a := MAX(a, b) * 2; ELSE CASE a OF 1..3: b := T#5s; END_CASE; END_IF; FOR a := 1 TO 9 "
        "DO b := -a; END_FOR;");
    for (std::size_t n = 0; n <= text.size(); ++n) errors_of(text.substr(0, n));
    std::uint32_t seed = 7;
    for (int i = 0; i < 2000; ++i) {
        std::string mutated = text;
        for (int k = 0; k < 3; ++k) {
            seed = seed * 1664525U + 1013904223U;
            const std::size_t at = (seed >> 8) % mutated.size();
            seed = seed * 1664525U + 1013904223U;
            static constexpr char kBytes[] = "();:=<>.,#%'\"*/\0 IFa9\n";
            mutated[at] = kBytes[(seed >> 8) % (sizeof kBytes - 1)];
        }
        errors_of(mutated);
    }
    CHECK(errors_of(text) == "");
}
