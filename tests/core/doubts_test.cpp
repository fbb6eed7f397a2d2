// What is well-formed and hardly meant: each doubt with what raises it, and what comes close and does not.
#include "core/support.hpp"

using namespace vyard;
using test::PlantText;

namespace {

/// "never-off 3:5" of each warning of the program, in order of place.
std::string doubts(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto program = logic::compile({base::make_source("t.st", text)}, diagnostics);
    const std::string problems = diagnostics.has_errors() ? diagnostics.render() : "";
    REQUIRE_MESSAGE(program != nullptr, problems);
    logic::warn_foreseen(*program, {}, diagnostics);
    diagnostics.sort();
    std::string out;
    for (const base::Diagnostic& d : diagnostics.list()) {
        const std::string code = base::code_name(d.code);
        if (code != "never-off" && code != "no-way-out" && code != "copies-over" && code != "beyond-array") continue;
        out += fmt::format("{} {}:{}\n", code, d.place.line, d.place.column);
    }
    return out;
}

std::string program(const std::string& body, const std::string& variables = "") {
    return "VAR_GLOBAL\n  a, b, c, run : BOOL;\nEND_VAR\nPROGRAM p\nVAR " + variables + " END_VAR\n" + body +
           "\nEND_PROGRAM\n";
}

}  // namespace

TEST_CASE("never-off: a seal-in that nothing breaks") {
    CHECK(doubts(program("run := run OR a AND b;")) == "never-off 6:1\n");
    CHECK(doubts(program("run := a OR run;")) == "never-off 6:1\n");
    CHECK(doubts(program("run := a AND b OR run OR c;")) == "never-off 6:1\n");
    for (const char* right :
         {"run := (run OR a) AND b;", "run := run AND b OR a;", "run := a OR b AND c;",
          "run := run OR a; IF b THEN run := FALSE; END_IF;", "run := NOT run OR a;", "run := run XOR a;"})
        CHECK_MESSAGE(doubts(program(right)).empty(), right);
    // What others write ends it: another program, a block by its output or by what is handed over.
    CHECK(doubts(program("run := run OR a;") + "PROGRAM q run := FALSE; END_PROGRAM\n").empty());
    CHECK(doubts(program("run := run OR a; t(IN := b, Q => run);", "t : TON;")).empty());
    CHECK(doubts("FUNCTION_BLOCK f VAR_IN_OUT x : BOOL; END_VAR x := FALSE; END_FUNCTION_BLOCK\n" +
                 program("run := run OR a; g(x := run);", "g : f;"))
              .empty());
    // Of two programs' own variables of one place each, one is not the other.
    CHECK(doubts(
              "PROGRAM p VAR x, y : BOOL; END_VAR x := x OR y; END_PROGRAM\nPROGRAM q VAR x, y : BOOL; END_VAR x := y; "
              "END_PROGRAM\n") == "never-off 1:36\n");
    // In ladder too.
    CHECK(doubts(program("LADDER\n|  a          run  |\n+-| |---+-----( )--+\n|  run  |          |\n+-| |---+          "
                         "|\nEND_LADDER"))
              .starts_with("never-off"));
}

TEST_CASE("never-off: what is only ever set, and bistables that nothing resets") {
    CHECK(doubts(program("IF a THEN run := TRUE; END_IF;")) == "never-off 6:11\n");
    CHECK(doubts(program("IF a THEN run := TRUE; END_IF; run := run OR b;")) == "never-off 6:11\n");
    CHECK(
        doubts(program("CASE BOOL_TO_INT(a) OF 1: IF b THEN run := TRUE; END_IF; END_CASE;")).starts_with("never-off"));
    for (const char* right :
         {"IF a THEN run := TRUE; ELSE run := FALSE; END_IF;", "run := FALSE; IF a THEN run := TRUE; END_IF;",
          "IF a THEN run := TRUE; END_IF; IF b THEN run := c; END_IF;", "run := TRUE;",
          "IF NOT run THEN c := a; run := TRUE; END_IF;", "IF a THEN run := b; END_IF;"})
        CHECK_MESSAGE(doubts(program(right)).empty(), right);
    // What lives for one call begins anew.
    CHECK(
        doubts("FUNCTION any : BOOL VAR_INPUT x : BOOL; END_VAR VAR f : BOOL; END_VAR IF x THEN f := TRUE; END_IF; any "
               ":= f; END_FUNCTION\n" +
               program("run := any(a);"))
            .empty());
    const std::string kBlock =
        "FUNCTION_BLOCK keeper VAR_INPUT x : BOOL; END_VAR VAR_OUTPUT y : BOOL; END_VAR IF x THEN y := TRUE; END_IF; "
        "END_FUNCTION_BLOCK\n";
    CHECK(doubts(kBlock + program("k(x := a);", "k : keeper;")) == "never-off 1:90\n");

    const std::string kStores = "s : SR; r : RS;";
    CHECK(doubts(program("s(S1 := a); run := s.Q1;", kStores)) == "never-off 6:1\n");
    CHECK(doubts(program("s(S1 := a, R := FALSE); run := s.Q1;", kStores)) == "never-off 6:1\n");
    CHECK(doubts(program("r(S := a); run := r.Q1;", kStores)) == "never-off 6:1\n");
    for (const char* right :
         {"s(S1 := a, R := b); run := s.Q1;", "r(S := a, R1 := b); run := r.Q1;", "s.R := b; s(S1 := a); run := s.Q1;",
          "s(S1 := a); s.R := b; run := s.Q1;", "s(S1 := a); s(R := b); run := s.Q1;"})
        CHECK_MESSAGE(doubts(program(right, kStores)).empty(), right);
}

