#include <sstream>

#include "core/support.hpp"

using namespace vyard;

namespace {

std::string check(const std::string& text, bool warnings = false) {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("t", text)}, diagnostics);
    return test::joined(test::lines_of(diagnostics, warnings));
}

/// One statement or more, with a variable of each common type at hand. The statement stands on line 5.
std::string body(const std::string& statement) {
    return check(
        "VAR_GLOBAL CONSTANT limit : INT := 7; END_VAR\nPROGRAM p\n"
        "VAR b : BOOL; i : INT; d : DINT; u : UINT; w : WORD; r : REAL; l : LREAL; t : TIME; tm : TON; ct : CTU; "
        "END_VAR\n\n" +
        statement + "\nEND_PROGRAM\n");
}

}  // namespace

TEST_CASE("what the standard allows compiles") {
    const char* fine[] = {
        "d := i;",   // widening
        "r := i;",   // INT fits REAL
        "l := d;",   // DINT fits LREAL
        "r := 10;",  // a whole literal for a REAL
        "i := -32768;",
        "w := 16#FFFF;",
        "d := u;",  // UINT fits DINT
        "t := t * 2 + T#5s;",
        "t := t / 2;",
        "t := 1.5 * t;",
        "b := t >= T#1s AND i < limit;",
        "i := REAL_TO_INT(r * 2.0);",
        "r := SQRT(r) + ABS(-2.0);",
        "i := LIMIT(0, i, 100);",
        "i := SEL(b, 1, limit);",
        "w := SHL(w, 3) OR 16#000F;",
        "tm(IN := b, PT := T#1s); b := tm.Q; t := tm.ET;",
        "tm(b, T#1s);",
        "ct(CU := b, PV := 5, Q => b, CV => i);",
        "tm.PT := T#3s; tm();",
        "CASE i OF 1, 2..5: i := 0; limit: i := 1; ELSE i := 2; END_CASE;",
        "%MX3.1 := b; %MW4 := w;",
        "FOR i := 10 TO 1 BY -1 DO IF b THEN EXIT; END_IF; CONTINUE; END_FOR;",
        "i := TIME_TO_INT(t); t := INT_TO_TIME(i);",
        "i := TRUNC(r) = 5;",
    };
    for (const char* statement : fine) {
        CAPTURE(statement);
        if (std::string(statement) == "i := TRUNC(r) = 5;") {
            CHECK(body(statement) != "");
        } else {
            CHECK(body(statement) == "");
        }
    }
}

