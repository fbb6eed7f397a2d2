// Changing logic while it runs, stimuli, and warm starts: what keeps its value.
#include <algorithm>
#include <cmath>

#include "core/support.hpp"

using namespace vyard;

namespace {

std::shared_ptr<const logic::Program> program_of(const std::string& text) {
    base::Diagnostics diagnostics;
    auto program = logic::compile({base::make_source("test.st", text)}, diagnostics);
    REQUIRE_MESSAGE(program != nullptr, diagnostics.render());
    return program;
}

session::Definition definition_of(const std::string& text) {
    session::Definition definition = test::make_definition(text, {}, {});
    definition.step = base::Nanoseconds(10'000'000);
    return definition;
}
session::SessionModelPtr model_of(const std::string& text) {
    return test::build(definition_of(text));
}

double value(const session::Session& s, const std::string& name) {
    const auto signal = session::find_signal(s.model(), name);
    REQUIRE_MESSAGE(signal.has_value(), name);
    return session::read(s, *signal);
}

bool has(const std::vector<std::string>& list, const std::string& name) {
    return std::find(list.begin(), list.end(), name) != list.end();
}

}  // namespace

TEST_CASE("a changed program keeps what still exists, timers and counters with all they remember") {
    session::Session s(model_of(
        "VAR_GLOBAL total : DINT := 5; bit AT %MX2.3 : BOOL; gone : INT; END_VAR\n"
        "FUNCTION_BLOCK f VAR n : INT; END_VAR VAR_OUTPUT q : INT; END_VAR n := n + 1; q := n; END_FUNCTION_BLOCK\n"
        "PROGRAM main VAR t : TON; c : CTU; list : ARRAY[0..2] OF INT; s : STRING := 'a'; x : INT; pulse : BOOL; r : "
        "REF_TO INT; inner : f; END_VAR\n"
        "t(IN := TRUE, PT := T#1s); pulse := NOT pulse; c(CU := pulse, PV := 100); list[1] := list[1] + 1; total := "
        "total + 1;\n"
        "s := 'changed'; bit := TRUE; x := 7; r := REF(x); inner(); gone := 1; END_PROGRAM"));
    for (int i = 0; i < 20; ++i) s.step();
    CHECK(value(s, "main.t.ET") == 200e6);
    const double counted = value(s, "main.c.CV");
    CHECK(counted > 5);
    test::force(s, "gone", "3");
    const auto changed = program_of(
        "VAR_GLOBAL early : LREAL := 2.5; total : DINT; bit AT %MX2.3 : BOOL; END_VAR\n"
        "FUNCTION_BLOCK f VAR extra : INT := 9; n : INT; END_VAR VAR_OUTPUT q : INT; END_VAR n := n + 1; q := n; "
        "END_FUNCTION_BLOCK\n"
        "PROGRAM main VAR added : TON; t : TON; c : CTU; list : ARRAY[0..2] OF INT; s : STRING := 'a'; x : DINT := 1; "
        "pulse : BOOL; r : REF_TO DINT; inner : f; END_VAR\n"
        "t(IN := TRUE, PT := T#1s); pulse := NOT pulse; c(CU := pulse, PV := 100); inner(); added(IN := TRUE, PT := "
        "T#1s); END_PROGRAM");
    const controller::ChangeReport report = s.change_logic(0, changed);
    CHECK(value(s, "total") == 26);
    CHECK(value(s, "early") == 2.5);
    CHECK(value(s, "bit") == 1);
    CHECK(value(s, "main.list[1]") == 21);
    CHECK(value(s, "main.x") == 1);
    CHECK(value(s, "main.inner.n") == 21);
    CHECK(value(s, "main.inner.extra") == 9);
    CHECK(value(s, "main.t.ET") == 200e6);
    const logic::Variable* text = changed->find("main.s");
    CHECK(logic::variable_text(s.controller(0).memory.data(), *text) == "'changed'");
    s.step();
    CHECK(value(s, "main.t.ET") == 210e6);
    CHECK(value(s, "main.added.ET") == 0);
    CHECK(value(s, "main.c.CV") - counted <= 1);
    CHECK(has(report.kept, "main.t"));
    CHECK(has(report.kept, "main.list"));
    CHECK(has(report.fresh, "early"));
    CHECK(has(report.fresh, "main.x"));
    CHECK(has(report.fresh, "main.r"));
    CHECK(has(report.dropped, "gone"));
    CHECK(has(report.dropped, "main.x"));
    CHECK_FALSE(has(report.dropped, "main.t"));
    CHECK(report.unjoined == std::vector<std::string>{"gone"});
    CHECK(s.controller(0).forces.empty());
}