TEST_CASE("no-way-out: a step of a chart without a transition") {
    const auto chart = [](const std::string& back) {
        return "PROGRAM q VAR_EXTERNAL a : BOOL; END_VAR\nINITIAL_STEP rest: END_STEP\nTRANSITION FROM rest TO work := "
               "a; "
               "END_TRANSITION\nSTEP work: END_STEP\n" +
               back + "END_PROGRAM\n";
    };
    const std::string globals = "VAR_GLOBAL a : BOOL; END_VAR\n";
    CHECK(doubts(globals + chart("")) == "no-way-out 5:6\n");
    CHECK(doubts(globals + chart("TRANSITION FROM work TO rest := NOT a; END_TRANSITION\n")).empty());
}

TEST_CASE("never-read: a timer or counter that is called, and of which nothing is read") {
    const auto unread = [](const std::string& body, const std::string& variables) {
        base::Diagnostics diagnostics;
        REQUIRE(logic::compile({base::make_source("t.st", program(body, variables))}, diagnostics) != nullptr);
        std::string out;
        for (const base::Diagnostic& d : diagnostics.list()) {
            if (d.code == base::Code::NeverRead && d.message.find("is called") != std::string::npos)
                out += d.message + "\n";
        }
        return out;
    };
    CHECK(unread("t(IN := a, PT := T#1s);", "t : TON;") == "'t' (TON) is called, and nothing reads what it gives\n");
    CHECK(unread("k(CU := a, R := b, PV := 5);", "k : CTU;") ==
          "'k' (CTU) is called, and nothing reads what it gives\n");
    for (const char* right :
         {"t(IN := a, PT := T#1s); run := t.Q;", "t(IN := a, PT := T#1s, Q => run);",
          "t(IN := a, PT := T#1s); IF t.ET > T#500ms THEN run := b; END_IF;", "run := t.Q; t(IN := a, PT := T#1s);"})
        CHECK_MESSAGE(unread(right, "t : TON;") == "", right);
    CHECK(unread("e(CLK := a);", "e : R_TRIG;") == "");
    CHECK(
        unread("t(IN := a, PT := T#1s); g(x := t);",
               "t : TON; g : taker; END_VAR END_PROGRAM FUNCTION_BLOCK taker VAR_IN_OUT x : TON; END_VAR VAR y : BOOL; "
               "END_VAR y := x.Q; END_FUNCTION_BLOCK PROGRAM q VAR t : TON; g : taker;") == "");
}

TEST_CASE("never-off and all others are silenced by a comment with their code and a reason, and by nothing else") {
    const std::string wrong = "run := run OR a;";
    CHECK(doubts(program(wrong + "   // allow never-off: a flag of the first scan")).empty());
    CHECK(doubts(program("(* allow never-off: reset by the panel *)\n" + wrong)).empty());
    CHECK(doubts(program("// allow never-off: \n" + wrong)) == "never-off 7:1\n");
    CHECK(doubts(program("(* allow never-off: *)\n" + wrong)) == "never-off 7:1\n");
    CHECK(doubts(program("// allow no-way-out: another code\n" + wrong)) == "never-off 7:1\n");
    CHECK(doubts(program("// allow never-off: too far above\n\n" + wrong)) == "never-off 8:1\n");
}

