// What procedures say of time, of units, of parts of tags; loops; and why a step failed.
#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;
using procedure::Verdict;
using test::PlantText;

namespace {

constexpr const char* kLogic =
    "TYPE Place : STRUCT full : BOOL; count : INT; END_STRUCT; Phase : (idle, filling, done); END_TYPE\n"
    "FUNCTION_BLOCK watch_over VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT ok : BOOL; END_VAR ok := a AND NOT b; "
    "END_FUNCTION_BLOCK\n"
    "VAR_GLOBAL start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; knob AT %IW2 : INT;\n"
    "  run AT %QX0.0 : BOOL; slow AT %QX0.1 : BOOL; warm AT %QX0.2 : BOOL; horn AT %QX0.3 : BOOL;\n"
    "  alarm_code : INT; stage : Phase; h : ARRAY[0..3] OF INT; places : ARRAY[1..2] OF Place; presses : INT;\n"
    "  ready, guard_ok, latched, timed, staged, mixed, both, calm, named, choice : BOOL; zero : INT; END_VAR "
    "VAR_GLOBAL CONSTANT LIMIT : INT := 7; END_VAR\n"
    "PROGRAM main VAR t, blink : TON; seen : R_TRIG; latch : RS; delay : TON; over : watch_over; END_VAR\n"
    "seen(CLK := start_pb); IF seen.Q THEN presses := presses + 1; END_IF;\n"
    "run := (run OR start_pb) AND stop_pb;\n"
    "t(IN := run, PT := T#500ms); slow := t.Q;\n"
    "IF slow THEN stage := filling; alarm_code := 3; h[1] := 7; places[2].full := TRUE; ELSE stage := idle; END_IF;\n"
    "blink(IN := run AND NOT blink.Q, PT := T#100ms); IF blink.Q THEN horn := NOT horn; END_IF;\n"
    "ready := guard_ok AND (run OR slow) AND NOT horn;\n"
    "latch(S := run AND guard_ok, R1 := NOT stop_pb); latched := latch.Q1;\n"
    "delay(IN := run AND guard_ok, PT := T#10ms); timed := delay.Q;\n"
    "over(a := run, b := stop_pb); warm := over.ok;\n"
    "CASE stage OF done: staged := TRUE; ELSE IF NOT stop_pb THEN staged := FALSE; END_IF; END_CASE;\n"
    "mixed := stop_pb AND run AND NOT slow OR stop_pb AND (guard_ok OR slow);\n"
    "both := stop_pb AND (run AND stop_pb AND slow OR guard_ok); calm := NOT (stop_pb AND NOT (run OR slow));\n"
    "named := knob = LIMIT OR stage = done;\n"
    "choice := run AND (slow OR stop_pb) OR (guard_ok OR NOT stop_pb) AND (stop_pb OR slow);\n"
    "END_PROGRAM\n";

PlantText plant_text() {
    PlantText p;
    p.brick()
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", "0.5 m/s"}})
        .add("button.start", {})
        .add("button.stop", {{"contact", "normally closed"}})
        .add("potentiometer.pot", {})
        .add("air_supply.air", {})
        .add("turntable.tt", {{"at", "[0 m, 6 m]"}})
        .add("tank.t",
             {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}});
    return p;
}

session::SessionModelPtr model() {
    static const auto made = test::make_model(kLogic, plant_text(),
                                              {{"start_pb", "start", ""},
                                               {"stop_pb", "stop", ""},
                                               {"knob", "pot", "0 %..100 % -> 0..1000"},
                                               {"run", "a.run", ""}});
    return made;
}