TEST_CASE("a program changed for itself goes on as if nothing had happened") {
    const std::string text =
        "PROGRAM main VAR t : TOF; n : INT; r : REAL; on : BOOL; END_VAR n := n + 1; r := r + 0.1; t(IN := n MOD 7 < "
        "2, PT := T#30ms); on := t.Q; END_PROGRAM";
    session::Session changed(model_of(text)), plain(model_of(text));
    for (int i = 0; i < 50; ++i) {
        if (i % 3 == 0) {
            const auto report = changed.change_logic(0, program_of(text));
            CHECK(report.fresh.empty());
            CHECK(report.dropped.empty());
        }
        changed.step();
        plain.step();
        CHECK(changed.controller(0).memory == plain.controller(0).memory);
    }
}

TEST_CASE("a stopped controller takes new logic and can start again; joins follow their tags") {
    test::PlantText plant;
    plant.add("button.start", {});
    plant.add("lamp.light", {});
    session::Definition definition = test::make_definition(
        "VAR_GLOBAL pb AT %IX0.0 : BOOL; light AT %QX0.0 : BOOL; END_VAR PROGRAM main VAR z : INT; END_VAR light := "
        "pb; z := 1 / z; END_PROGRAM",
        plant, {{"pb", "start.contact", ""}, {"light", "light.on", ""}});
    definition.step = base::Nanoseconds(10'000'000);
    session::Session s(test::build(definition));
    CHECK_FALSE(s.controller(0).running);
    const auto report = s.change_logic(0, program_of("VAR_GLOBAL other AT %IX0.0 : BOOL; pb AT %IX4.1 : BOOL; light AT "
                                                     "%QX2.0 : BOOL; END_VAR PROGRAM main light := pb; END_PROGRAM"));
    CHECK(report.unjoined.empty());
    s.start(0);
    const int device = 0;
    const plant::ControlSpec* press = nullptr;
    for (const plant::ControlSpec& control : s.model().plant->devices[0].kind->controls) {
        if (std::string(control.verb) == "press") press = &control;
    }
    REQUIRE(press != nullptr);
    s.use_control(device, *press, 0.0);
    for (int i = 0; i < 3; ++i) s.step();
    CHECK(value(s, "pb") == 1);
    CHECK(value(s, "light.on") == 1);
}

TEST_CASE("a warm start keeps RETAIN, a cold start does not") {
    session::Session s(
        model_of("VAR_GLOBAL RETAIN total : DINT; t : TON; END_VAR VAR_GLOBAL plain : DINT; END_VAR PROGRAM main total "
                 ":= total + 1; plain := plain + 1; t(IN := TRUE, PT := T#1s); END_PROGRAM"));
    for (int i = 0; i < 9; ++i) s.step();
    CHECK(value(s, "total") == 10);
    s.start_warm(0);
    CHECK(value(s, "total") == 10);
    CHECK(value(s, "t.ET") == 90e6);
    CHECK(value(s, "plain") == 0);
    s.start(0);
    CHECK(value(s, "total") == 0);
}

TEST_CASE("stimuli are written once, before the first scan at or after their time") {
    session::Definition definition = definition_of(
        "VAR_GLOBAL a : INT; seen : INT; END_VAR PROGRAM main seen := seen * 10 + a; a := 0; END_PROGRAM");
    for (const auto& [ms, text] : {std::pair(20, "3"), {0, "1"}, {15, "2"}})
        definition.stimuli.push_back({base::Nanoseconds(ms * 1'000'000LL), "a", {}, text, {}, "", {}});
    session::Session s(test::build(definition));
    CHECK(value(s, "seen") == 1);
    s.step();
    CHECK(value(s, "seen") == 10);
    s.step();
    CHECK(value(s, "seen") == 103);
    s.step();
    CHECK(value(s, "seen") == 1030);
}