TEST_CASE("no-way-out: a step of a CASE that nothing leaves") {
    const std::string kVariables = "s : (one, two, three); n : INT;";
    CHECK(doubts(program("CASE s OF\none: IF a THEN s := two; END_IF;\ntwo: run := b;\nthree: s := one;\nEND_CASE;",
                         kVariables)) == "no-way-out 8:1\n");
    CHECK(doubts(program("CASE n OF\n0: n := 1;\n1, 2: n := 3;\n3..5: run := a;\nELSE run := b;\nEND_CASE;",
                         kVariables)) == "no-way-out 9:1\n");
    // Set elsewhere, or a CASE that only looks.
    CHECK(
        doubts(program("CASE s OF\none: s := two;\ntwo: run := b;\nEND_CASE;\nIF c THEN s := one; END_IF;", kVariables))
            .empty());
    CHECK(doubts(program("CASE s OF\none: run := a;\ntwo: run := b;\nEND_CASE;", kVariables)).empty());
    CHECK(
        doubts(program("CASE s OF\none: CASE n OF 1: s := two; 2: n := 1; END_CASE;\ntwo: s := one;\nEND_CASE; n := 1;",
                       kVariables))
            .empty());
}

TEST_CASE("copies-over: a loop that reads what it has just written, in either direction") {
    const std::string kVariables = "i : INT; h, g : ARRAY [0..9] OF INT;";
    for (const char* wrong :
         {"FOR i := 0 TO 8 DO h[i + 1] := h[i]; END_FOR;", "FOR i := 1 TO 9 DO h[i] := h[i - 1]; END_FOR;",
          "FOR i := 9 TO 1 BY -1 DO h[i - 1] := h[i]; END_FOR;"})
        CHECK_MESSAGE(doubts(program(wrong, kVariables)).starts_with("copies-over 6:"), wrong);
    for (const char* right :
         {"FOR i := 8 TO 0 BY -1 DO h[i + 1] := h[i]; END_FOR;", "FOR i := 0 TO 8 DO h[i] := h[i + 1]; END_FOR;",
          "FOR i := 0 TO 8 DO h[i + 1] := g[i]; END_FOR;", "FOR i := 0 TO 8 DO h[i] := h[i] + 1; END_FOR;"})
        CHECK_MESSAGE(doubts(program(right, kVariables)).empty(), right);
}

TEST_CASE("beyond-array: the product of bounds, offsets and directions, against counting") {
    int wrong = 0;
    for (int low = -1; low <= 2; ++low) {
        for (int high = low; high <= 6; ++high) {
            for (int offset = -1; offset <= 1; ++offset) {
                for (const bool down : {false, true}) {
                    const std::string body =
                        down ? fmt::format("FOR i := {} TO {} BY -1 DO h[i + {}] := 0; END_FOR;", high, low, offset)
                             : fmt::format("FOR i := {} TO {} DO h[i + {}] := 0; END_FOR;", low, high, offset);
                    bool outside = false;
                    for (int i = low; i <= high; ++i) outside = outside || i + offset < 0 || i + offset > 5;
                    wrong += outside ? 1 : 0;
                    const std::string said = doubts(program(body, "i : INT; h : ARRAY [0..5] OF INT;"));
                    CHECK_MESSAGE((said.starts_with("beyond-array") == outside), (body + said));
                }
            }
        }
    }
    CHECK(wrong > 20);
    CHECK(doubts(program("FOR i := 0 TO 9 DO IF i < 5 THEN h[i + 1] := 0; END_IF; END_FOR;",
                         "i : INT; h : ARRAY [0..5] OF INT;"))
              .empty());
    CHECK(doubts(program("FOR i := 0 TO 9 DO h[i] := 0; IF a THEN EXIT; END_IF; END_FOR;",
                         "i : INT; h : ARRAY [0..5] OF INT;"))
              .empty());
}

namespace {

/// What `unguarded` says of a motor and a cylinder with an e-stop and the motor's overload.
std::string unguarded(const std::string& body, const std::string& more = "") {
    PlantText p;
    p.add("motor.m", {})
        .add("cylinder.c", {{"stroke", "100 mm"}})
        .add("estop.e", {})
        .add("lamp.l", {})
        .add("button.s", {});
    const std::string text =
        more +
        "VAR_GLOBAL ok AT %IX0.0 : BOOL; heal AT %IX0.1 : BOOL; s AT %IX0.2 : BOOL; m AT %QX0.0 : BOOL; c "
        "AT %QX0.1 : BOOL; l AT %QX0.2 : BOOL; mid : BOOL; END_VAR\nPROGRAM p VAR t : TON; END_VAR\n" +
        body + "\nEND_PROGRAM\n";
    const auto model = test::build(test::make_definition(text, p,
                                                         {{"ok", "e", ""},
                                                          {"heal", "m.overload_contact", ""},
                                                          {"s", "s", ""},
                                                          {"m", "m.run", ""},
                                                          {"c", "c.extend", ""},
                                                          {"l", "l", ""}}));
    base::Diagnostics diagnostics;
    session::warn_unguarded(model, diagnostics);
    std::string out;
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.code == base::Code::Unguarded) out += d.message + "\n";
    }
    return out;
}

}  // namespace

