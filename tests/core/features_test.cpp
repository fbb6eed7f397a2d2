// docs/logic.md says of every feature of the standard's textual language whether it is here. Each row of its tables
// ends in a number; this file holds the snippet behind each number, compiled here: "yes" and "differs" must compile,
// "no" must be refused.
#include <fstream>
#include <map>
#include <regex>
#include <sstream>

#include "core/support.hpp"

using namespace vyard;

namespace {

std::string in_program(const std::string& variables, const std::string& body) {
    return "PROGRAM p VAR " + variables + " END_VAR " + body + " END_PROGRAM";
}

const std::map<std::string, std::string>& snippets() {
    static const std::map<std::string, std::string> all = {
        {"1.1", in_program("a : INT;", "(* one (* nested *) *) a := 1; // line\n/* other */")},
        {"1.2", in_program("a : INT := 16#7F; b : WORD := 2#1010_0101; c : INT := 8#17;", "a := INT#5;")},
        {"1.3", in_program("a : REAL := 1.5E-3; b : LREAL := LREAL#1_000.0;", "")},
        {"1.4",
         in_program("a : STRING := 'it$'s $24 $L'; b : WSTRING := \"$00E4\"; c : CHAR := 'x'; d : CHAR := CHAR#'y';",
                    "")},
        {"1.5", in_program("a : TIME := T#-1d2h3m4s5.5ms; b : LTIME := LTIME#1us2ns;", "")},
        {"1.6", in_program("a : DATE := D#2026-01-31; b : TOD := TIME_OF_DAY#12:30:00.5; c : DT := "
                           "DT#2026-01-31-12:30:00; d : LDT := LDT#2026-01-31-12:30:00;",
                           "")},
        {"1.7", "{pragma} PROGRAM p END_PROGRAM"},
        {"2.1", in_program("a : BOOL; b : BYTE; c : WORD; d : DWORD; e : LWORD;", "")},
        {"2.2",
         in_program(
             "a : SINT; b : INT; c : DINT; d : LINT; e : USINT; f : UINT; g : UDINT; h : ULINT; i : REAL; j : LREAL;",
             "")},
        {"2.3", in_program("a : TIME; b : LTIME; c : DATE; d : LDATE; e : TOD; f : LTOD; g : DT; h : LDT;", "")},
        {"2.4", in_program("a : STRING; b : STRING[20]; c : WSTRING[5]; d : CHAR; e : WCHAR;", "")},
        {"2.5",
         "TYPE t : (red, green := 5, blue) USINT; u : INT(0..9); v : ARRAY[1..2, -1..1] OF INT := [6(1)]; w : STRUCT a "
         ": INT := 1; END_STRUCT; x : INT := 7; END_TYPE PROGRAM p END_PROGRAM"},
        {"2.6", in_program("a : INT; r : REF_TO INT := NULL;", "r := REF(a); r REF= a; r^ := 1;")},
        {"2.7", "TYPE t : STRUCT a AT %X0 : BOOL; END_STRUCT; END_TYPE PROGRAM p END_PROGRAM"},
        {"3.1",
         "FUNCTION f : INT VAR_INPUT a : INT := 1; END_VAR VAR_OUTPUT b : INT; END_VAR VAR_IN_OUT c : INT; END_VAR "
         "VAR_TEMP t : INT; END_VAR f := a; END_FUNCTION PROGRAM p END_PROGRAM"},
        {"3.2",
         "FUNCTION_BLOCK f VAR_INPUT a : BOOL R_EDGE; b : BOOL F_EDGE; END_VAR END_FUNCTION_BLOCK PROGRAM p VAR x : f; "
         "END_VAR x(); END_PROGRAM"},
        {"3.3",
         "VAR_GLOBAL CONSTANT k : INT := 3; END_VAR VAR_GLOBAL RETAIN r : INT; END_VAR PROGRAM p VAR_EXTERNAL k : INT; "
         "END_VAR VAR NON_RETAIN n : INT; END_VAR n := k; END_PROGRAM"},
        {"3.4",
         in_program("a AT %IX0.0 : BOOL; b AT %QW2 : INT; c AT %MD4 : REAL; d AT %ML8 : LREAL; e AT %MB20 : BYTE;",
                    "b := 1; %MX30.1 := a;")},
        {"3.5", in_program("w : DWORD;", "w.%X31 := TRUE; w.%B1 := 1; w.%W1 := 2;")},
        {"3.6",
         in_program("t : TON := (PT := T#1s); u : ARRAY[0..3] OF TON;", "t(IN := TRUE); u[1](IN := t.Q, PT := T#1s);")},
        {"3.7", "VAR_GLOBAL a AT %IX0 : BOOL; END_VAR PROGRAM p END_PROGRAM"},
        {"4.1",
         "CLASS c VAR n : INT; END_VAR METHOD PUBLIC m : INT n := n + 1; m := n; END_METHOD END_CLASS PROGRAM p VAR x "
         ": c; i : INT; END_VAR i := x.m(); END_PROGRAM"},
        {"4.2",
         "FUNCTION_BLOCK ABSTRACT a METHOD ABSTRACT m END_METHOD END_FUNCTION_BLOCK FUNCTION_BLOCK FINAL b EXTENDS a "
         "METHOD OVERRIDE m END_METHOD SUPER(); THIS.m(); END_FUNCTION_BLOCK PROGRAM p VAR x : b; END_VAR x(); "
         "END_PROGRAM"},
        {"4.3",
         "INTERFACE i METHOD m : INT END_METHOD END_INTERFACE FUNCTION_BLOCK f IMPLEMENTS i METHOD m : INT m := 1; "
         "END_METHOD END_FUNCTION_BLOCK PROGRAM p VAR x : f; y : i; r : REF_TO f; n : INT; END_VAR y := x; n := y.m(); "
         "r ?= y; END_PROGRAM"},
        {"4.4",
         "NAMESPACE a.b FUNCTION f : INT f := 1; END_FUNCTION END_NAMESPACE USING a.b; PROGRAM p VAR n : INT; END_VAR "
         "n := f() + a.b.f(); END_PROGRAM"},
        {"4.5", "FUNCTION f : INT f := f(); END_FUNCTION"},
        {"5.1", in_program("i, n : INT; b : BOOL;",
                           "IF b THEN n := 1; ELSIF i > 2 THEN n := 2; ELSE n := 3; END_IF; CASE i OF 1, 2..5: n := 1; "
                           "ELSE n := 2; END_CASE;")},
        {"5.2", in_program("i : INT;",
                           "FOR i := 10 TO 1 BY -2 DO CONTINUE; END_FOR; WHILE i < 5 DO i := i + 1; EXIT; END_WHILE; "
                           "REPEAT i := i + 1; UNTIL i > 9 END_REPEAT; RETURN;")},
        {"5.3", in_program("x : REAL; b : BOOL; i : INT;",
                           "x := -x ** 2 * 3.0 + 1.0; b := NOT b AND x > 1.0 OR b XOR TRUE & b; i := i MOD 3;")},
        {"5.4",
         "FUNCTION f : INT VAR_INPUT a, b : INT; END_VAR VAR_OUTPUT q : BOOL; END_VAR f := a - b; END_FUNCTION PROGRAM "
         "p VAR n : INT; o, e : BOOL; END_VAR n := f(1, 2); n := f(b := 1, a := 2, q => o); n := f(EN := o, a := 1, b "
         ":= 2, ENO => e); END_PROGRAM"},
        {"6.1",
         in_program(
             "x : REAL; n : INT;",
             "x := SQRT(ABS(x)) + LN(x) + LOG(x) + EXP(x) + SIN(x) + COS(x) + TAN(x) + ASIN(x) + ACOS(x) + ATAN(x) + "
             "ATAN2(x, x) + EXPT(x, n); n := ADD(1, 2, 3) + MUL(2, 3) + SUB(2, 1) + DIV(4, 2) + MOD(5, 3) + MOVE(n);")},
        {"6.2",
         in_program(
             "w : WORD; b : BOOL; n : INT; s : STRING;",
             "w := SHL(w, 1) OR SHR(w, 1) OR ROL(w, 1) OR ROR(IN := w, N := 2); b := GT(3, 2, 1) AND NE(1, 2); n := "
             "SEL(b, 1, 2) + MUX(n, 1, 2, 3) + MAX(1, 2, 3) + MIN(1, 2) + LIMIT(0, n, 9); s := SEL(b, 'a', 'b');")},
        {"6.3", in_program("s : STRING; n : INT;",
                           "s := CONCAT(LEFT(s, 1), RIGHT(s, 1), MID(s, 1, 1), INSERT(s, s, 1), DELETE(s, 1, 1), "
                           "REPLACE(s, s, 1, 1)); n := LEN(s) + FIND(s, 'a');")},
        {"6.4",
         in_program("d : DT; a : DATE; b : TOD; t : TIME; y, m, x : INT; w : USINT;",
                    "d := CONCAT_DATE_TOD(a, b) + T#1s; d := ADD_DT_TIME(d, t); t := SUB_DATE_DATE(a, a); "
                    "SPLIT_DATE(a, y, m, x); w := DAY_OF_WEEK(a); a := CONCAT_DATE(y, m, x); t := MUL_TIME(t, 2);")},
        {"6.5", in_program("i : INT; r : REAL; s : STRING; w : WORD; u : UINT; d : DINT;",
                           "r := INT_TO_REAL(i) + TO_REAL(i); i := REAL_TO_INT(r) + TRUNC_INT(r) + REAL_TRUNC_INT(r); "
                           "s := REAL_TO_STRING(r); i := STRING_TO_INT(s); u := WORD_BCD_TO_UINT(w); w := "
                           "UINT_TO_BCD_WORD(u); d := TRUNC(r);")},
        {"6.6", in_program("a : TON; b : TOF; c : TP; d : CTU; e : CTD; f : CTUD; g : R_TRIG; h : F_TRIG; i : SR; j : "
                           "RS; k : TON_LTIME; l : CTU_DINT; m : CTUD_ULINT;",
                           "a(); b(); c(); d(); e(); f(); g(); h(); i(); j(); k(); l(); m();")},
        {"6.7", in_program("w : WORD; b : BOOL; r : REAL; a : ARRAY[2..4] OF INT; d : DINT;",
                           "w := TO_BIG_ENDIAN(w); b := IS_VALID(r) AND IS_VALID_BCD(w); d := UPPER_BOUND(a, 1);")},
        {"6.8", in_program("s : STRING;", "s := MAX('a', 'b');")},
        {"7.1",
         "PROGRAM p VAR q : BOOL; END_VAR INITIAL_STEP a: END_STEP STEP b: q(N); c(D, T#1s); END_STEP TRANSITION FROM "
         "a TO b := a.X AND a.T > T#1s; END_TRANSITION TRANSITION t (PRIORITY := 1) FROM b TO a := TRUE; "
         "END_TRANSITION ACTION c: q := FALSE; END_ACTION END_PROGRAM"},
        {"7.2",
         "PROGRAM p INITIAL_STEP a: END_STEP STEP b: END_STEP STEP c: END_STEP TRANSITION FROM a TO (b, c) := TRUE; "
         "END_TRANSITION TRANSITION FROM (b, c) TO a := TRUE; END_TRANSITION END_PROGRAM"},
        {"7.3",
         "PROGRAM p INITIAL_STEP a: x(N); y(R); z(S); u(L, T#1s); v(D, T#1s); w(P); k(P0); l(P1); m(SD, T#1s); n(DS, "
         "T#1s); o(SL, T#1s); END_STEP ACTION x: END_ACTION ACTION y: END_ACTION ACTION z: END_ACTION ACTION u: "
         "END_ACTION ACTION v: END_ACTION ACTION w: END_ACTION ACTION k: END_ACTION ACTION l: END_ACTION ACTION m: "
         "END_ACTION ACTION n: END_ACTION ACTION o: END_ACTION END_PROGRAM"},
        {"9.1", in_program("a, b, c : BOOL;",
                           "\nLADDER\n|  a    b     c |\n+--|/|--|P|-+-(S)-+\n|  c        |     |\n+--|N|------+     "
                           "|\n\n| a    b |\n+-| |--(/)-+\nEND_LADDER\n")},
        {"9.2",
         in_program("n : INT; b : BOOL;", "\nLADDER\n|  n     b  |\n+--|>=|-(SM)-+\n|  5         |\nEND_LADDER\n")},
        {"9.3", in_program("a, b : BOOL; t : CTU;",
                           "\nFBD\n        t\n     +-----+\n     | CTU |\na -->|CU  Q|o-- b\n3 ---|PV   |\n     "
                           "+-----+\nEND_FBD\n")},
        {"9.4", in_program("a, b : BOOL; n : INT;",
                           "\nFBD\n     +--------+\n     |  MOVE  |\na ---|EN   ENO|-- b\n3 ---|IN   OUT|-- n\n     "
                           "+--------+\nEND_FBD\n")},
        {"9.5", in_program("a, b : BOOL;",
                           "\nFBD\n       +-----+\n       | OR  |\na -----|     |--+-- b\n  +----|     |  |\n  |    "
                           "+--1--+  |\n  +-------------+\nEND_FBD\n")},
        {"9.6", in_program("a, b : BOOL;",
                           "\nLADDER\n|  a\n+--| |---->>END\n\n|  b\n+--| |---<RETURN>\nEND:\nEND_LADDER\nFBD\na "
                           "-->on>\n>on>--- b\nEND_FBD\n")},
        {"9.7",
         "PROGRAM p VAR a : BOOL; END_VAR INITIAL_STEP s: go(N); END_STEP TRANSITION t FROM s TO s:\nFBD\na --- "
         "t\nEND_FBD\nEND_TRANSITION ACTION go:\nFBD\nTRUE --- a\nEND_FBD\nEND_ACTION END_PROGRAM"},
        {"9.8", in_program("a, b, c : BOOL;", "\nFBD\na ---+--- c\n     |\nb ---+\nEND_FBD\n")},
        {"8.1",
         "PROGRAM q VAR a AT %QW* : INT; END_VAR END_PROGRAM CONFIGURATION c RESOURCE r ON cpu TASK t(INTERVAL := "
         "T#20ms, PRIORITY := 1); PROGRAM x WITH t : q; END_RESOURCE VAR_CONFIG r.x.a AT %QW4 : INT := 3; END_VAR "
         "END_CONFIGURATION"},
        {"8.2",
         "VAR_GLOBAL go : BOOL; END_VAR PROGRAM q END_PROGRAM CONFIGURATION c TASK t(SINGLE := go, PRIORITY := 0); "
         "PROGRAM x WITH t : q; END_CONFIGURATION"},
        {"8.3",
         "PROGRAM q END_PROGRAM CONFIGURATION c PROGRAM x : q; VAR_ACCESS a : x.b : INT READ_ONLY; END_VAR "
         "END_CONFIGURATION"},
        {"8.4",
         "PROGRAM q VAR_INPUT a : INT; END_VAR END_PROGRAM CONFIGURATION c PROGRAM x : q(a := 3); END_CONFIGURATION"},
        {"8.5",
         "FUNCTION_BLOCK b VAR a AT %IX* : BOOL; n : INT; END_VAR END_FUNCTION_BLOCK PROGRAM q VAR c : b; END_VAR c(); "
         "END_PROGRAM CONFIGURATION c PROGRAM x : q; PROGRAM y : q; VAR_CONFIG x.c.a AT %IX0.0 : BOOL; x.c.n : INT := "
         "4; END_VAR END_CONFIGURATION"},
    };
    return all;
}

}  // namespace

