// What is foreseen of numbers: each warning with what raises it, and what comes close and does not; ranges against a
// plain oracle that executes the program.
#include "core/support.hpp"

using namespace vyard;

namespace {

using logic::Interval;

/// "overflow 3:5" of each warning that is foreseen, in order of place.
std::string foreseen(const std::string& text, const logic::ForeseenFacts& facts = {}) {
    base::Diagnostics diagnostics;
    const auto program = logic::compile({base::make_source("t.st", text)}, diagnostics);
    const std::string problems = diagnostics.has_errors() ? diagnostics.render() : "";
    REQUIRE_MESSAGE(program != nullptr, problems);
    base::Diagnostics found;
    logic::warn_foreseen(*program, facts, found);
    found.sort();
    std::string out;
    for (const base::Diagnostic& d : found.list())
        out += fmt::format("{} {}:{}\n", base::code_name(d.code), d.place.line, d.place.column);
    return out;
}

std::string program(const std::string& body, const std::string& variables = "") {
    return "VAR_GLOBAL\n  a, b, run : BOOL; raw AT %IW0 : INT; list : ARRAY[1..10] OF INT;\nEND_VAR\nPROGRAM p\nVAR " +
           variables + " END_VAR\n" + body + "\nEND_PROGRAM\n";
}

logic::ForeseenFacts analog(Interval::Number low, Interval::Number high, std::optional<Interval::Number> broken = {}) {
    logic::AnalogInput a;
    a.node = {-1, logic::Space::Inputs, 0, -1};
    a.tag = "raw";
    a.stated = logic::between(low, high, true);
    const Interval::Number quarter = (high - low) / 4;
    a.possible = logic::between(low - quarter, high + quarter, true);
    a.broken = broken;
    return {{a}, {}, std::chrono::milliseconds(10)};
}

}  // namespace

TEST_CASE("overflow: whole numbers that what is stated makes too large for their type") {
    CHECK(foreseen(program("x := raw * 2;", "x : INT;"), analog(0, 20000)) == "overflow 6:10\n");
    CHECK(foreseen(program("x := raw * 100 / 27648;", "x : INT;"), analog(0, 27648)) == "overflow 6:10\n");
    CHECK(foreseen(program("x := INT_TO_SINT(raw);", "x : SINT;"), analog(0, 200)) == "overflow 6:6\n");
    CHECK(foreseen(program("x := REAL_TO_INT(INT_TO_REAL(raw) * 10.0);", "x : INT;"), analog(0, 27648)) ==
          "overflow 6:6\n");
    CHECK(foreseen(program("x := LIMIT(0, raw, 1000) * LIMIT(0, raw, 1000);", "x : INT;")) == "overflow 6:26\n");
    CHECK(foreseen(program("x := -raw;", "x : INT;"), analog(-32768, 0)) == "overflow 6:6\n");
    CHECK(foreseen(program("x := ABS(raw);", "x : INT;"), analog(-32768, 0)) == "overflow 6:6\n");
    for (const char* right : {"x := raw / 2;", "x := raw + 5000;", "y := INT_TO_DINT(raw) * 100;",
                              "x := MIN(raw, 100) * 100;", "IF raw < 300 THEN x := raw * 100; END_IF;", "x := x + 1;",
                              "x := x + raw / 100;", "IF b THEN x := 0; ELSE x := x + raw; END_IF;"})
        CHECK_MESSAGE(foreseen(program(right, "x : INT; y : DINT;"), analog(0, 27000)) == "", right);
    // What nothing is said of may be anything, and is not complained of.
    CHECK(foreseen(program("x := raw * 2;", "x : INT;")) == "");
    // Differences of counts without sign.
    CHECK(foreseen(program("IF a THEN u := 5; ELSE u := 0; END_IF; IF b THEN v := 3; ELSE v := 0; END_IF; w := u - v;",
                           "u, v, w : UINT;")) == "");
}

