#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;
using procedure::Verdict;
using test::PlantText;

namespace {

constexpr const char* kLogic =
    "VAR_GLOBAL start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; mode AT %IX0.2 : BOOL; knob AT %IW2 : INT; run AT "
    "%QX0.0 : BOOL; count : INT; alarm : INT; END_VAR VAR_GLOBAL RETAIN kept : INT; END_VAR\n"
    "PROGRAM main VAR t : TON; END_VAR\n"
    "run := (run OR start_pb) AND stop_pb;\n"
    "t(IN := run, PT := T#500ms);\n"
    "IF t.Q THEN count := count + 1; t(IN := FALSE); END_IF;\n"
    "IF knob > 900 THEN count := 10 / (alarm - 7); END_IF;\n"
    "END_PROGRAM\n";

PlantText plant_text() {
    PlantText p;
    p.colours({"clay", "cobalt"})
        .brick()
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", "0.5 m/s"}});
    p.add("button.start", {})
        .add("button.stop", {{"contact", "normally closed"}})
        .add("selector.mode_switch", {{"positions", "[hand, auto]"}});
    p.add("potentiometer.pot", {}).add("photoeye.see", {{"on", "a"}, {"at", "2 m"}}).add("motor.m", {});
    p.add("tank.t", {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}});
    return p;
}

session::SessionModelPtr model() {
    static const auto made = test::make_model(kLogic, plant_text(),
                                              {{"start_pb", "start", ""},
                                               {"stop_pb", "stop", ""},
                                               {"mode", "mode_switch", ""},
                                               {"knob", "pot", "0 %..100 % -> 0..1000"},
                                               {"run", "a.run", ""}});
    return made;
}

std::shared_ptr<const procedure::Book> read(const std::string& text) {
    base::Diagnostics diagnostics;
    auto book = procedure::read_book(*model(), {base::make_source("p.proc", text)}, diagnostics);
    const std::string problems = diagnostics.render();
    REQUIRE_MESSAGE(book != nullptr, problems);
    return book;
}

procedure::ProcedureVerdict prove(const std::string& text) {
    const auto book = read(text);
    session::Session session(model());
    return procedure::run_procedure(book, 0, session, {});
}

procedure::ProcedureVerdict prove_step(const std::string& orders) {
    return prove("procedure \"p\"\nstep \"s\"\n" + orders + "\n");
}

std::string errors(const std::string& text) {
    base::Diagnostics diagnostics;
    procedure::read_book(*model(), {base::make_source("p.proc", text)}, diagnostics);
    return test::joined(test::lines_of(diagnostics));
}
std::string order_errors(const std::string& order) {
    return errors("procedure \"p\"\nstep \"s\"\n" + order + "\n");
}

}  // namespace

TEST_CASE("a procedure that holds passes, with its times") {
    const auto v = prove(
        "procedure \"Count\"\n"
        "step \"Start\"\n  expect not run\n  press start for 100 ms\n  expect run within 50 ms\n"
        "step \"Counts\"\n  wait until count = 2 within 2 s\n  expect run for 200 ms\n  note \"that was it\"\n"
        "step \"Stop\"\n  press stop for 50 ms\n  wait 100 ms\n  expect not run\n");
    CHECK(v.verdict == Verdict::Passed);
    CHECK(v.name == "Count");
    REQUIRE(v.steps.size() == 3);
    CHECK(v.steps[0].end == Nanoseconds(10'000'000));
    CHECK(v.steps[1].notes == std::vector<std::string>{"note \"that was it\""});
    CHECK(v.steps[2].begin == v.steps[1].end);
    CHECK(v.steps[2].end - v.steps[2].begin == Nanoseconds(100'000'000));
    CHECK(v.remarks.empty());
}