procedure::ProcedureVerdict prove(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_book(*model(), {base::make_source("p.proc", text)}, diagnostics);
    const std::string problems = diagnostics.render();
    REQUIRE_MESSAGE(book != nullptr, problems);
    session::Session session(model());
    return procedure::run_procedure(book, 0, session, {});
}
procedure::ProcedureVerdict prove_step(const std::string& orders) {
    return prove("procedure \"p\"\nstep \"s\"\n" + orders + "\n");
}
/// "" when it passes, else why not.
std::string outcome(const std::string& orders) {
    const auto v = prove_step(orders);
    return v.steps[0].failure ? v.steps[0].failure->found : std::string(v.verdict == Verdict::Passed ? "" : "failed");
}
std::string errors(const std::string& orders) {
    base::Diagnostics diagnostics;
    procedure::read_book(*model(), {base::make_source("p.proc", "procedure \"p\"\nstep \"s\"\n" + orders + "\n")},
                         diagnostics);
    return test::joined(test::lines_of(diagnostics));
}
procedure::RuleVerdict rule(const std::string& text, const std::string& orders) {
    return prove("rule \"r\": " + text + "\nprocedure \"p\"\nstep \"s\"\n" + orders + "\n").rules[0];
}

}  // namespace

TEST_CASE("expect: comes and stays, not before a time, in scans") {
    CHECK(outcome("press start\nexpect slow within 1 s for 200 ms") == "");
    CHECK(outcome("press start for 50 ms\nwait 20 ms\nexpect horn within 1 s for 150 ms") ==
          "horn was TRUE for 120 ms at most");
    CHECK(outcome("press start\nexpect slow within 600 ms not before 450 ms") == "");
    CHECK(outcome("press start\nexpect slow not before 450 ms within 600 ms") == "");
    CHECK(outcome("press start\nexpect slow within 1 s not before 600 ms") == "it came after 510 ms, too early");
    CHECK(outcome("press start\nwait 1 scan\nexpect run") == "");
    CHECK(outcome("press start\nexpect run within 1 scan") == "");
    CHECK(outcome("press start\nwait 5 ms\nexpect run") == "run is FALSE");
    CHECK(outcome("expect stop_pb and run and slow within 30 ms") ==
          "stop_pb and run and slow stayed FALSE for 30 ms; FALSE at the end: run and slow");
    CHECK(errors("expect slow within 1 s within 2 s") == "3:24 'within' stands here twice\n");
    CHECK(errors("expect slow within 1 s not before 2 s") == "3:37 not before 2 s cannot be within 1 s\n");
    CHECK(errors("expect slow not before 1 s") ==
          "3:26 'not before' goes with 'within' [expect A within 9 s not before 7 s]\n");
    CHECK(errors("wait 0 scans") == "3:6 a number of scans is 1 to 1000000\n");
}

TEST_CASE("a press of one scan is seen in one scan; presses that follow one another are all seen") {
    CHECK(outcome("press start for 1 scan\nwait 1 scan\nexpect start_pb\nwait 1 scan\nexpect not start_pb") == "");
    CHECK(outcome("press start for 200 ms\nwait 100 ms\npress start for 200 ms\nwait 1 s\nexpect presses = 2") == "");
    CHECK(
        outcome(
            "press start for 200 ms\npress start for 200 ms\npress start for 200 ms\nwait 2 s\nexpect presses = 3 and "
            "not start_pb") == "");
    CHECK(outcome("press start for 100 ms\nwait 50 ms\npress start\nwait 1 s\nexpect presses = 2 and start_pb") == "");
}

TEST_CASE("measure: from condition to condition, with limits; the time is noted") {
    const auto v =
        prove_step("press start\nmeasure \"run-up\" from rises(run) to rises(slow) within 600 ms not before 400 ms");
    CHECK(v.verdict == Verdict::Passed);
    CHECK(v.steps[0].notes == std::vector<std::string>{"measured run-up: 500 ms"});
    CHECK(outcome("press start\nmeasure from run to slow within 300 ms") == "slow did not come within 300 ms");
    CHECK(outcome("press start\nmeasure from run to slow within 1 s not before 600 ms") == "it took 500 ms, too short");
    CHECK(errors("measure from run") ==
          "3:17 expected 'to' and a condition, found the end of the line [measure \"name\" from rises(a) to falls(b) "
          "within 5 s]\n");
}