TEST_CASE("never-true, always-true: comparisons that their sides decide") {
    const std::string kCount = "n := n + 1; IF n >= 10 THEN n := 0; END_IF;\n";
    CHECK(foreseen(program(kCount + "run := n = 10;", "n : INT;")) == "never-true 7:10\n");
    CHECK(foreseen(program(kCount + "run := n = 9;", "n : INT;")) == "");
    CHECK(foreseen(program("IF n >= 10 THEN n := 0; END_IF; n := n + 1;\nrun := n > 10;", "n : INT;")) ==
          "never-true 7:10\n");
    CHECK(foreseen(program("run := u < 0;", "u : UINT;")) == "never-true 6:10\n");
    CHECK(foreseen(program("run := raw > 30000;"), analog(0, 20000)) == "never-true 6:12\n");
    CHECK(foreseen(program("run := raw > 24000;"), analog(0, 20000)) == "");
    CHECK(foreseen(program("run := n <> 3 OR n <> 4;", "n : INT;")) == "always-true 6:20\n");
    CHECK(foreseen(program("run := raw > 10 AND raw < 5;")) == "never-true 6:25\n");
    CHECK(foreseen(program("run := raw > 10 OR raw < 5;")) == "");
    CHECK(foreseen(program("run := NOT (raw > 10) AND raw > 10;")) == "never-true 6:31\n");
    // A timer's ET ends at its PT.
    CHECK(foreseen(program("t(IN := a, PT := T#5s); run := t.ET > T#6s;", "t : TON;")) == "never-true 6:37\n");
    CHECK(foreseen(program("t(IN := a, PT := T#5s); run := t.ET >= T#5s;", "t : TON;")) == "");
    CHECK(foreseen(program("t(IN := a, PT := T#5s); u(IN := a, PT := T#9s); run := t.ET > u.ET;", "t, u : TON;")) ==
          "");
    // A command that only others give, and constants.
    CHECK(foreseen("VAR_GLOBAL cmd : INT; run : BOOL; END_VAR PROGRAM p IF cmd = 5 THEN run := TRUE; cmd := 0; END_IF; "
                   "END_PROGRAM") == "");
    CHECK(foreseen(program("run := kind = 2;", "END_VAR VAR CONSTANT kind : INT := 1;")) == "");
    // Through a function, with the arguments of each call; through a block, with those of all.
    const std::string kTwice = "FUNCTION twice : INT VAR_INPUT x : INT; END_VAR twice := x * 2; END_FUNCTION\n";
    CHECK(foreseen(kTwice + program("run := twice(3) = 7;\nrun := twice(4) = 8;")) == "never-true 7:17\n");
    const std::string kBlock =
        "FUNCTION_BLOCK f VAR_INPUT x : INT; END_VAR VAR_OUTPUT y : INT; END_VAR y := x * 2; END_FUNCTION_BLOCK\n";
    CHECK(foreseen(kBlock + program("g(x := 3); h(x := 4);\nrun := g.y = 8;\nrun := g.y = 9;", "g, h : f;")) ==
          "never-true 9:12\n");
    // What two programs write is what either writes.
    CHECK(foreseen("VAR_GLOBAL s : INT; run : BOOL; END_VAR PROGRAM p s := 1; run := s = 7; END_PROGRAM\n"
                   "PROGRAM q s := 2; END_PROGRAM PROGRAM r run := s = 2; END_PROGRAM") == "never-true 1:68\n");
    // By reference, by address, in parts: anything.
    CHECK(foreseen(program("r := REF(n); r^ := 5; n := 1; run := n = 5;", "n : INT; r : REF_TO INT;")) == "");
    CHECK(foreseen(program("w := 1; w.%X3 := a; run := w = 9;", "w : WORD;")) == "");
    CHECK(foreseen("FUNCTION_BLOCK f VAR_IN_OUT x : INT; END_VAR x := 5; END_FUNCTION_BLOCK\n" +
                   program("g(x := n); run := n = 5; n := 1;", "n : INT; g : f;")) == "");
}

