// What is foreseen of numbers: each warning with what raises it, and what comes close and does not; ranges against a
// plain oracle that executes the program.
#include "core/logic/infix_text.hpp"
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

TEST_CASE("what is known before a WHILE or REPEAT is known in it, as far as it stays so") {
    const auto said = [](const std::string& body) {
        return foreseen(program(body, "i, n, m : INT; l : ARRAY[1..10] OF BOOL;"));
    };
    CHECK(said("i := 1; WHILE i <= 10 DO l[i] := a; i := i + 1; END_WHILE;") == "");
    CHECK(said("i := 1; REPEAT l[i] := a; i := i + 1; UNTIL i > 10 END_REPEAT;") == "");
    CHECK(said("i := 10; WHILE i >= 1 DO l[i] := a; i := i - 1; END_WHILE;") == "");
    CHECK(said("i := 1; WHILE i <= 11 DO l[i] := a; i := i + 1; END_WHILE;") == "beyond-array 6:26\n");
    CHECK(said("i := 0; WHILE i <= 10 DO l[i] := a; i := i + 1; END_WHILE;") == "beyond-array 6:26\n");
    CHECK(said("i := 1; WHILE i <= 10 DO l[i] := a; IF b THEN i := 0; END_IF; i := i + 1; END_WHILE;") == "");
    CHECK(said("i := 1; WHILE i <= 10 DO l[i] := a; i := i + 1; IF b THEN i := 0; END_IF; END_WHILE;") ==
          "beyond-array 6:26\n");
    // What a number depends on that moves in the loop; behind it; what is left half-way.
    CHECK(said("i := 1; n := 2; WHILE i < 10 DO run := n = 3; n := i; i := i + 1; END_WHILE;") == "");
    CHECK(said("i := 1; WHILE i < 10 DO i := i + 1; END_WHILE; run := i < 10;") == "never-true 6:57\n");
    CHECK(said("i := 1; WHILE i < 10 DO IF b THEN EXIT; END_IF; i := i + 1; END_WHILE; run := i < 10;") == "");
    CHECK(said("i := 1; WHILE i < 10 DO n := 1; i := i + 1; IF b THEN CONTINUE; END_IF; n := 2; END_WHILE; run := n = "
               "1;") == "");
}