TEST_CASE("the PID controller settles a first-order process, winds up at no limit and changes over without a bump") {
    test::Scanner s(
        "PROGRAM p VAR c : pid_controller := (gain := 2.0, integral_time := T#2s, high := 100.0); level, out, load : "
        "REAL; auto : BOOL; want : REAL := 50.0; END_VAR\n"
        "c(auto := auto, setpoint := want, actual := level, manual := 30.0, derivative_time := T#100ms);\n"
        "out := c.out; level := level + (out - load - level) * 0.01; END_PROGRAM");
    const auto run = [&](int scans) {
        for (int i = 0; i < scans; ++i) s.scan();
    };
    run(100);
    CHECK(s.get("p.out") == 30);
    s.set("p.auto", 1);
    s.scan();
    CHECK(s.get("p.out") == doctest::Approx(30).epsilon(0.05));
    run(6000);
    CHECK(s.get("p.level") == doctest::Approx(50).epsilon(0.002));
    // A load that the limit cannot carry: no wind-up, so it comes back at once.
    s.set("p.load", 80);
    run(6000);
    CHECK(s.get("p.c.at_limit") == 1);
    CHECK(s.get("p.level") == doctest::Approx(20).epsilon(0.01));
    s.set("p.load", 0);
    double highest = 0;
    for (int i = 0; i < 3000; ++i) {
        s.scan();
        highest = std::max(highest, s.get("p.level"));
    }
    CHECK(highest < 62);
    CHECK(s.get("p.level") == doctest::Approx(50).epsilon(0.02));
}

TEST_CASE("a change of logic between two scans loses no stimulus that is due, and says which tags are gone") {
    const std::string head = "VAR_GLOBAL a : INT; b : INT; seen : INT; ";
    const std::string body = "PROGRAM main seen := seen * 10 + a; a := 0; END_PROGRAM";
    session::Definition definition = definition_of(head + "lost : INT; END_VAR " + body);
    definition.controllers[0].scan = base::Nanoseconds(50'000'000);
    for (const auto& [ms, tag] : {std::pair(0, "a"), {0, "lost"}, {10, "lost"}, {20, "a"}, {30, "b"}, {60, "a"}})
        definition.stimuli.push_back({base::Nanoseconds(ms * 1'000'000LL), tag, {}, "7", {}, "", {}});
    session::Session s(test::build(definition));
    for (int i = 0; i < 3; ++i) s.step();
    s.write(0, *wiring::find_spot(*s.model().controllers[0].program, "lost"), {logic::Elementary::Int, 1, {}});
    const auto report = s.change_logic(0, program_of(head + "END_VAR " + body));
    CHECK(report.unjoined == std::vector<std::string>{"lost"});
    for (int i = 0; i < 2; ++i) s.step();
    CHECK(value(s, "seen") == 77);  // of 20 ms, in the scan at 50 ms
    CHECK(value(s, "b") == 7);
    for (int i = 0; i < 5; ++i) s.step();
    CHECK(value(s, "seen") == 777);
}