TEST_CASE("units stand in conditions and are held against what they meet") {
    for (const char* fine :
         {"t.level > 490 mm and t.level < 0.51 m", "t.level > 0.4", "t.level + 10 mm > 50 cm", "air.pressure >= 0 bar",
          "tt.angle < 90 deg", "pot.value < 40 %", "a.speed < 5 mm/s", "2 * t.level > 900 mm", "ABS(t.level) > 1 mm",
          "main.t.PT = 500 ms or main.t.PT = 0 s", "main.t.ET < 1.5 s", "-5 mm < t.level"}) {
        CAPTURE(fine);
        CHECK(outcome(std::string("expect ") + fine) == "");
    }
    const std::string length = " [units of length: mm, cm, m]\n";
    CHECK(errors("expect t.level > 5 bar") == "3:16 a length and a pressure do not meet in '>'" + length);
    CHECK(errors("expect 200 mm < air.pressure").starts_with("3:15 a length and a pressure do not meet in '<'"));
    CHECK(errors("expect presses > 3 mm") ==
          "3:16 a plain number and a length do not meet in '>' [compare with a number without a unit]\n");
    CHECK(errors("expect t.level + 1 bar > 0") == "3:16 a length and a pressure do not meet in '+'" + length);
}

TEST_CASE("elements, fields, parts and addresses stand in conditions, waits and rules") {
    CHECK(outcome("expect h[1] = 0 and not places[2].full\npress start\nwait until h[1] = 7 within 1 s\nexpect "
                  "places[2].full and "
                  "places[1].count = 0\nexpect h[1].%X0 and %QX0.0 and %QB0 > 0") == "");
    CHECK(rule("never places[2].full", "press start\nwait 1 s").verdict == Verdict::Failed);
    CHECK(errors("expect h[presses] = 0") == "3:8 only names stand in a condition, with whole numbers as indices\n");
}

TEST_CASE("a rule is not tested, open at the end, or held off by its trigger's time") {
    CHECK(rule("whenever slow then h[1] = 7", "wait 1 s").verdict == Verdict::NotTested);
    const auto open = prove(
        "rule \"r\": whenever rises(run) then slow within 2 s\nprocedure \"p\"\nstep \"s\"\npress start\nwait 300 "
        "ms\n");
    CHECK(open.rules[0].verdict == Verdict::OpenAtEnd);
    CHECK(open.verdict == Verdict::OpenAtEnd);
    CHECK(rule("whenever run for 300 ms then slow within 300 ms", "press start\nwait 1 s").verdict == Verdict::Passed);
    // The trigger goes before its time: no demand.
    CHECK(rule("whenever run for 300 ms then horn within 1 scan not before 0 s",
               "press start for 50 ms\nwait 100 ms\npress stop for 50 ms\nwait 1 s")
              .verdict == Verdict::NotTested);
    const auto early = rule("whenever rises(run) then slow within 1 s not before 600 ms", "press start\nwait 1 s");
    CHECK(early.verdict == Verdict::Failed);
    CHECK(early.reason == "it came after 500 ms, too early");
}

TEST_CASE("rules of the yard may stand under a heading of their own; the others are of their procedure") {
    const auto v = prove(
        "procedure \"p\"\nrule \"mine\": never slow and not run\nstep \"s\"\nwait 1 scan\nrules\nrule \"all\": never "
        "alarm_code > 5\n"
        "procedure \"q\"\nstep \"s\"\nwait 1 scan\n");
    REQUIRE(v.rules.size() == 2);
    CHECK(v.rules[0].name == "all");
    CHECK_FALSE(v.rules[0].own);
    CHECK(v.rules[1].own);
}