TEST_CASE("divides-by-zero, and divisions that are always 0") {
    CHECK(foreseen(program("n := n + 1; IF n > 5 THEN n := 0; END_IF;\nx := 100 / n;", "n, x : INT;")) ==
          "divides-by-zero 7:10\n");
    CHECK(foreseen(program("IF a THEN n := 0; ELSE n := 4; END_IF;\nx := 100 MOD n;", "n, x : INT;")) ==
          "divides-by-zero 7:10\n");
    for (const char* right : {"IF n <> 0 THEN x := 100 / n; END_IF;", "IF n > 0 THEN x := 100 / n; END_IF;",
                              "x := 100 / MAX(n, 1);", "x := 100 / raw;"})
        CHECK_MESSAGE(
            foreseen(program("n := n + 1; IF n > 5 THEN n := 0; END_IF;\n" + std::string(right), "n, x : INT;")) == "",
            right);
    CHECK(foreseen(program("x := raw / 27648 * 100;", "x : INT;"), analog(0, 27000)) == "computed-narrow 6:10\n");
    CHECK(foreseen(program("x := raw / 270 * 100;", "x : INT;"), analog(0, 27000)) == "");
}

TEST_CASE("beyond-array by what an index may be") {
    const std::string kCount = "n := n + 1; IF n > 10 THEN n := ";
    CHECK(foreseen(program(kCount + "0; END_IF;\nlist[n] := 1;", "n : INT;")) == "beyond-array 7:1\n");
    CHECK(foreseen(program(kCount + "1; END_IF;\nlist[n] := 1;", "n : INT := 1;")) == "");
    CHECK(foreseen(program("FOR i := 0 TO 10 DO IF a THEN list[i] := 1; END_IF; END_FOR;", "i : INT;")) ==
          "beyond-array 6:31\n");
    CHECK(foreseen(program("FOR i := 1 TO 9 DO IF a THEN list[i + 1] := list[i]; END_IF; END_FOR;", "i : INT;")) == "");
    CHECK(foreseen(program("FOR i := 10 TO 1 BY -1 DO list[i] := 0; END_FOR; IF a THEN list[raw] := 1; END_IF;",
                           "i : INT;")) == "");
    CHECK(foreseen(program("FOR i := 1 TO 20 DO IF i <= 10 THEN list[i] := 1; END_IF; END_FOR;", "i : INT;")) == "");
}

TEST_CASE("no-branch, unreachable-case: a sequence whose numbers do not meet") {
    const std::string kSteps = "CASE s OF\n0: IF a THEN s := 10; END_IF;\n10: IF b THEN s := ";
    CHECK(foreseen(program(kSteps + "25; END_IF;\n20: s := 0;\nEND_CASE;", "s : INT;")) ==
          "no-branch 6:6\nunreachable-case 9:1\n");
    CHECK(foreseen(program(kSteps + "20; END_IF;\n20: s := 0;\nEND_CASE;", "s : INT;")) == "");
    CHECK(foreseen(program(kSteps + "25; END_IF;\nELSE s := 0;\nEND_CASE;", "s : INT;")) == "");
    CHECK(foreseen(program(kSteps + "25; END_IF;\nEND_CASE; IF s = 25 THEN s := 0; END_IF;", "s : INT;")) == "");
    CHECK(foreseen(program(kSteps + "15; END_IF;\n11..19: s := 0;\nEND_CASE;", "s : INT;")) == "");
    CHECK(foreseen(program("CASE s OF\none: IF a THEN s := two; END_IF;\ntwo: s := one;\nthree: s := one;\nEND_CASE;",
                           "s : (one, two, three);")) == "unreachable-case 9:1\n");
    // Where it starts needs no branch.
    CHECK(foreseen(program("IF a THEN s := 10; END_IF; CASE s OF 10: IF b THEN s := 20; END_IF; 20: s := 10; END_CASE;",
                           "s : INT;")) == "");
}