TEST_CASE("unguarded: an output that moves something, without the e-stop, or without its own overload") {
    CHECK(unguarded("m := s AND ok AND heal; c := s AND ok; l := s;").empty());
    CHECK(unguarded("m := s AND heal; c := s AND ok; l := s;") ==
          "'m' moves 'm', and 'ok' (an estop) has no say in it\n");
    CHECK(unguarded("m := s AND ok; c := s AND ok; l := s;") ==
          "'m' moves 'm', and 'heal' (a motor) has no say in it\n");
    CHECK(unguarded("m := s AND ok AND heal; c := s; l := ok;") ==
          "'c' moves 'c', and 'ok' (an estop) has no say in it\n");
    // Through what stands between: variables, conditions, timers, CASE, what ended a program early.
    for (const char* way :
         {"mid := s AND ok AND heal; m := mid; c := mid;", "IF ok AND heal THEN m := s; c := s; END_IF;",
          "t(IN := ok AND heal, PT := T#1s); m := t.Q; c := t.Q;",
          "IF NOT ok OR NOT heal THEN m := FALSE; c := FALSE; ELSE m := s; c := s; END_IF;",
          "CASE BOOL_TO_INT(ok AND heal) OF 1: m := s; c := s; ELSE m := FALSE; c := FALSE; END_CASE;",
          "m := FALSE; c := FALSE; IF NOT (ok AND heal) THEN RETURN; END_IF; m := s; c := s;"})
        CHECK_MESSAGE(unguarded(way).empty(), way);
    CHECK(unguarded(
              "f(x := ok AND heal, y => mid); m := mid; c := f.y;",
              "FUNCTION_BLOCK fb VAR_INPUT x : BOOL; END_VAR VAR_OUTPUT y : BOOL; END_VAR y := x; END_FUNCTION_BLOCK\n"
              "VAR_GLOBAL f : fb; END_VAR\n")
              .empty());
    // A block that looks at the global itself.
    CHECK(
        unguarded("f(x := s); m := f.y AND heal; c := f.y;",
                  "FUNCTION_BLOCK fb VAR_EXTERNAL ok : BOOL; END_VAR VAR_INPUT x : BOOL; END_VAR VAR_OUTPUT y : BOOL; "
                  "END_VAR y := x AND ok; END_FUNCTION_BLOCK\nVAR_GLOBAL f : fb; END_VAR\n")
            .empty());
}

namespace {

/// "code: message" of what is said of contacts and of supervision: a motor with a feedback and its overload, an e-stop,
/// start and stop buttons.
std::string contacts(const std::string& condition, const std::string& more, const std::string& stop_contact,
                     const std::string& estop_contact, const std::string& inverted = "") {
    PlantText p;
    p.add("motor.m", {})
        .add("estop.e", {{"contact", estop_contact}})
        .add("button.go", {})
        .add("button.halt", {{"contact", stop_contact}});
    const auto model =
        test::build(test::make_definition("VAR_GLOBAL ok AT %IX0.0 : BOOL; heal AT %IX0.1 : BOOL; go AT %IX0.2 : BOOL; "
                                          "halt AT %IX0.3 : BOOL; runs AT "
                                          "%IX0.4 : BOOL; m AT %QX0.0 : BOOL; late : BOOL; END_VAR\nPROGRAM p VAR t : "
                                          "TON; f : F_TRIG; b : SR; s : INT; "
                                          "END_VAR\n" +
                                              condition + more + "\nEND_PROGRAM\n",
                                          p,
                                          {{"ok", "e", inverted},
                                           {"heal", "m.overload_contact", ""},
                                           {"go", "go", ""},
                                           {"halt", "halt", ""},
                                           {"runs", "m.running", ""},
                                           {"m", "m.run", ""}}));
    base::Diagnostics diagnostics;
    session::warn_unguarded(model, diagnostics);
    std::string out;
    for (const base::Diagnostic& d : diagnostics.list()) {
        const std::string code = base::code_name(d.code);
        if (code == "wrong-sense" || code == "unsafe-contact" || code == "unsupervised")
            out += fmt::format("{} {}\n", code, d.message.substr(0, d.message.find(' ')));
    }
    return out;
}

}  // namespace