TEST_CASE("repeat and for unfold: steps, orders, names in texts") {
    const auto v = prove(
        "procedure \"p\"\n"
        "repeat 2\n  step \"Press\"\n    press start for 1 scan\n    wait 3 scans\nend\n"
        "for what in stop_pb, not slow\n  step \"Look at {what}\"\n    expect what\nend\n"
        "step \"Both\"\n  for n in 1, 2\n    for m in 3, 4\n      expect presses * n < m + 5\n    end\n  end\n  repeat "
        "3 times\n    wait 1 "
        "scan\n  end\n  expect presses = 2\n");
    CHECK(v.verdict == Verdict::Passed);
    std::vector<std::string> names;
    for (const auto& s : v.steps) names.push_back(s.name);
    CHECK(names == std::vector<std::string>{"Press (1 of 2)", "Press (2 of 2)", "Look at stop_pb (stop_pb)",
                                            "Look at not slow (not slow)", "Both"});
    CHECK(errors("repeat 3\nwait 1 s") == "3:1 'repeat' without an 'end'\n");
    CHECK(errors("end") == "3:1 'end' without a 'repeat' or 'for'\n");
    CHECK(errors("repeat 0\nwait 1 s\nend") == "3:8 expected how often, 1 to 1000 [repeat 3 ... end]\n");
    CHECK(errors("for x of a\nend").starts_with("3:1 expected a name, 'in' and values"));
    CHECK(errors("for x in start_pb, nothing, never\nexpect x\nend")
              .starts_with("4:8 no tag, point or actual is named 'nothing'"));
    CHECK(errors("repeat 1000\nrepeat 1000\nwait 1 s\nend\nend").find("come to more than 10000 rounds") !=
          std::string::npos);
}

TEST_CASE("a failed step says what changed, what keeps the output off, what the device did") {
    const auto v = prove_step("press start for 50 ms\nwait 700 ms\nexpect ready within 100 ms");
    REQUIRE(v.steps[0].failure.has_value());
    const procedure::Failure& f = *v.steps[0].failure;
    CHECK(f.found == "ready stayed FALSE for 100 ms");
    REQUIRE(f.kept_off.size() == 1);
    CHECK(f.kept_off[0].starts_with("ready: guard_ok"));
    REQUIRE(f.changes.size() > 3);
    CHECK(f.changes[0] == "alarm_code: 0, 3 at 0.510 s");
    CHECK(f.changes[1] == "stage: idle, filling at 0.510 s");
    CHECK(std::find(f.changes.begin(), f.changes.end(), "run: FALSE, TRUE at 0.010 s") != f.changes.end());
    const auto device = prove_step("press start\nwait 500 ms\nexpect not run within 100 ms").steps[0].failure->devices;
    REQUIRE(device.size() >= 2);
    CHECK(device[0] == "a.run: FALSE, TRUE at 0.010 s");
    CHECK(device[1] == "a.speed: 0 m/s, 0.5 m/s at 0.015 s");
    CHECK(prove_step("expect run").steps[0].failure->changes.empty());  // nothing can have changed
}

TEST_CASE("why an output is off: ANDs, groups of ORs, latches, timers, blocks, CASE and resets") {
    session::Session s(model());
    for (int i = 0; i < 10; ++i) s.step();
    std::string text;
    for (const procedure::HeldOff& h : procedure::held_off(s))
        text += fmt::format("{}: {}\n", h.tag, fmt::join(h.missing, "; "));
    CHECK(text ==
          "run: run OR start_pb\n"
          "slow: t.Q (IN: run)\n"
          "warm: over.ok (a; NOT b)\n"
          "horn: blink.Q (IN: run)\n"
          "places[2].full: slow\n"
          "ready: guard_ok; run OR slow\n"
          "latched: latch.Q1 (S: run; S: guard_ok)\n"
          "timed: delay.Q (IN: run; IN: guard_ok)\n"
          "staged: stage = done\n"
          "mixed: run OR guard_ok OR slow\n"  // what is FALSE of it alone, not the whole line
          "both: run AND slow OR guard_ok\n"
          "calm: NOT stop_pb OR run OR slow\n"
          "named: knob = LIMIT OR stage = done\n"
          "choice: run OR guard_ok OR NOT stop_pb\n");
}