TEST_CASE("what it does not allow is refused with a hint") {
    struct Row {
        const char* statement;
        const char* message;
    };
    const Row rows[] = {
        {"i := d;", "5:6 this is DINT, but 'i' needs INT [convert it: DINT_TO_INT(...)]\n"},
        {"i := r;", "5:6 this is REAL, but 'i' needs INT [convert it: REAL_TO_INT(...)]\n"},
        {"r := d;", "5:6 this is DINT, but 'r' needs REAL [convert it: DINT_TO_REAL(...)]\n"},
        {"i := 2.5;", "5:6 this is a real number, but 'i' needs INT [write it without a fraction]\n"},
        {"i := 40000;", "5:6 40000 does not fit INT, the type of 'i'\n"},
        {"u := -1;", "5:6 -1 does not fit UINT, the type of 'u'\n"},
        {"b := 1;", "5:6 this is a whole number, but 'b' needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"b := i;", "5:6 this is INT, but 'b' needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"t := 500;", "5:6 this is a whole number, but 't' needs TIME [a time is written T#500ms, T#1.5s ...]\n"},
        {"i := j;", "5:6 no variable is named 'j' [did you mean 'b'?]\n"},
        {"limitt := 1;", "5:1 no variable is named 'limitt' [did you mean 'limit'?]\n"},
        {"limit := 1;", "5:1 'limit' cannot be written: it is declared CONSTANT\n"},
        {"tm.Q := b;", "5:1 'tm.Q' cannot be written: it is an output of the block\n"},
        {"b := tm.X;", "5:6 TON 'tm' has no input or output 'X' [did you mean 'Q'?]\n"},
        {"b := i.x;", "5:6 'i' is INT and has no part 'x'\n"},
        {"tm(INN := b);", "5:4 TON has no input 'INN' [did you mean 'IN'?]\n"},
        {"tm(b, T#1s, b);", "5:13 TON has no more inputs\n"},
        {"tm(IN := i);", "5:10 this is INT, but input IN of TON needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"ct(CU := b, CV => b);", "5:19 output CV is INT, but 'b' is BOOL\n"},
        {"b := tm;", "5:6 'tm' is a function block, not a value [name one of its outputs, such as tm.Q]\n"},
        {"tm := b;", "5:1 'tm' is a function block; call it, or assign to one of its inputs\n"},
        {"i(b);", "5:1 'i' is INT, not a function block\n"},
        {"r := SQRT(i);", "5:11 SQRT does not take INT [convert it: INT_TO_REAL(...)]\n"},
        {"r := SQRTT(r);", "5:6 no function is named 'SQRTT' [did you mean 'SQRT'?]\n"},
        {"r := SQRT(r, r);", "5:6 SQRT takes 1 argument, not 2 [square root of a real]\n"},
        {"i := MAX(i, r);", "5:6 this is REAL, but 'i' needs INT [convert it: REAL_TO_INT(...)]\n"},
        {"b := RISES(b);",
         "5:6 no function is named 'RISES' [use an R_TRIG or F_TRIG instance; RISES and FALLS belong to procedures]\n"},
        {"b := b AND i;",
         "5:8 AND needs BOOL or bit strings on both sides, not BOOL and INT [write TRUE or FALSE, or compare: <> 0]\n"},
        {"b := b + 1;", "5:8 BOOL and a whole number do not meet in '+'\n"},
        {"t := t * t;", "5:8 '*' needs numbers, not TIME\n"},
        {"t := t + 5;", "5:8 TIME and a whole number do not meet in '+' [a time is written T#500ms, T#1.5s ...]\n"},
        {"b := NOT i;", "5:6 NOT needs BOOL or a bit string, not INT [write TRUE or FALSE, or compare: <> 0]\n"},
        {"i := -b;", "5:6 '-' needs a number or TIME, not BOOL\n"},
        {"r := r MOD 2.0;", "5:8 MOD needs whole numbers\n"},
        {"b := w > i;", "5:8 WORD and INT do not meet in '>'\n"},
        {"IF i THEN ; END_IF;",
         "5:4 this is INT, but the condition of IF needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"CASE r OF 1: ; END_CASE;", "5:6 CASE needs a whole number, not REAL\n"},
        {"CASE i OF u: ; END_CASE;", "5:11 this is UINT, but the CASE needs INT [convert it: UINT_TO_INT(...)]\n"},
        {"CASE i OF i: ; END_CASE;", "5:11 a CASE label is a number or a CONSTANT\n"},
        {"CASE i OF 40000: ; END_CASE;", "5:11 40000 does not fit INT, the type of the CASE\n"},
        {"FOR r := 1 TO 2 DO ; END_FOR;", "5:5 FOR counts with a whole number, 'r' is REAL\n"},
        {"EXIT;", "5:1 EXIT and CONTINUE stand only inside a loop\n"},
        {"%IX0.0 := b;", "5:1 '%IX0.0' cannot be written: it is an input of the controller\n"},
        {"b := %IX0.9;", "5:6 '%IX0.9' is not a valid address [the bit of a byte is 0 to 7]\n"},
        {"b := %IX3;", "5:6 '%IX3' is not a valid address [a bit address needs its bit, such as %IX0.3]\n"},
        {"b := %MX70000.0;", "5:6 '%MX70000.0' is not a valid address [an area holds 65536 bytes]\n"},
        {"i := REAL_TO_INT(b);", "5:18 this is BOOL, but REAL_TO_INT needs REAL [BOOL_TO_INT(...)]\n"},
        {"5 > 3;", "5:1 expected a statement, found '5'\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.statement);
        CHECK(body(row.statement) == std::string(row.message));
    }
}

TEST_CASE("declarations are checked") {
    struct Row {
        const char* text;
        const char* message;
    };
    const Row rows[] = {
        {"PROGRAM p VAR a : INT; A : BOOL; END_VAR END_PROGRAM", "1:24 'A' is declared twice; first at t:1:15\n"},
        {"PROGRAM p VAR a : INTT; END_VAR END_PROGRAM", "1:19 no type is named 'INTT' [did you mean 'INT'?]\n"},
        {"PROGRAM p VAR a : STRING[0]; END_VAR END_PROGRAM", "1:26 a string holds 1 to 16000 characters\n"},
        {"PROGRAM p VAR a AT %IX0 : BOOL; END_VAR END_PROGRAM",
         "1:20 '%IX0' is not a valid address [a bit address needs its bit, such as %IX0.3]\n"},
        {"PROGRAM p VAR a AT %IW0 : BOOL; END_VAR END_PROGRAM",
         "1:20 %IW0 is 2 bytes, but 'a' is BOOL [for BOOL write %IX0.0]\n"},
        {"PROGRAM p VAR a AT %IX0.0 : INT; END_VAR END_PROGRAM",
         "1:20 %IX0.0 is one bit, but 'a' is INT [for INT write %IW0]\n"},
        {"PROGRAM p VAR a AT %QD0 : INT; END_VAR END_PROGRAM",
         "1:20 %QD0 is 4 bytes, but 'a' is INT [for INT write %QW0]\n"},
        {"PROGRAM p VAR a AT %QW0 : TON; END_VAR END_PROGRAM",
         "1:20 %QW0 is 2 bytes, but 'a' is TON [a function block has no address]\n"},
        {"TYPE n : STRING[2] := 'abc'; END_TYPE PROGRAM p VAR a : n; END_VAR END_PROGRAM",
         "1:23 this string is longer than STRING[2], the type of 'n'\n"},
        {"PROGRAM p VAR a__b : INT; END_VAR a__b := 1; END_PROGRAM",
         "1:15 the name 'a__b' has two underscores in a row; the standard allows neither two underscores in a row nor "
         "one at the end\n"},
        {"PROGRAM p VAR a_ : INT; END_VAR END_PROGRAM",
         "1:15 the name 'a_' has an underscore at its end; the standard allows neither two underscores in a row nor "
         "one "
         "at the end\n"},
        {"PROGRAM p VAR a : TIME := T#1ms2s; END_VAR END_PROGRAM",
         "1:27 the units of a time go from the largest to the smallest: 's' stands behind 'ms'\n"},
        {"PROGRAM p VAR a : TIME := T#1.5m2s; END_VAR END_PROGRAM",
         "1:27 only the last unit of a time has a fraction\n"},
        {"PROGRAM p VAR a : TIME := T#2m90s; END_VAR END_PROGRAM",
         "1:27 90s is more than the next larger unit holds; only the first unit of a time may be\n"},
        {"PROGRAM p VAR a : INT := 40000; END_VAR END_PROGRAM", "1:26 40000 does not fit INT, the type of 'a'\n"},
        {"PROGRAM p VAR a : BOOL := 1; END_VAR END_PROGRAM",
         "1:27 this is a whole number, but 'a' needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"PROGRAM p VAR b : INT; a : INT := b; END_VAR END_PROGRAM",
         "1:35 an initial value is a constant [write a literal, or a variable declared CONSTANT]\n"},
        {"PROGRAM p END_PROGRAM PROGRAM p END_PROGRAM", "1:31 'p' is declared twice; first at t:1:9\n"},
        {"FUNCTION_BLOCK TON END_FUNCTION_BLOCK", "1:16 'TON' is a standard function block\n"},
        {"FUNCTION_BLOCK f VAR x : f; END_VAR END_FUNCTION_BLOCK", "1:26 'f' would hold itself\n"},
        {"FUNCTION_BLOCK f VAR_INPUT a : INT; END_VAR a := 1; END_FUNCTION_BLOCK",
         "1:45 'a' cannot be written: it is an input; only the caller writes it\n"},
        {"PROGRAM p VAR_EXTERNAL g : INT; END_VAR g := 1; END_PROGRAM", "1:24 VAR_EXTERNAL 'g' has no VAR_GLOBAL\n"},
        {"VAR_GLOBAL gate : INT; END_VAR FUNCTION_BLOCK f VAR_EXTERNAL gat : INT; END_VAR END_FUNCTION_BLOCK",
         "1:62 VAR_EXTERNAL 'gat' has no VAR_GLOBAL [did you mean 'gate'?]\n"},
        {"FUNCTION f : INT VAR_INPUT a, b, c : INT; END_VAR f := a; END_FUNCTION PROGRAM p VAR x : INT; END_VAR "
         "x := f(1, 2); x := f(a := 1); END_PROGRAM",
         "1:108 a call without names gives all inputs of f; 'c' is missing [name the arguments to leave some at their "
         "initial values: NAME := value]\n"},
        {"PROGRAM p VAR t : TON; END_VAR t(TRUE); t(IN := TRUE); END_PROGRAM",
         "1:32 a call without names gives all inputs of TON; 'PT' is missing [name the arguments to leave some at "
         "their "
         "initial values: NAME := value]\n"},
        {"VAR_GLOBAL g : BOOL; END_VAR PROGRAM p VAR_EXTERNAL g : INT; END_VAR g := 1; END_PROGRAM",
         "1:57 VAR_EXTERNAL 'g' is INT, its VAR_GLOBAL is BOOL\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        CHECK(check(row.text) == std::string(row.message));
    }
}

TEST_CASE("warnings catch what is meant otherwise") {
    CHECK(check("PROGRAM p VAR a, b, c : INT; END_VAR a := b; END_PROGRAM", true) ==
          "1:18 'b' is read, but nothing ever writes it\n1:21 'c' is never used\n");
}

TEST_CASE("addresses that share bits: what is meant, what is doubtful, and all that shares") {
    const auto found = [](const std::string& declarations, const std::string& body = "") {
        base::Diagnostics diagnostics;
        logic::compile({base::make_source(
                           "t", "VAR_GLOBAL\n" + declarations + "\nEND_VAR PROGRAM p\n" + body + "\nEND_PROGRAM\n")},
                       diagnostics);
        diagnostics.sort();
        std::string out;
        for (const base::Diagnostic& d : diagnostics.list())
            out +=
                fmt::format("{}:{} {}: {}\n", d.place.line, d.place.column, base::severity_name(d.severity), d.message);
        return out;
    };
    struct Row {
        const char* declarations;
        const char* body;
        const char* said;
    };
    const Row rows[] = {
        // A part of a larger one is a way of looking at it, in any order and area.
        {"w AT %MW0 : WORD; b AT %MX1.3 : BOOL;", "", ""},
        {"b AT %QX1.3 : BOOL; w AT %QW0 : WORD; d AT %QD0 : DWORD;", "", ""},
        {"l AT %IL8 : LWORD; a AT %IB15 : BYTE; x AT %IX8.0 : BOOL;", "", ""},
        {"a AT %MW0 : ARRAY[0..3] OF INT; b AT %MW4 : INT;", "", ""},
        // Neighbours share nothing.
        {"a AT %QX0.1 : BOOL; b AT %QX0.2 : BOOL; c AT %QB1 : BYTE;", "", ""},
        // Two names.
        {"a AT %MW8 : INT; b AT %MW8 : WORD;", "",
         "2:23 remark: %MW8 has another name already: %MW8 of 'a' at t:2:6\n"},
        {"a AT %QX0.1 : BOOL; b AT %QX0.1 : BOOL;", "",
         "2:26 warning: %QX0.1 has another name already: %QX0.1 of 'a' at t:2:6\n"},
        {"a AT %IW2 : INT; b AT %IW2 : WORD;", "",
         "2:23 warning: %IW2 has another name already: %IW2 of 'a' at t:2:6\n"},
        // Straddling, and all of it.
        {"a AT %MW0 : INT; b AT %MW2 : INT; c AT %MW1 : INT;", "",
         "2:40 warning: %MW1 shares some of its bits, and not all, with %MW0 of 'a' at t:2:6, %MW2 of 'b' at t:2:23\n"},
        // Addresses in code.
        {"a AT %QW2 : INT; b AT %QW4 : INT;", "%QD2 := 16#1;",
         "4:1 remark: what is written to %QD2 is in %QW2 of 'a' at t:2:6, %QW4 of 'b' at t:2:23 too\n"},
        {"a AT %QW2 : INT; n AT %MW0 : DWORD;", "", "2:23 error: %MW0 is 2 bytes, but 'n' is DWORD\n"},
        {"a AT %QW2 : INT; n AT %MD0 : DWORD;", "n := %QD2;", ""},
        {"a AT %QW2 : INT;", "%QW3 := 16#1;",
         "4:1 warning: %QW3 shares some of its bits, and not all, with %QW2 of 'a' at t:2:6\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.declarations);
        CAPTURE(row.body);
        CHECK(found(row.declarations, row.body) == row.said);
    }
}

TEST_CASE("a coil in two places of every scan, across blocks, programs, names and ways") {
    struct Row {
        const char* text;
        const char* said;  ///< What the finding ends with; "" for none.
    };
    const std::string blocks =
        "VAR_GLOBAL run : BOOL; auto AT %IX0.0 : BOOL; END_VAR\n"
        "FUNCTION_BLOCK by_itself run := auto; END_FUNCTION_BLOCK\n"
        "FUNCTION_BLOCK by_hand run := NOT auto; END_FUNCTION_BLOCK\n";
    const Row rows[] = {
        {"PROGRAM p VAR a : by_itself; m : by_hand; END_VAR IF auto THEN a(); ELSE m(); END_IF; END_PROGRAM", ""},
        {"PROGRAM p VAR a : by_itself; m : by_hand; END_VAR a(); m(); END_PROGRAM", "first at t:2:26"},
        {"PROGRAM p VAR a : by_itself; m : by_hand; END_VAR IF auto THEN a(); ELSE a(); END_IF; m(); END_PROGRAM",
         "first at t:2:26"},
        {"PROGRAM p VAR a : by_itself; m : by_hand; END_VAR IF auto THEN a(); END_IF; m(); END_PROGRAM", ""},
        {"PROGRAM p VAR a : by_itself; END_VAR IF auto THEN a(); ELSE a(); END_IF; END_PROGRAM", ""},
        {"PROGRAM p VAR a : by_itself; END_VAR a(); a(); END_PROGRAM", "'a' is called in two places of every scan"},
        // Constants: a default in the same unit is fine, two programs undo one another.
        {"PROGRAM p run := FALSE; run := auto; END_PROGRAM", ""},
        {"PROGRAM p run := TRUE; END_PROGRAM PROGRAM q run := FALSE; END_PROGRAM", "first at t:4:11"},
        {"PROGRAM p run := TRUE; END_PROGRAM PROGRAM q IF auto THEN run := FALSE; END_IF; END_PROGRAM", ""},
        {"PROGRAM p VAR x AT %QX0.1 : BOOL; END_VAR x := auto; END_PROGRAM "
         "PROGRAM q VAR y AT %QX0.1 : BOOL; END_VAR y := NOT auto; END_PROGRAM",
         "first at t:4:43 as 'x'"},
        {"PROGRAM p VAR x AT %QX0.1 : BOOL; END_VAR x := auto; %QX0.1 := NOT auto; END_PROGRAM",
         "first at t:4:43 as 'x'"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        const std::string all = check(blocks + row.text, true);
        const std::size_t at = all.find("in two places");
        const std::string end = std::string(row.said).empty() ? "" : row.said;
        CHECK((at == std::string::npos) == end.empty());
        CHECK_MESSAGE(all.find(end) != std::string::npos, all);
    }
}

TEST_CASE("timers that some way through the logic leaves out") {
    const std::string block =
        "FUNCTION_BLOCK dwell VAR_INPUT go : BOOL; END_VAR VAR t : TON; END_VAR t(IN := go, PT := T#1s); "
        "END_FUNCTION_BLOCK\nFUNCTION_BLOCK outer VAR inner : ARRAY[1..2] OF dwell; END_VAR inner[1](go := TRUE); "
        "END_FUNCTION_BLOCK\nVAR_GLOBAL a AT %IX0.0 : BOOL; END_VAR PROGRAM p VAR t : TON; d : dwell; o : outer; "
        "END_VAR\n";
    struct Row {
        const char* body;
        const char* name;  ///< Of what is left out; "" for none.
    };
    const Row rows[] = {
        {"IF a THEN t(IN := TRUE, PT := T#1s); END_IF;", "the timer 't' is called only"},
        {"IF a THEN t(IN := TRUE, PT := T#1s); ELSE t(IN := FALSE, PT := T#1s); END_IF;", ""},
        {"IF a THEN t(IN := TRUE, PT := T#1s); END_IF; t();", ""},
        {"IF a THEN d(go := TRUE); END_IF;", "'d' is called only under a condition, and the timers in dwell"},
        {"IF a THEN o(); END_IF;", "'o' is called only under a condition, and the timers in outer"},
        {"IF a THEN d(go := TRUE); ELSE IF a THEN d(go := FALSE); ELSE d(); END_IF; END_IF;", ""},
        {"IF a THEN d(go := TRUE); ELSE IF a THEN d(go := FALSE); END_IF; END_IF;", "'d' is called only"},
        {"CASE 1 OF 1: d(go := TRUE); ELSE d(go := FALSE); END_CASE;", ""},
        {"CASE 1 OF 1: d(go := TRUE); 2: d(go := FALSE); END_CASE;", "'d' is called only"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.body);
        const std::string all = check(block + row.body + "\nEND_PROGRAM", true);
        if (std::string(row.name).empty()) {
            CHECK_MESSAGE(all.find("stand") == std::string::npos, all);
        } else {
            CHECK_MESSAGE(all.find(row.name) != std::string::npos, all);
        }
    }
}

TEST_CASE("what a short text could unfold to is bounded, whichever way it is nested") {
    std::string structures = "TYPE s0 : STRUCT a : BYTE; END_STRUCT; END_TYPE\n";
    std::string blocks = "FUNCTION_BLOCK b0 VAR a : BYTE; END_VAR END_FUNCTION_BLOCK\n";
    for (int i = 1; i <= 30; ++i) {
        structures += fmt::format("TYPE s{} : STRUCT a, b : s{}; END_STRUCT; END_TYPE\n", i, i - 1);
        blocks += fmt::format("FUNCTION_BLOCK b{} VAR a, b : b{}; END_VAR END_FUNCTION_BLOCK\n", i, i - 1);
    }
    CHECK(check(structures + "PROGRAM p VAR x : s30; END_VAR END_PROGRAM").find("more than 200000 variables within") !=
          std::string::npos);
    CHECK(check(blocks + "PROGRAM p VAR x : b30; END_VAR END_PROGRAM").find("more than 200000 variables within") !=
          std::string::npos);
    std::string many = structures.substr(0, structures.find("TYPE s17")) + "PROGRAM p VAR ";
    for (int i = 0; i < 20; ++i) many += fmt::format("x{} : s16; ", i);
    CHECK(check(many + "END_VAR END_PROGRAM").find("'p' has more than 200000 variables within") != std::string::npos);
    for (const bool forward : {true, false}) {
        std::string constants = "VAR_GLOBAL CONSTANT\n", chain;
        for (int i = 0; i < 5000; ++i) {
            const int to = forward ? i + 1 : i - 1;
            constants +=
                to < 0 || to >= 5000 ? fmt::format("c{} : INT := 1;\n", i) : fmt::format("c{} : INT := c{};\n", i, to);
        }
        for (int i = 0; i < 20000; ++i) {
            const int to = forward ? i + 1 : i - 1;
            chain += fmt::format("FUNCTION_BLOCK e{}{} END_FUNCTION_BLOCK\n", i,
                                 to < 0 || to >= 20000 ? "" : fmt::format(" EXTENDS e{}", to));
        }
        const std::string constant = check(constants + "END_VAR PROGRAM p END_PROGRAM");
        CHECK((forward ? constant.find("defined by one another more than 500 deep") != std::string::npos
                       : constant.empty()));
        CHECK(check(chain + "PROGRAM p END_PROGRAM").find("blocks extend one another more than 60 deep") !=
              std::string::npos);
    }
}

TEST_CASE("errors in several files are all reported") {
    base::Diagnostics diagnostics;
    logic::compile({base::make_source("a.st", "PROGRAM p x := 1; END_PROGRAM"),
                    base::make_source("b.st", "PROGRAM q y := ; END_PROGRAM")},
                   diagnostics);
    CHECK(diagnostics.error_count() == 2);
}

TEST_CASE("the same global seen from two files") {
    base::Diagnostics diagnostics;
    const auto program = logic::compile({base::make_source("a.st", "VAR_GLOBAL g : INT := 3; END_VAR"),
                                         base::make_source("b.st", "PROGRAM q g := g + 1; END_PROGRAM")},
                                        diagnostics);
    CHECK(program != nullptr);
}

TEST_CASE("blocks nested too deep are refused") {
    std::string text = "FUNCTION_BLOCK f0 VAR_OUTPUT q : BOOL; END_VAR q := TRUE; END_FUNCTION_BLOCK\n";
    for (int i = 1; i < 50; ++i) {
        text += fmt::format("FUNCTION_BLOCK f{} VAR x : f{}; END_VAR x(); END_FUNCTION_BLOCK\n", i, i - 1);
    }
    CHECK(check(text).find("blocks are nested more than 32 deep") != std::string::npos);
}

TEST_CASE("warnings catch the mistakes of the field") {
    struct Row {
        const char* body;
        const char* warning;
    };
    const Row rows[] = {
        {"q := a; q := b;",
         "3:9 'q' is written in two places of every scan; first at t:3:1 [the last one wins; join them with OR]\n"},
        {"t(IN := a); t(IN := b); q := t.Q;", "3:13 't' is called in two places of every scan; first at t:3:1\n"},
        {"r := 2.0; q := r = 1.5;",
         "3:18 REAL values are rarely equal to the last bit [compare with a tolerance: ABS(a - b) < 0.001]\n"},
        {"IF a THEN t(IN := b); END_IF; q := t.Q;",
         "3:11 the timer 't' is called only under a condition and stands still otherwise [call it in every scan, with "
         "the "
         "condition in IN]\n"},
        {"IF 1 > 2 THEN q := a; END_IF;", "3:6 this condition is always FALSE\n"},
        {"IF full THEN q := a; END_IF;", "3:4 this condition is always TRUE\n"},
        {"CASE i OF 1..5: q := a; 3: q := b; END_CASE;",
         "3:25 this label is never reached: one above takes its values\n"},
        {"CASE i OF 5..1: q := a; END_CASE;", "3:11 this range holds no value\n"},
        {"r := i / 2;",
         "3:8 this divides as INT and loses its fraction before it becomes REAL [convert first: INT_TO_REAL(...)]\n"},
        {"d := i * i;",
         "3:8 this multiplies as INT and may overflow before it becomes DINT [convert first: INT_TO_DINT(...)]\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.body);
        const std::string got = check(
            fmt::format("PROGRAM p VAR CONSTANT full : BOOL := TRUE; END_VAR VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT "
                        "q : BOOL; END_VAR\n"
                        "VAR i : INT := 2; d : DINT; r : REAL; t : TON := (PT := T#1s); END_VAR\n{}\nEND_PROGRAM\n",
                        row.body),
            true);
        std::string kept;
        std::istringstream lines(got);
        for (std::string line; std::getline(lines, line);) {
            if (line.find("never used") == std::string::npos) kept += line + "\n";
        }
        CHECK(kept == std::string(row.warning));
    }
}

TEST_CASE("what the third edition adds is checked") {
    struct Row {
        const char* text;
        const char* message;
    };
    const Row rows[] = {
        {"FUNCTION f : INT f := f(); END_FUNCTION",
         "1:23 'f' would call itself [the standard allows no recursion; write a loop]\n"},
        {"FUNCTION f : INT f := g(); END_FUNCTION FUNCTION g : INT g := f(); END_FUNCTION",
         "1:63 'f' would call itself by way of 'g' [the standard allows no recursion; write a loop]\n"},
        {"TYPE t : STRUCT a : t; END_STRUCT; END_TYPE", "1:21 't' would hold itself\n"},
        {"TYPE t : ARRAY[1..3] OF t; END_TYPE", "1:25 't' would hold itself\n"},
        {"TYPE c : (red, green); END_TYPE PROGRAM p VAR x : c; END_VAR x := 1; END_PROGRAM",
         "1:67 this is a whole number, but 'x' needs c [name one of its values, such as c#red]\n"},
        {"TYPE c : (red, green); END_TYPE PROGRAM p VAR x : c; END_VAR x := c#gren; END_PROGRAM",
         "1:67 c has no value 'gren' [did you mean 'green'?]\n"},
        {"PROGRAM p VAR a : ARRAY[1..3] OF INT; END_VAR a[4] := 1; END_PROGRAM", "1:49 index 4 is outside 1..3\n"},
        {"PROGRAM p VAR a : ARRAY[1..3] OF INT; END_VAR a[1, 2] := 1; END_PROGRAM",
         "1:47 'a' has 1 dimension, here are 2 indices\n"},
        {"PROGRAM p VAR a : ARRAY[1..3] OF INT; END_VAR a.x := 1; END_PROGRAM",
         "1:47 'a' is ARRAY[1..3] OF INT and has no part 'x'\n"},
        {"PROGRAM p VAR a : ARRAY[3..1] OF INT; END_VAR END_PROGRAM", "1:25 3..1 is not a valid range of indices\n"},
        {"PROGRAM p VAR a : ARRAY[1..2] OF INT := [1, 2, 3]; END_VAR END_PROGRAM",
         "1:41 'a' has 2 elements, here are more\n"},
        {"PROGRAM p VAR a : ARRAY[1..100000000] OF LREAL; END_VAR END_PROGRAM", "1:19 more than 64 MiB of variables\n"},
        {"PROGRAM p VAR a : INT(0..9) := 10; END_VAR END_PROGRAM", "1:32 10 is outside 0..9, the range of 'a'\n"},
        {"PROGRAM p VAR s : STRING[3] := 'four'; END_VAR END_PROGRAM",
         "1:32 this string is longer than STRING[3], the type of 's'\n"},
        {"PROGRAM p VAR s : STRING; i : INT; END_VAR i := s; END_PROGRAM",
         "1:49 this is STRING, but 'i' needs INT [convert it: STRING_TO_INT(...)]\n"},
        {"PROGRAM p VAR s : STRING; END_VAR s := 5; END_PROGRAM",
         "1:40 this is a whole number, but 's' needs STRING [a string stands in quotes]\n"},
        {"PROGRAM p VAR r : REF_TO INT; i : INT; END_VAR i := r; END_PROGRAM",
         "1:53 this is REF_TO INT, but 'i' needs INT [follow the reference: ^]\n"},
        {"PROGRAM p VAR r : REF_TO INT; b : BOOL; END_VAR r := REF(b); END_PROGRAM",
         "1:54 this is REF_TO BOOL, but 'r' needs REF_TO INT\n"},
        {"FUNCTION f VAR_IN_OUT x : INT; END_VAR x := 1; END_FUNCTION PROGRAM p f(3); END_PROGRAM",
         "1:73 VAR_IN_OUT 'x' needs a variable\n"},
        {"FUNCTION f VAR_IN_OUT x : INT; END_VAR x := 1; END_FUNCTION PROGRAM p f(); END_PROGRAM",
         "1:71 VAR_IN_OUT 'x' of f is not given [write f(x := variable)]\n"},
        {"INTERFACE i METHOD m END_METHOD END_INTERFACE FUNCTION_BLOCK f IMPLEMENTS i END_FUNCTION_BLOCK",
         "1:62 'f' implements i but has no method 'm'\n"},
        {"FUNCTION_BLOCK f METHOD PRIVATE m END_METHOD END_FUNCTION_BLOCK PROGRAM p VAR x : f; END_VAR x.m(); "
         "END_PROGRAM",
         "1:94 'f.m' is PRIVATE: only the block itself calls it\n"},
        {"FUNCTION_BLOCK FINAL f END_FUNCTION_BLOCK FUNCTION_BLOCK g EXTENDS f END_FUNCTION_BLOCK",
         "1:68 'f' is FINAL\n"},
        {"FUNCTION_BLOCK f EXTENDS f END_FUNCTION_BLOCK", "1:26 'f' would extend itself\n"},
        {"FUNCTION_BLOCK f END_FUNCTION_BLOCK PROGRAM p f(); END_PROGRAM",
         "1:47 'f' is a function block type [declare an instance, such as f_1 : f;, and call that]\n"},
        {"PROGRAM p VAR w : WORD; b : BOOL; END_VAR b := w.%X16; END_PROGRAM", "1:48 WORD has no part .%X16\n"},
        {"CONFIGURATION c TASK t(INTERVAL := T#0s); PROGRAM x WITH tt : p; END_CONFIGURATION PROGRAM p END_PROGRAM",
         "1:36 INTERVAL is more than 0\n1:58 no task is named 'tt' [did you mean 't'?]\n"},
        {"PROGRAM p INITIAL_STEP a: END_STEP STEP b: go(X); END_STEP TRANSITION FROM a TO c := TRUE; END_TRANSITION "
         "END_PROGRAM",
         "1:47 expected an action qualifier, found 'X' [known: N, R, S, L, D, P, P0, P1, SD, DS, SL]\n1:81 no step is "
         "named 'c' "
         "[did you mean 'a'?]\n"},
        {"PROGRAM p STEP b: END_STEP END_PROGRAM", "1:16 a chart has one INITIAL_STEP, this one has 0\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        CHECK(check(row.text) == std::string(row.message));
    }
}

TEST_CASE("types and blocks that lead to one another without end are refused, whatever their number") {
    std::string chain;
    for (int i = 0; i < 3000; ++i)
        chain += fmt::format("TYPE t{} : STRUCT a : ARRAY[1..2] OF t{}; END_STRUCT; END_TYPE\n", i, i + 1);
    CHECK(check(chain + "TYPE t3000 : INT; END_TYPE").find("lead to one another more than 60 deep") !=
          std::string::npos);
    CHECK(check("TYPE t : STRUCT a : ARRAY[1..2] OF t; END_STRUCT; END_TYPE PROGRAM p VAR x : t; END_VAR END_PROGRAM")
              .find("'t' would hold itself") != std::string::npos);
    std::string blocks;
    for (int i = 0; i < 3000; ++i)
        blocks += fmt::format("FUNCTION_BLOCK f{0} VAR x : f{1}; END_VAR END_FUNCTION_BLOCK\n", i, i + 1);
    CHECK(check(blocks + "FUNCTION_BLOCK f3000 END_FUNCTION_BLOCK PROGRAM p VAR x : f0; END_VAR x(); END_PROGRAM")
              .find(" deep") != std::string::npos);
    std::string parents;
    for (int i = 0; i < 3000; ++i)
        parents += fmt::format("FUNCTION_BLOCK f{0} EXTENDS f{1} END_FUNCTION_BLOCK\n", i, i + 1);
    CHECK(check(parents + "FUNCTION_BLOCK f3000 END_FUNCTION_BLOCK").find(" deep") != std::string::npos);
    std::string interfaces = "INTERFACE i0 END_INTERFACE\n";
    for (int i = 1; i < 3000; ++i) interfaces += fmt::format("INTERFACE i{0} EXTENDS i{1} END_INTERFACE\n", i, i - 1);
    check(interfaces + "FUNCTION_BLOCK f IMPLEMENTS i2999 END_FUNCTION_BLOCK");
    std::string calls;
    for (int i = 0; i < 3000; ++i) calls += fmt::format("FUNCTION g{0} : INT g{0} := g{1}(); END_FUNCTION\n", i, i + 1);
    CHECK(check(calls + "FUNCTION g3000 : INT END_FUNCTION").find("calls are nested more than 200 deep") !=
          std::string::npos);
}