TEST_CASE("the feature table of docs/logic.md is true") {
    std::ifstream in(VYARD_TESTS "/../docs/logic.md");
    const std::regex row(R"(^\| (\d+\.\d+) \| .* \| (yes|no|differs)[^|]*\|$)");
    std::map<std::string, bool> told;
    for (std::string line; std::getline(in, line);) {
        std::smatch m;
        if (!std::regex_match(line, m, row)) continue;
        const std::string number = m[1];
        CAPTURE(number);
        CHECK_FALSE(told[number]);
        told[number] = true;
        const auto snippet = snippets().find(number);
        REQUIRE(snippet != snippets().end());
        base::Diagnostics diagnostics;
        logic::compile({base::make_source("feature.st", snippet->second)}, diagnostics);
        const std::string messages = diagnostics.has_errors() ? diagnostics.render() : "";
        INFO(messages);
        CHECK(diagnostics.has_errors() == (m[2] == "no"));
    }
    for (const auto& [number, text] : snippets()) CHECK_MESSAGE(told[number], number);
}

TEST_CASE(
    "an edge input that a call leaves out keeps what it was: the edge comes once, and the input stays the signal") {
    const session::SessionModelPtr model = test::make_model(
        "VAR_GLOBAL go : BOOL; seen : BOOL; counted : INT; END_VAR\n"
        "FUNCTION_BLOCK f VAR_INPUT a : BOOL R_EDGE; END_VAR VAR_OUTPUT n : INT; twice : INT; END_VAR\n"
        "IF a THEN n := n + 1; END_IF; IF a AND a THEN twice := twice + 1; END_IF; END_FUNCTION_BLOCK\n"
        "PROGRAM p VAR x : f; odd : BOOL; END_VAR odd := NOT odd; IF odd THEN x(a := go); ELSE x(); END_IF;\n"
        "counted := x.n + 100 * x.twice; seen := x.a; END_PROGRAM",
        test::PlantText(), {});
    session::Session s(model);
    const auto read = [&](const char* name) { return session::read(s, *session::find_signal(*model, name)); };
    const auto spot = wiring::find_spots(model->controllers, "go").at(0);
    for (const auto& [value, counted] : {std::pair{0.0, 0}, {1.0, 101}, {0.0, 101}, {1.0, 202}}) {
        s.write(0, spot.spot, logic::value_of(logic::Elementary::Bool, value));
        for (int i = 0; i < 10; ++i) s.step();
        CHECK(read("counted") == counted);
        CHECK(read("seen") == value);
    }
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t.st",
                                      "FUNCTION_BLOCK f VAR_INPUT a : BOOL R_EDGE; END_VAR a := TRUE; "
                                      "END_FUNCTION_BLOCK PROGRAM p VAR x : f; END_VAR x(); END_PROGRAM")},
                   diagnostics);
    CHECK(diagnostics.render().find("it is an input; only the caller writes it") != std::string::npos);
}