TEST_CASE("below-scan, wire-unwatched") {
    const auto facts = analog(0, 20000);
    CHECK(foreseen(program("t(IN := a, PT := T#2ms); run := t.Q;", "t : TON;"), facts) == "below-scan 6:18\n");
    CHECK(foreseen(program("t(IN := a, PT := T#10ms); run := t.Q;", "t : TON;"), facts) == "");
    CHECK(foreseen(program("t(IN := a, PT := p); run := t.Q;", "t : TON; p : TIME;"), facts) == "");
    const auto wired = analog(0, 20000, -5000);
    CHECK(foreseen(program("run := raw > 500;"), wired) == "wire-unwatched 0:0\n");
    CHECK(foreseen(program("run := raw > 500 OR raw < 0;"), wired) == "");
    CHECK(foreseen(program("run := raw < 500;"), wired) == "wire-unwatched 0:0\n");
    CHECK(foreseen(program("run := raw < -100;"), wired) == "");
    const std::string kScale =
        "FUNCTION metres : REAL VAR_INPUT x : INT; END_VAR metres := INT_TO_REAL(x) / 20000.0; END_FUNCTION\n";
    CHECK(foreseen(kScale + program("run := metres(raw) < -0.1;"), wired) == "");
    CHECK(foreseen(kScale + program("level := metres(raw);\nrun := level < 0.1 AND level >= 0.0;", "level : REAL;"),
                   wired) == "");
    CHECK(foreseen(kScale + program("level := metres(raw);\nrun := level < 0.1;", "level : REAL;"), wired) ==
          "wire-unwatched 0:0\n");
}

TEST_CASE("ranges hold whatever a program does: random programs, executed and followed") {
    // Random straight and branching arithmetic over three whole numbers and an input; after every scan each comparison
    // that is said to be decided is looked at in the run.
    std::uint64_t state = 88172645463325252ULL;
    const auto next = [&](std::uint64_t below) {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        return state % below;
    };
    const auto term = [&] {
        static const char* const kNames[] = {"x", "y", "z", "raw"};
        return next(3) == 0 ? fmt::format("{}", static_cast<int>(next(13)) - 3) : std::string(kNames[next(4)]);
    };
    const auto expression = [&] {
        static const char* const kForms[] = {"{} + {}", "{} - {}", "MIN({}, {})", "MAX({}, {})", "LIMIT(-4, {}, {})"};
        return fmt::format(fmt::runtime(kForms[next(5)]), term(), term());
    };
    const auto condition = [&] {
        static const char* const kSigns[] = {"<", "<=", ">", ">=", "=", "<>"};
        return fmt::format("{} {} {}", term(), kSigns[next(6)], term());
    };
    int decided = 0;
    for (int round = 0; round < 300; ++round) {
        std::string body;
        const auto assign = [&] { return fmt::format("{} := {}; ", std::string(1, "xyz"[next(3)]), expression()); };
        for (int i = 0; i < 4; ++i) {
            body += next(2) == 0 ? assign()
                                 : fmt::format("IF {} {} {} THEN {} ELSE {} END_IF; ", condition(),
                                               next(2) == 0 ? "AND" : "OR", condition(), assign(), assign());
        }
        body += "IF x > 20 OR x < -20 THEN x := 0; END_IF; IF y > 20 OR y < -20 THEN y := 3; END_IF;\n";
        const std::string watched = condition();
        const std::string text =
            "VAR_GLOBAL raw AT %IW0 : INT; seen_true, seen_false : BOOL; END_VAR\nPROGRAM p VAR x, y, z : INT; "
            "END_VAR\n" +
            body + "IF " + watched + " THEN seen_true := TRUE; ELSE seen_false := TRUE; END_IF; END_PROGRAM\n";
        test::Scanner scanner(text);
        struct Watch : logic::RangeListener {
            void comparison(const logic::Expression& e, int, const logic::Truth&, const logic::Truth& here,
                            const Interval&, const Interval&) override {
                if (e.span.line == 4) truth = here;
            }
            logic::Truth truth;
        } watch;
        logic::OutsideFacts facts;
        facts.inputs[{-1, logic::Space::Inputs, 0, -1}] = logic::between(-2, 8, true);
        REQUIRE(logic::follow_ranges(*scanner.model().program->checked, facts, watch));
        decided += watch.truth.decided() ? 1 : 0;
        for (int scan = 0; scan < 200; ++scan) {
            scanner.set("raw", static_cast<double>(next(11)) - 2.0);
            scanner.scan();
        }
        CHECK_MESSAGE((watch.truth.may_be_true || scanner.get("seen_true") == 0.0), text);
        CHECK_MESSAGE((watch.truth.may_be_false || scanner.get("seen_false") == 0.0), text);
    }
    CHECK(decided > 10);
}