TEST_CASE("what outlasts a scan that a fault ends half-way may be anything that was ever written") {
    const std::string body = "run := n = 5; n := 5; list[raw] := 1; n := 0;";  // a warm start after an index beyond
    CHECK(foreseen(program(body, "n : INT;")) == "never-true 6:10\n");
    CHECK(foreseen(program(body, "RETAIN n : INT;")) == "");
    CHECK(foreseen(program("run := n = 6; n := 5; list[raw] := 1; n := 0;", "RETAIN n : INT;")) == "never-true 6:10\n");
    const auto in_block = [&](const std::string& kept) {
        return "FUNCTION_BLOCK inner VAR n : INT; END_VAR VAR_OUTPUT q : BOOL; END_VAR VAR_INPUT i : INT; END_VAR "
               "VAR list : ARRAY[1..10] OF INT; END_VAR\nq := n = 5; n := 5; list[i] := 1; n := "
               "0;\nEND_FUNCTION_BLOCK\n"
               "FUNCTION_BLOCK outer VAR f : inner; END_VAR VAR_INPUT i : INT; END_VAR VAR_OUTPUT q : BOOL; END_VAR\n"
               "f(i := i); q := f.q;\nEND_FUNCTION_BLOCK\n" +
               program("o(i := raw); run := o.q;", kept + " o : outer;");
    };
    CHECK(foreseen(in_block("")) == "never-true 2:8\n");
    CHECK(foreseen(in_block("RETAIN")) == "");
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

TEST_CASE("short-of-array: the product of bounds, loops and offsets, against counting") {
    for (const int low : {0, 1, -2}) {
        const int high = low + 6;
        for (int from = low; from <= low + 2; ++from) {
            for (int to = high - 2; to <= high; ++to) {
                for (const char* offset : {"", " + 1", " - 1"}) {
                    const int by = offset[0] == '\0' ? 0 : offset[1] == '+' ? 1 : -1;
                    if (from + by < low || to + by > high) continue;
                    const std::string text = program(
                        fmt::format("FOR i := {} TO {} DO l[i{}] := a; END_FOR;\nrun := l[3];", from, to, offset),
                        fmt::format("i : INT; l : ARRAY[{}..{}] OF BOOL;", low, high));
                    std::set<int> left;
                    for (int n = low; n <= high; ++n) {
                        if ((n < from + by || n > to + by) && n != 3) left.insert(n);
                    }
                    // A loop that comes as far as the element beside it.
                    const bool last = left == std::set{high} && to + by == high - 1;
                    const bool first = left == std::set{low} && low != 0 && from + by == low + 1;
                    const std::string found = foreseen(text);
                    CHECK_MESSAGE((found.find("short-of-array 6:") == 0) == (last || first), text);
                    CHECK_MESSAGE((found.empty() == !(last || first)), text);
                }
            }
        }
    }
    const auto said = [](const std::string& body, const std::string& more = "") {
        return foreseen(more + program(body, "i, n : INT; l, m : ARRAY[1..10] OF BOOL; r : REF_TO BOOL;"));
    };
    const std::string kLoop = "FOR i := 1 TO 9 DO l[i] := a; END_FOR;";
    CHECK(said(kLoop) == "short-of-array 6:20\n");
    CHECK(said("i := 1; WHILE i < 10 DO l[i] := a; i := i + 1; END_WHILE;") == "short-of-array 6:25\n");
    // Others that reach the last one: an index of its own, a neighbour, any index, the whole array.
    CHECK(said(kLoop + " l[10] := b;") == "");
    CHECK(said("FOR i := 1 TO 9 DO l[i] := l[i + 1]; END_FOR;") == "");
    CHECK(said(kLoop + " n := raw; l[n] := b;") == "");
    CHECK(said(kLoop + " m := l;") == "");
    CHECK(said(kLoop + " run := f(l);",
               "FUNCTION f : BOOL VAR_INPUT x : ARRAY[1..10] OF BOOL; END_VAR f := x[10]; "
               "END_FUNCTION\n") == "");
    CHECK(said(kLoop + " r := REF(l[10]);") == "");
    CHECK(foreseen(
              "FUNCTION_BLOCK fb VAR PUBLIC l : ARRAY[1..10] OF INT; END_VAR VAR i : INT; END_VAR FOR i := 1 TO 9 DO "
              "l[i] := 0; END_FOR; END_FUNCTION_BLOCK\n" +
              program("f(); n := f.l[10];", "f : fb; n : INT;")) == "");
    // Room to spare is no mistake.
    CHECK(said("FOR i := 1 TO 5 DO l[i] := a; END_FOR;") == "");
    // A global that another program reaches, and one at an address.
    const std::string kGlobal =
        "VAR_GLOBAL g : ARRAY[1..5] OF INT; END_VAR PROGRAM q VAR i : INT; END_VAR FOR i := 1 TO 4 "
        "DO g[i] := 0; END_FOR; END_PROGRAM\n";
    CHECK(foreseen(kGlobal + program("run := a;")) == "short-of-array 1:94\n");
    CHECK(foreseen(kGlobal + program("g[5] := 1;")) == "");
    CHECK(
        foreseen("VAR_GLOBAL g AT %QW0 : ARRAY[1..5] OF INT; END_VAR PROGRAM q VAR i : INT; END_VAR FOR i := 1 TO 4 DO "
                 "g[i] := 0; END_FOR; END_PROGRAM\n") == "");
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
    // Random arithmetic over three whole numbers and an input, straight, branching and in loops; each comparison that
    // is said to be decided is looked at in the run, behind it all or within a loop.
    std::uint64_t state = 88172645463325252ULL;
    const auto next = [&](std::uint64_t below) {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        return state % below;
    };
    const auto term = [&] {
        static const char* const kNames[] = {"x", "y", "z", "raw", "i"};
        return next(3) == 0 ? fmt::format("{}", static_cast<int>(next(13)) - 3) : std::string(kNames[next(5)]);
    };
    const auto expression = [&] {
        static const char* const kForms[] = {"{} + {}", "{} - {}", "MIN({}, {})", "MAX({}, {})", "LIMIT(-4, {}, {})"};
        return fmt::format(fmt::runtime(kForms[next(5)]), term(), term());
    };
    const auto condition = [&] {
        static const char* const kSigns[] = {"<", "<=", ">", ">=", "=", "<>"};
        return fmt::format("{} {} {}", term(), kSigns[next(6)], term());
    };
    int decided = 0, looked_at = 0;
    for (int round = 0; round < 900; ++round) {
        std::string body;
        const auto assign = [&] { return fmt::format("{} := {}; ", std::string(1, "xyz"[next(3)]), expression()); };
        const auto leave = [&](const char* how) {
            return next(3) == 0 ? fmt::format("IF {} THEN {}; END_IF; ", condition(), how) : std::string();
        };
        // Each turn counts on before anything can go round again.
        const auto loop = [&](const std::string& watched) {
            const std::string inner = fmt::format("{}i := i + {}; {}{}{}", assign(), 1 + next(2), watched,
                                                  leave(next(2) == 0 ? "EXIT" : "CONTINUE"), assign());
            const int from = static_cast<int>(next(5)) - 2, to = static_cast<int>(next(9));
            return next(3) != 0 ? fmt::format("i := {}; WHILE i < {} DO {}END_WHILE; ", from, to, inner)
                                : fmt::format("i := {}; REPEAT {}UNTIL i >= {} END_REPEAT; ", from, inner, to);
        };
        for (int i = 0; i < 4; ++i) {
            if (round >= 300 && next(3) == 0) body += loop("");
            body += next(2) == 0 ? assign()
                                 : fmt::format("IF {} {} {} THEN {} ELSE {} END_IF; ", condition(),
                                               next(2) == 0 ? "AND" : "OR", condition(), assign(), assign());
        }
        body += "IF x > 20 OR x < -20 THEN x := 0; END_IF; IF y > 20 OR y < -20 THEN y := 3; END_IF;\n";
        const std::string watched = condition();
        const std::string watch_of = "IF " + watched + " THEN seen_true := TRUE; ELSE seen_false := TRUE; END_IF; ";
        const std::string last = round >= 600 ? loop(watch_of) : watch_of;  // all on the fourth line
        const std::string text =
            "VAR_GLOBAL raw AT %IW0 : INT; seen_true, seen_false : BOOL; END_VAR\nPROGRAM p VAR x, y, z, i : INT; "
            "END_VAR\n" +
            body + last + "END_PROGRAM\n";
        test::Scanner scanner(text);
        struct Watch : logic::RangeListener {
            void comparison(const logic::Expression& e, int, const logic::Truth&, const logic::Truth& here,
                            const Interval&, const Interval&) override {
                const bool sought = e.span.line == 4 && infix_text(e) == text;
                if (sought) truth = here;
                found = found || sought;
            }
            std::string text;
            logic::Truth truth;
            bool found = false;
        } watch;
        watch.text = watched;
        logic::OutsideFacts facts;
        facts.inputs[{-1, logic::Space::Inputs, 0, -1}] = logic::between(-2, 8, true);
        REQUIRE(logic::follow_ranges(*scanner.model().program->checked, facts, watch));
        decided += watch.truth.decided() ? 1 : 0;
        looked_at += watch.found ? 1 : 0;
        for (int scan = 0; scan < 200; ++scan) {
            scanner.set("raw", static_cast<double>(next(11)) - 2.0);
            scanner.scan();
        }
        CHECK_MESSAGE((watch.truth.may_be_true || scanner.get("seen_true") == 0.0), text);
        CHECK_MESSAGE((watch.truth.may_be_false || scanner.get("seen_false") == 0.0), text);
    }
    CHECK(decided > 40);
    CHECK(looked_at > 700);
}