TEST_CASE("a run is a value: copied in mid-step both go on alike") {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_book(
        *model(),
        {base::make_source(
            "p.proc",
            "rule \"r\": whenever rises(run) then slow within 2 s\nprocedure \"p\"\nstep \"one\"\npress start for 100 "
            "ms\nwait 300 ms\nexpect slow within 1 s for 100 ms\nstep \"two\"\nmeasure from rises(horn) to "
            "falls(horn)\npress "
            "stop\nexpect falls(run) within 1 s\n")},
        diagnostics);
    REQUIRE(book != nullptr);
    session::Session session(model());
    procedure::Run run(book, 0, session);
    for (int at = 0; run.advance(session); ++at) {
        if (at % 37 == 0) {
            session::Session other = session;
            procedure::Run copy = run;
            session::Session third = session;
            procedure::Run again = copy;
            const auto finish = [](procedure::Run& r, session::Session& s) {
                do s.step();
                while (r.advance(s));
                const auto v = r.verdict(s);
                return fmt::format("{} {} {}", procedure::verdict_text(v.verdict), v.duration.count(),
                                   v.steps[1].notes.empty() ? "" : v.steps[1].notes[0]);
            };
            CHECK(finish(copy, other) == finish(again, third));
        }
        session.step();
    }
    CHECK(run.verdict(session).verdict == Verdict::Passed);
}

TEST_CASE("names: what could mean two things is refused with both ways to write it") {
    PlantText plant;
    plant
        .add("tank.vessel",
             {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}})
        .add("lamp.light", {})
        .add("lamp.other", {});
    session::Definition definition = test::make_definition(
        "VAR_GLOBAL level : REAL := 7.0; light AT %QX0.0 : BOOL; other AT %QX0.1 : BOOL; END_VAR PROGRAM main light := "
        "TRUE; other "
        ":= TRUE; END_PROGRAM",
        plant, {{"light", "light.on", ""}, {"other", "other.on", "invert"}});
    definition.controllers[0].name = "vessel";
    const auto made = test::build(definition);
    const auto found = session::search(*made, "vessel.level");
    CHECK_FALSE(found.signal.has_value());
    CHECK(found.problem == "'vessel.level' may mean 2 different things");
    CHECK(found.hint == "write level or plant.vessel.level");
    const session::Session s(made);
    const auto value = [&](const char* name) { return session::value_text(s, *session::find_signal(*made, name)); };
    CHECK(value("level") == "7");
    CHECK(value("logic.level") == "7");
    CHECK(value("plant.vessel.level") == "0.5 m");
    // A device and the tag that shows its only point are one thing, unless the map turns it round.
    CHECK(value("light") == "TRUE");
    CHECK_FALSE(session::search(*made, "other").signal.has_value());
    CHECK(value("vessel.other") == "TRUE");
    CHECK(value("plant.other.on") == "FALSE");
}

TEST_CASE("no kind has one name for two things") {
    for (const plant::Kind& kind : plant::all_kinds()) {
        std::vector<std::string> names;
        for (const auto& p : kind.points) {
            const bool other_form = p.present && std::find(names.begin(), names.end(), p.name) != names.end();
            if (!other_form) names.push_back(p.name);  // one of two that are never there together
        }
        for (const auto& a : kind.actuals) names.push_back(a.name);
        for (const auto& f : kind.faults) names.push_back(f.name);
        std::sort(names.begin(), names.end());
        const auto twice = std::adjacent_find(names.begin(), names.end());
        CAPTURE(kind.name);
        const std::string name = twice == names.end() ? "" : *twice;
        CHECK_MESSAGE(twice == names.end(), name);
    }
}