TEST_CASE("a failed step says what was expected, what every name was, and when; the rest is not reached") {
    const auto v =
        prove("procedure \"p\"\nstep \"one\"\n  expect run or count > 3 within 300 ms\nstep \"two\"\n  wait 1 s\n");
    CHECK(v.verdict == Verdict::Failed);
    REQUIRE(v.steps[0].failure.has_value());
    const procedure::Failure& f = *v.steps[0].failure;
    CHECK(f.place.text() == "p.proc:3:3");
    CHECK(f.expected == "run or count > 3 within 300 ms");
    CHECK(f.found == "run or count > 3 stayed FALSE for 300 ms");
    CHECK(f.time == Nanoseconds(300'000'000));
    CHECK(f.values == std::vector<std::pair<std::string, std::string>>{{"run", "FALSE"}, {"count", "0"}});
    CHECK(v.steps[1].verdict == Verdict::NotReached);
}

TEST_CASE("the forms of expect and wait") {
    CHECK(prove_step("expect stop_pb").verdict == Verdict::Passed);
    CHECK(prove_step("expect not stop_pb").steps[0].failure->found == "not stop_pb is FALSE");
    CHECK(prove_step("press start\nexpect run within 5 ms").verdict == Verdict::Failed);  // a scan later
    CHECK(prove_step("press start\nexpect run within 10 ms").verdict == Verdict::Passed);
    CHECK(prove_step("press start for 50 ms\nwait 20 ms\nexpect start_pb for 500 ms").steps[0].failure->found ==
          "start_pb became FALSE after 40 ms");
    CHECK(prove_step("wait until count > 0").steps[0].failure->found == "count > 0 stayed FALSE for 60 s");
    CHECK(prove_step("wait T#1s250ms\nexpect a.speed = 0.0").steps[0].end == Nanoseconds(1'250'000'000));
}

TEST_CASE("rises and falls see edges from the start of the wait on") {
    CHECK(prove_step("press start\nwait 100 ms\nexpect rises(run) within 200 ms").verdict == Verdict::Failed);
    CHECK(prove_step("press start\nexpect rises(run) within 200 ms").verdict == Verdict::Passed);
    CHECK(prove_step("press start for 30 ms\nwait until falls(start_pb) within 200 ms\npress stop\nwait until "
                     "falls(run) within 100 ms")
              .verdict == Verdict::Passed);
}

TEST_CASE("hand controls, faults, items and forces do what they say") {
    const char* fine[] = {
        "turn mode_switch to auto\nexpect mode within 20 ms\nturn mode_switch to hand\nexpect not mode within 20 ms",
        "set pot to 40 %\nexpect knob = 400 within 20 ms",
        "press start\nwait 50 ms\nrelease start\nexpect not start_pb within 20 ms",
        "place brick on a at 1.5 m colour cobalt\npress start for 50 ms\nexpect see within 1 s\ntake from a\nexpect "
        "not see.signal within 20 ms\nexpect plant.items = 0",
        "fault see stuck on\nexpect see within 20 ms\nheal see\nexpect not see within 20 ms",
        "fault see.signal stuck on\nwait 20 ms\nheal see.signal\nexpect not see within 20 ms",
        "fault pot.value stuck at 20 %\nexpect knob = 200 within 20 ms\nheal all",
        "fault a jammed\npress start\nexpect run within 20 ms\nexpect a.speed = 0.0 for 200 ms\nheal a\nexpect a.speed "
        "> 0.4 within 20 ms",
        "fault t leaking 100 l/s\nexpect t.level < 0.41 within 1.1 s\nheal t",
        "fault m trip\nexpect not m.overload_contact within 20 ms\nheal m\nreset m\nexpect m.overload_contact within "
        "20 ms",
        "force count = 42\nforces on\nwait 20 ms\nexpect count = 42 for 100 ms\nunforce count\nforces off",
        "force stop_pb = FALSE\nforces on\nwait 20 ms\nexpect not stop_pb and stop\nunforce all",
        "stop\nwait 50 ms\nstart\nexpect alarm = 0",
        "fault see stuck on for 100 ms\nwait 20 ms\nexpect see\nwait 150 ms\nexpect not see",
        "fault see open_wire\nfault see chatter 20 ms every 3rd\nfault m jammed at random every 2 s for 100 ms\nheal "
        "all",
        "place brick on a at 1 m\nturn item on a at 1 m by 90 deg\nshift item on a by 100 mm left -20 mm\n"
        "swap item on a for brick\ntake from a\nexpect plant.items = 0",
        "force kept = 7\nforces on\nwait 20 ms\nunforce all\nforces off\nexpect kept = 7\nstop\nwait 20 ms\nstart "
        "warm\nwait 20 ms\nexpect kept = 7\nstop line\nwait 20 ms\nstart line warm\nwait 20 ms\nexpect kept = 7\n"
        "stop\nstart\nwait 20 ms\nexpect kept = 0",
    };
    for (const char* orders : fine) {
        CAPTURE(orders);
        const auto v = prove_step(orders);
        CHECK(v.verdict == Verdict::Passed);
        if (v.steps[0].failure) CHECK(v.steps[0].failure->expected == "");
    }
}

TEST_CASE("an order that cannot be done fails its step") {
    CHECK(prove_step("take from a").steps[0].failure->found == "there is no item on 'a'");
    CHECK(prove_step("place brick on a at 1 m\nplace brick on a at 1.05 m").steps[0].failure->found ==
          "there is no room on 'a' at 1.05 m");
    CHECK(prove_step("unforce count").steps[0].failure->found == "it was not forced");
}

TEST_CASE("what is left on at the end is said") {
    const auto v = prove_step("force count = 5\nforces on\nfault see stuck on\nfault t leaking\nwait 50 ms");
    CHECK(v.verdict == Verdict::Passed);
    CHECK(v.remarks == std::vector<std::string>{"left at the end: count forced to 5",
                                                "left at the end: fault see.signal stuck on",
                                                "left at the end: fault t leaking 0.05 l/s"});
}

TEST_CASE("a controller that stops by itself fails the procedure") {
    const auto v = prove_step("force alarm = 7\nforces on\nset pot to 95 %\nwait 100 ms\nunforce all");
    CHECK(v.verdict == Verdict::Failed);
    REQUIRE(v.stops.size() == 1);
    CHECK(v.stops[0].text == "controller line stopped at 0.010 s: test.st:6:32: division by zero");
    CHECK_FALSE(v.stops[0].meant);
    // Starting it again does not make it forgotten; a step that expects it does.
    const char* again =
        "force alarm = 7\nset pot to 95 %\nwait 100 ms\nset pot to 0 %\nstart\nwait 100 ms\nunforce all";
    CHECK(prove_step(again).verdict == Verdict::Failed);
    CHECK(prove_step(again).stops.size() == 1);
    const auto meant = prove_step(
        "force alarm = 7\nset pot to 95 %\nexpect stopped line within 100 ms\nset pot to 0 %\nstart\nwait 100 "
        "ms\nunforce all");
    CHECK(meant.verdict == Verdict::Passed);
    REQUIRE(meant.stops.size() == 1);
    CHECK(meant.stops[0].meant);
    CHECK(prove_step("expect stopped within 50 ms").steps[0].failure->found == "it ran on for 50 ms");
    CHECK(prove_step("stop\nexpect stopped\nstart").verdict == Verdict::Passed);
}

TEST_CASE("never and always: when first broken, for how long, how often") {
    const auto v = prove(
        "rule \"no run\": never run\n"
        "rule \"stop closed\": always stop_pb\n"
        "rule \"fine\": never count > 100\n"
        "procedure \"p\"\nstep \"s\"\n"
        "wait 100 ms\npress start for 20 ms\nwait 200 ms\npress stop for 50 ms\nwait 200 ms\npress start for 20 "
        "ms\nwait 100 ms\npress stop for 50 ms\nwait 100 ms\n");
    CHECK(v.verdict == Verdict::Failed);
    REQUIRE(v.rules.size() == 3);
    CHECK(v.rules[0].verdict == Verdict::Failed);
    CHECK(v.rules[0].first_broken == Nanoseconds(110'000'000));
    CHECK(v.rules[0].broken_for == Nanoseconds(300'000'000));
    CHECK(v.rules[0].times_broken == 2);
    CHECK(v.rules[0].values == std::vector<std::pair<std::string, std::string>>{{"run", "TRUE"}});
    CHECK(v.rules[0].condition == "never run");
    CHECK(v.rules[1].verdict == Verdict::Failed);
    CHECK(v.rules[1].broken_for == Nanoseconds(100'000'000));
    CHECK(v.rules[2].verdict == Verdict::Passed);
    CHECK(v.steps[0].verdict == Verdict::Passed);
}

TEST_CASE("whenever ... then ... within") {
    const auto rule = [](const std::string& text, const std::string& orders) {
        return prove("rule \"r\": " + text + "\nprocedure \"p\"\nstep \"s\"\n" + orders + "\nwait 500 ms\n").rules[0];
    };
    const auto good = rule("whenever rises(start_pb) then run within 50 ms",
                           "press start for 100 ms\nwait 300 ms\npress start for 100 ms");
    CHECK(good.verdict == Verdict::Passed);
    CHECK(good.times_triggered == 2);
    CHECK(rule("whenever rises(start_pb) then run within 50 ms", "wait 1 s").verdict == Verdict::NotTested);
    const auto late = rule("whenever rises(start_pb) then count > 0 within 200 ms", "wait 90 ms\npress start");
    CHECK(late.verdict == Verdict::Failed);
    CHECK(late.first_broken == Nanoseconds(100'000'000 + 200'000'000));
    CHECK(late.broken_for == Nanoseconds(290'000'000));  // until the end
    CHECK(rule("whenever falls(stop_pb) then not run", "press start for 50 ms\nwait 100 ms\npress stop for 50 ms")
              .verdict == Verdict::Passed);
    CHECK(rule("whenever run then a.run within 20 ms", "press start for 50 ms").verdict == Verdict::Passed);
}

TEST_CASE("common rules hold in every procedure, own rules in theirs") {
    const auto book = read(
        "rule \"common\": never count > 9\nprocedure \"a\"\nrule \"own\": always stop_pb\nstep \"s\"\nwait 10 "
        "ms\nprocedure \"b\"\nstep \"s\"\nwait 10 ms\n");
    REQUIRE(book->procedures.size() == 2);
    CHECK(book->procedures[0].rules.size() == 2);
    CHECK(book->procedures[1].rules.size() == 1);
    CHECK(book->procedures[1].rules[0].name == "common");
}

TEST_CASE("mistakes in orders") {
    struct Row {
        const char* order;
        const char* message;
    };
    const Row rows[] = {
        {"pres start", "3:1 no verb is named 'pres' [did you mean 'press'?]\n"},
        {"press strat", "3:7 no device is named 'strat' [did you mean 'start'?]\n"},
        {"press pot", "3:7 a potentiometer cannot be told to 'press' [known: set]\n"},
        {"press a", "3:7 a belt cannot be told to 'press' [it has no hand control]\n"},
        {"press start for 200", "3:17 a time needs a unit; accepted: us, ms, s, min, h\n"},
        {"press start for 2 m", "3:17 'm' is not a unit of time; accepted: us, ms, s, min, h\n"},
        {"press start twice", "3:13 expected the end of the line, found 'twice'\n"},
        {"turn mode_switch to automatic", "3:21 'automatic' is not a position of 'mode_switch' [known: hand, auto]\n"},
        {"turn mode_switch auto", "3:18 expected 'to' and a value, found 'auto'\n"},
        {"set pot to 140 %", "3:12 140 % is out of range; accepted: 0 to 100 %\n"},
        {"set pot to 40", "3:12 a percentage needs a unit; accepted: %\n"},
        {"set pot to", "3:11 expected a percentage such as 1 %, found the end of the line\n"},
        {"force cuont = 1", "3:7 no tag is named 'cuont' [did you mean 'count'?]\n"},
        {"force count 1", "3:13 expected '=' and a value, found '1' [force count = ...]\n"},
        {"force run = 1", "3:13 'run' is BOOL; expected TRUE or FALSE, found '1'\n"},
        {"force count = 40000", "3:15 'count' is INT; expected a whole number, -32768 to 32767, found '40000'\n"},
        {"force count = 1.5", "3:15 'count' is INT; expected a whole number, -32768 to 32767, found '1.5'\n"},
        {"unforce nothing",
         "3:9 no tag is named 'nothing' [known: start_pb, stop_pb, mode, knob, run, count, alarm, kept, "
         "main.t.IN, main.t.PT, main.t.Q, main.t.ET]\n"},
        {"forces maybe", "3:8 expected 'forces on' or 'forces off', found 'maybe'\n"},
        {"fault see stuck maybe", "3:17 'see.signal' is BOOL; expected 'on' or 'off', found 'maybe'\n"},
        {"fault m stuck on", "3:7 'm' has several points; name one [known: m.run, m.running, m.overload_contact]\n"},
        {"fault m explodes",
         "3:9 a motor has no fault 'explodes' [known: stuck, open_wire, short, chatter, delay, noise, drift, offset, "
         "gain, "
         "trip, jammed, wrong_direction]\n"},
        {"fault see.signal trip",
         "3:18 a point has no fault 'trip' [known: stuck, open_wire, short, chatter, delay, noise, drift, offset, "
         "gain]\n"},
        {"fault see gain 2", "3:11 'see.signal' is BOOL; it cannot have gain\n"},
        {"fault see delay 90 s", "3:17 delay takes more than 0 s and at most 60 s\n"},
        {"fault m trip every 3", "3:20 'every' counts the signals of a point; this is a fault of a device\n"},
        {"fault see stuck on at random every 3 s",
         "3:39 expected 'for' and how long it lasts, found the end of the line\n"},
        {"fault see stuck on every 2.5", "3:26 'every' takes a whole number, 1 to 1000000\n"},
        {"shift item on a by", "3:19 expected a length such as 1 m, found the end of the line\n"},
        {"swap item on a for nut", "3:20 no item is named 'nut' [known: brick]\n"},
        {"turn item on a for 3", "3:16 expected 'by', found 'for' [turn item on infeed at 1.2 m by 90 deg]\n"},
        {"fault nothing trip", "3:7 no device or point is named 'nothing'\n"},
        {"fault t leaking 3 m", "3:17 'm' is not a unit of flow; accepted: ml/s, l/s, l/min, m3/h\n"},
        {"heal nothing",
         "3:6 no device or point is named 'nothing' [known: a, start, stop, mode_switch, pot, see, m, t]\n"},
        {"take a", "3:6 expected 'from' and a belt or chute, found 'a' [take from infeed at 1.2 m]\n"},
        {"take from m", "3:11 'm' carries no items [name a belt, a chute, a gantry or 'floor']\n"},
        {"place brik on a at 1 m", "3:7 no item is named 'brik' [did you mean 'brick'?]\n"},
        {"place brick on a at 9 m", "3:21 9 m is out of range; it is 5 m long\n"},
        {"place brick on a at 1 m colour pink", "3:32 'pink' is not a colour of this plant [known: clay, cobalt]\n"},
        {"wait until runn within 1 s", "3:12 no tag, point or actual is named 'runn' [did you mean 'run'?]\n"},
        {"expect count", "3:8 this is INT, but a condition needs BOOL [write TRUE or FALSE, or compare: <> 0]\n"},
        {"expect run within", "3:18 expected a time such as 1 s, found the end of the line\n"},
        {"expect", "3:7 expected a value, found the end of the text\n"},
        {"expect run AND", "3:15 expected a value, found the end of the text\n"},
        {"note hello", "3:6 expected a string in quotes, found 'hello'\n"},
        {"stop lines", "3:6 no controller is named 'lines' [did you mean 'line'?]\n"},
        {"wait -1 s", "3:6 a time is 0 s to 1000 h\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.order);
        CHECK(order_errors(row.order) == row.message);
    }
}

TEST_CASE("mistakes in the frame of a procedure") {
    CHECK(errors("wait 1 s\n") ==
          "0:0 there are rules, but no procedure to watch them in\n1:1 'wait' stands outside a step [start with: "
          "procedure \"...\" and step \"...\"]\n");
    CHECK(errors("procedure p\n").find("1:11 expected a name in quotes after 'procedure'") != std::string::npos);
    CHECK(errors("procedure \"p\"\n") ==
          "1:1 procedure \"p\" has no step [step \"Start\" and what to do and expect]\n");
    CHECK(errors("procedure \"p\"\nstep \"s\"\nwait 1 s\nprocedure \"p\"\nstep \"s\"\nwait 1 s\n") ==
          "4:11 procedure \"p\" is written twice\n");
    CHECK(errors("rule \"r\": sometimes run\nprocedure \"p\"\nstep \"s\"\nwait 1 s") ==
          "1:11 expected never, always or whenever [known: never, always, whenever]\n");
    CHECK(errors("rule \"r\": whenever run and count > 1\nprocedure \"p\"\nstep \"s\"\nwait 1 s")
              .find("expected 'then' and what must follow") != std::string::npos);
}

TEST_CASE("a wrong name of a procedure or step is one mistake, and its lines are still read") {
    CHECK(errors("procedure \"p\"\nstep Runs to the eye\"\nwait 1 s\npres start\n") ==
          "2:6 expected a name in quotes after 'step'\n"
          "2:21 this string is never closed [close it with \" on the same line]\n"
          "4:1 no verb is named 'pres' [did you mean 'press'?]\n");
    CHECK(errors("procedure\nstep \"s\"\nwait 1 s\n") == "1:10 expected a name in quotes after 'procedure'\n");
    CHECK(errors("procedure \"p\"\nstep \"\"\nwait 1 s\n") == "2:6 expected a name in quotes after 'step'\n");
}

TEST_CASE("a condition may go on over lines within parentheses; comments are passed over") {
    const auto v = prove_step("// comment\nexpect (stop_pb and\n  not run) (* and so on *)\n");
    CHECK(v.verdict == Verdict::Passed);
}

TEST_CASE("a condition that cannot be computed fails with its reason") {
    for (const char* order : {"expect 5 / count > 0", "expect not (5 / count > 0)", "wait until 5 / count > 0"})
        CHECK(prove_step(order).steps[0].failure->found == "it cannot be judged: division by zero");
    const auto v = prove("procedure \"p\"\nrule \"r\": never 10 / alarm > 1\nstep \"s\"\nwait 50 ms\n");
    CHECK(v.verdict == Verdict::Failed);
    CHECK(v.rules[0].verdict == Verdict::CannotBeJudged);
    CHECK(v.rules[0].reason == "division by zero at 0.000 s: 10 / alarm > 1");
}

TEST_CASE("the same procedure gives the same verdict and trace every time") {
    const auto book = read(
        "procedure \"p\"\nstep \"s\"\npress start for 100 ms\nplace brick on a at 0.5 m\nwait until see within 10 "
        "s\nfault a jammed\nwait 1 s\nheal a\nwait 1 s\n");
    std::vector<trace::Trace> traces(2);
    for (trace::Trace& trace : traces) {
        session::Session session(model());
        trace::Recorder recorder(session, trace::usual_channels(*model()), {&trace});
        procedure::run_procedure(book, 0, session, [&](const session::Session& s) { recorder.observe(s); });
        recorder.finish(session);
    }
    CHECK(traces[0].change_count() > 20);
    CHECK(traces[0] == traces[1]);
}