TEST_CASE("whatever holds names of the old logic follows to the new one: conditions, rules, recorder, table, forces") {
    const std::string before =
        "VAR_GLOBAL lamp AT %QX0.0 : BOOL; n : INT; gone : INT; END_VAR TYPE Pair : STRUCT a : INT; b : INT; "
        "END_STRUCT; END_TYPE\n"
        "VAR_GLOBAL pairs : ARRAY[1..2] OF Pair; END_VAR PROGRAM main n := n + 1; lamp := n > 5; pairs[1].a := n; gone "
        ":= n; END_PROGRAM";
    // The same names elsewhere in memory; the structure has its fields the other way round, so its array starts anew.
    const std::string after =
        "VAR_GLOBAL early : LREAL; other AT %QX0.0 : BOOL; lamp AT %QX3.1 : BOOL; m : INT; n : INT; END_VAR TYPE Pair "
        ": STRUCT b : INT; "
        "a : INT; END_STRUCT; END_TYPE\nVAR_GLOBAL pairs : ARRAY[1..2] OF Pair; END_VAR PROGRAM main n := n + 1; lamp "
        ":= n > 5; "
        "END_PROGRAM";
    session::Session s(model_of(before));
    base::Diagnostics diagnostics;
    const auto book =
        procedure::read_book(s.model(),
                             {base::make_source("p.proc",
                                                "rule \"r\": never n > 100\nrule \"lost\": never gone > 100\nprocedure "
                                                "\"p\"\nstep \"s\"\nwait until n = 20 and lamp "
                                                "within 10 s\nstep \"t\"\nexpect gone = 0\n")},
                             diagnostics);
    REQUIRE(book != nullptr);
    procedure::Run run(book, 0, s);
    trace::Trace trace;
    trace::Recorder recorder(s, trace::usual_channels(s.model()), {&trace});
    std::string table;
    std::vector<trace::Channel> watched;
    for (const char* name : {"n", "gone"})
        watched.push_back(trace::make_channel(s.model(), name, *session::find_signal(s.model(), name)));
    trace::Watch watch(watched, false, [&](base::Nanoseconds, const std::vector<std::string>& cells) {
        table += cells[0] + "," + cells[1] + ";";
    });
    test::force(s, "lamp", "TRUE");
    for (int i = 0; run.advance(s); ++i) {
        if (i == 10) {
            const auto report = s.change_logic(0, program_of(after));
            CHECK(value(s, "n") == 11);
            CHECK(value(s, "pairs[1].a") == 11);  // elsewhere in its structure now
            CHECK(run.follow(0, *report.rebinding) == std::vector<std::string>{"gone"});
            recorder.follow(0, *report.rebinding, s);
            watch.follow(0, *report.rebinding);
            CHECK(session::forces_text(s) == std::vector<std::string>{"lamp forced to TRUE"});
            CHECK(value(s, "lamp") == 1);
        }
        s.step();
        recorder.observe(s);
        watch.observe(s);
    }
    recorder.finish(s);
    const auto verdict = run.verdict(s);
    CHECK(verdict.steps[0].verdict == procedure::Verdict::Passed);
    CHECK(verdict.steps[1].failure->found == "it cannot be judged: a tag of it is gone from the logic");
    CHECK(verdict.rules[0].verdict == procedure::Verdict::Passed);
    CHECK(verdict.rules[1].verdict == procedure::Verdict::CannotBeJudged);
    CHECK(table.ends_with("19,;20,;"));
    CHECK(table.find("11,11;12,;") != std::string::npos);
    const auto n = *trace.find("n");
    CHECK(trace.of(n).size() == 20);
    CHECK(trace.value(n, trace.of(n).back()).bits == 20);
    CHECK(trace.of(*trace.find("gone")).size() == 11);
}

TEST_CASE("a large array of structures keeps its bytes when they mean the same, whatever its types are called") {
    const auto text = [](const char* type, const char* fields) {
        return fmt::format(
            "TYPE {0} : STRUCT {1} END_STRUCT; END_TYPE VAR_GLOBAL list : ARRAY[1..3000] OF {0}; END_VAR PROGRAM main "
            "list[2].a := "
            "list[2].a + 1; END_PROGRAM",
            type, fields);
    };
    session::Session s(model_of(text("Pair", "a : INT; b : INT;")));
    for (int i = 0; i < 4; ++i) s.step();
    CHECK(value(s, "list[2].a") == 5);
    const auto renamed = s.change_logic(0, program_of(text("Couple", "a : INT; b : INT;")));
    CHECK(has(renamed.kept, "list"));
    CHECK(value(s, "list[2].a") == 5);
    const auto turned = s.change_logic(0, program_of(text("Couple", "b : INT; a : INT;")));
    CHECK(has(turned.fresh, "list"));
    CHECK(value(s, "list[2].a") == 0);
}

TEST_CASE("a change of drawn logic leaves each edge its own memory, wherever its rung is now") {
    const auto text = [](const std::string& rungs) {
        return "VAR_GLOBAL a : BOOL := TRUE; b, first, second : BOOL; n : INT; END_VAR PROGRAM main\nLADDER\n" + rungs +
               "END_LADDER\nIF second THEN n := n + 1; END_IF; END_PROGRAM";
    };
    const std::string second = "|  a    second  |\n+--|P|----( )---+\n\n";
    session::Session s(model_of(text(second)));
    for (int i = 0; i < 5; ++i) s.step();
    CHECK(value(s, "n") == 1);  // it has risen once, in the first scan
    s.change_logic(0, program_of(text("|  b    first   |\n+--|P|----( )---+\n\n" + second)));
    for (int i = 0; i < 5; ++i) s.step();
    CHECK(value(s, "n") == 1);
    CHECK(value(s, "first") == 0);
}