TEST_CASE("wrong-sense: how a contact reads while all is well, against all ways in which the logic may take it") {
    const std::string kTimed = " t(IN := m AND NOT runs, PT := T#2s); late := t.Q;";
    const struct {
        const char* logic;  ///< %S: the stop button as the logic takes it.
        bool told;          ///< Whether it pulls one way only, so that it can be told.
    } kForms[] = {
        {"m := (go OR m) AND ok AND heal AND %S;", true},
        {"m := (go OR m) AND NOT (NOT ok OR NOT heal OR NOT (%S));", true},
        {"IF NOT (%S) THEN m := FALSE; ELSIF go AND ok AND heal THEN m := TRUE; END_IF; IF NOT ok OR NOT heal THEN m "
         ":= "
         "FALSE; END_IF;",
         true},
        {"b(S1 := go, R := NOT (%S)); m := b.Q1 AND ok AND heal;", true},
        {"f(CLK := %S); IF f.Q THEN m := FALSE; ELSIF go THEN m := TRUE; END_IF; m := m AND ok AND heal;", true},
        {"CASE s OF 0: IF go THEN s := 1; END_IF; 1: IF NOT (%S) THEN s := 0; END_IF; END_CASE; m := s = 1 AND ok AND "
         "heal;",
         true},
        {"IF NOT (%S) THEN s := 5; ELSE s := 0; END_IF; m := (go OR m) AND s = 0 AND ok AND heal;", true},
        {"IF NOT (%S) AND s = 0 THEN s := 5; ELSIF go AND (%S) THEN s := 0; END_IF; m := (go OR m) AND s < 3 AND ok "
         "AND heal;",
         true},
        {"s := SEL(%S, 7, 0); CASE s OF 0: IF go THEN m := TRUE; END_IF; ELSE m := FALSE; END_CASE; IF NOT (ok AND "
         "heal) THEN m := FALSE; END_IF;",
         true},
        {"m := (go OR m) AND ok AND heal AND (%S XOR runs);", false},
        {"m := ok AND heal; late := %S;", false},
    };
    for (const auto& form : kForms) {
        for (const bool closed : {true, false}) {
            for (const bool negated : {true, false}) {
                std::string text = form.logic;
                for (std::size_t at = text.find("%S"); at != std::string::npos; at = text.find("%S"))
                    text.replace(at, 2, negated ? "NOT halt" : "halt");
                // Well wired and well taken: closed and plain, open and negated. An open one is no safe contact.
                const bool wrong = form.told && closed == negated;
                std::string expected = closed ? "" : "unsafe-contact 'halt'\n";
                if (wrong) expected += "wrong-sense 'halt'\n";
                CHECK_MESSAGE(
                    contacts(text, kTimed, closed ? "normally closed" : "normally open", "normally closed") == expected,
                    text);
            }
        }
    }
    // The motor's own overload, healthy while TRUE.
    CHECK(contacts("m := (go OR m) AND ok AND NOT heal AND halt;", kTimed, "normally closed", "normally closed") ==
          "wrong-sense 'heal'\n");
    // Of the e-stop the map may turn it round.
    const std::string kPlain = "m := (go OR m) AND ok AND heal AND halt;";
    const std::string kTurned = "m := (go OR m) AND NOT ok AND heal AND halt;";
    CHECK(contacts(kPlain, kTimed, "normally closed", "normally closed", "invert") == "wrong-sense 'ok'\n");
    CHECK(contacts(kTurned, kTimed, "normally closed", "normally closed", "invert") == "");
    CHECK(contacts(kTurned, kTimed, "normally closed", "normally open") == "unsafe-contact 'ok'\n");
    CHECK(contacts(kPlain, kTimed, "normally closed", "normally open") == "unsafe-contact 'ok'\nwrong-sense 'ok'\n");
}

TEST_CASE("unsupervised: a device that tells what it does, to logic in which no timer depends on that") {
    const std::string kPlain = "m := (go OR m) AND ok AND heal AND halt;";
    const auto said = [&](const std::string& more) {
        return contacts(kPlain, more, "normally closed", "normally closed");
    };
    CHECK(said("") == "unsupervised 'm'\n");
    CHECK(said(" late := m AND NOT runs;") == "unsupervised 'm'\n");
    CHECK(said(" t(IN := m, PT := T#2s); late := t.Q AND NOT runs;") == "unsupervised 'm'\n");
    CHECK(said(" t(IN := m AND NOT runs, PT := T#2s); late := t.Q;") == "");
    CHECK(said(" late := m AND NOT runs; t(IN := late, PT := T#2s);") == "");
    CHECK(said(" IF runs THEN s := 1; END_IF; t(IN := s = 1, PT := T#2s);") == "");
}
