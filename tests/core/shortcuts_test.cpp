// What campaigns do not carry through: runs at a standstill, runs that are where the undisturbed one is, faults that
// nobody looks at. Each shortcut against the plain run, over what keeps time in logic and what procedures do to wires.
#include <random>

#include "core/campaign/unnoticed.hpp"
#include "core/campaign_setup.hpp"

using namespace vyard;
using campaign::RunRow;
using campaign::Setup;
using test::PlantText;
using test::setup_of;

namespace {

constexpr const char* kTags =
    "VAR_GLOBAL\n"
    "  start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; reset_pb AT %IX0.2 : BOOL; see AT %IX0.3 : BOOL;\n"
    "  out_end AT %IX0.4 : BOOL; in_end AT %IX0.5 : BOOL; spare AT %IX1.0 : BOOL;\n"
    "  run AT %QX0.0 : BOOL; go_out AT %QX0.1 : BOOL; alarm AT %QX0.2 : BOOL; blink AT %QX0.3 : BOOL;\n"
    "  shown AT %QX0.4 : BOOL; running, late_lamp : BOOL; level : INT;\n"
    "END_VAR\n";

constexpr const char* kMachine =
    "PROGRAM p VAR late : TON; END_VAR\n"
    "running := (running OR (start_pb AND NOT alarm)) AND stop_pb AND NOT alarm;\n"
    "run := running; go_out := running AND see;\n"
    "late(IN := running AND see AND NOT out_end, PT := T#1500ms);\n"
    "IF late.Q THEN alarm := TRUE; ELSIF reset_pb THEN alarm := FALSE; END_IF;\n"
    "shown := running;\n"
    "END_PROGRAM\n";

/// What keeps time besides, by name.
std::vector<std::pair<std::string, std::string>> clocks() {
    const auto in_program = [](const std::string& variables, const std::string& body) {
        return "PROGRAM q VAR " + variables + " END_VAR\n" + body + "\nEND_PROGRAM\n";
    };
    const std::string chart =
        "INITIAL_STEP idle: END_STEP\nSTEP busy: %\nEND_STEP\nSTEP done: END_STEP\n"
        "TRANSITION FROM idle TO busy := running; END_TRANSITION\n"
        "TRANSITION FROM busy TO done := NOT running; END_TRANSITION\n"
        "TRANSITION FROM done TO idle := reset_pb; END_TRANSITION\n";
    const auto with_action = [&](const std::string& action) {
        std::string text = chart;
        return "PROGRAM q\n" + text.replace(text.find('%'), 1, action) + "END_PROGRAM\n";
    };
    return {
        {"nothing", ""},
        {"a blinker", in_program("a, b : TON;",
                                 "a(IN := NOT b.Q, PT := T#330ms); b(IN := a.Q, PT := T#270ms);\n"
                                 "blink := running AND a.Q;")},
        {"a blinking alarm", in_program("a, b : TON;",
                                        "a(IN := NOT b.Q, PT := T#330ms); b(IN := a.Q, PT := T#270ms);\n"
                                        "late_lamp := alarm AND a.Q;")},
        {"run-on", in_program("t : TOF;", "t(IN := running, PT := T#3s); blink := t.Q;")},
        {"a pulse", in_program("t : TP;", "t(IN := running, PT := T#2s); blink := t.Q;")},
        {"a timer over", in_program("t : TON;", "t(IN := running, PT := T#500ms); blink := t.Q;")},
        {"a timer over whose time grows later",
         in_program("a, b, t : TON;",
                    "a(IN := NOT b.Q, PT := T#500ms); b(IN := a.Q, PT := T#500ms);\n"
                    "t(IN := running, PT := SEL(a.Q, T#200ms, T#12s));\n"
                    "IF t.Q AND a.Q THEN alarm := TRUE; END_IF;")},
        {"a counter", in_program("a, b : TON; n : CTU;",
                                 "a(IN := running AND NOT b.Q, PT := T#500ms); b(IN := a.Q, PT := T#500ms);\n"
                                 "n(CU := a.Q, R := NOT running, PV := 14); IF n.Q THEN alarm := TRUE; END_IF;")},
        {"a chart", with_action("")},
        {"a chart that asks how long", with_action("") + "PROGRAM r END_PROGRAM\n"},
        {"an action for some time", with_action("blink(L, T#2s);")},
        {"an action after some time", with_action("alarm(D, T#11s);")},
    };
}

/// A watch of how long a step has been active: the alarm comes after 13 s.
std::string asked(const std::string& name, std::string text) {
    if (name != "a chart that asks how long") return text;
    const std::size_t at = text.find("END_PROGRAM");
    return text.insert(at, "TRANSITION FROM busy TO idle := busy.T > T#13s AND NOT see; END_TRANSITION\n");
}

PlantText plant_text() {
    PlantText p;
    p.brick().add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.3 m/s"}});
    p.add("outfeed.away", {{"after", "b"}}).add("photoeye.eye", {{"on", "b"}, {"at", "1 m"}});
    p.add("photoeye.other", {{"on", "b"}, {"at", "0.5 m"}});
    p.add("cylinder.slide", {{"stroke", "200 mm"}, {"extend_time", "0.5 s"}, {"retract_time", "0.5 s"}});
    p.add("endswitch.s_out", {{"on", "slide"}, {"at", "200 mm"}})
        .add("endswitch.s_in", {{"on", "slide"}, {"at", "0 mm"}});
    p.add("button.start", {}).add("button.stop", {{"contact", "normally closed"}}).add("button.reset", {});
    p.add("lamp.alarm_lamp", {}).add("lamp.blinks", {}).add("lamp.shows", {});
    return p;
}

session::Definition machine_text(const std::string& text) {
    return test::make_definition(kTags + std::string(kMachine) + text, plant_text(),
                                 {{"start_pb", "start", ""},
                                  {"stop_pb", "stop", ""},
                                  {"reset_pb", "reset", ""},
                                  {"see", "eye", ""},
                                  {"spare", "other", ""},
                                  {"out_end", "s_out", ""},
                                  {"in_end", "s_in", ""},
                                  {"run", "b.run", ""},
                                  {"go_out", "slide.extend", ""},
                                  {"alarm", "alarm_lamp", ""},
                                  {"blink", "blinks", ""},
                                  {"shown", "shows", ""}});
}

session::SessionModelPtr machine(const std::string& text) {
    return test::build(machine_text(text));
}

/// What a procedure does to its wires itself.
const std::vector<std::pair<std::string, std::string>>& meddling() {
    static const std::vector<std::pair<std::string, std::string>> all = {
        {"nothing", ""},
        {"heals all", "step \"Mended\"\n    wait 1 s\n    heal all\n"},
        {"the same wire", "step \"Broken\"\n    fault eye.signal stuck off\n    wait 2 s\n    heal eye.signal\n"},
    };
    return all;
}

base::SourcePtr procedure_of(const std::string& meddles) {
    return base::make_source(
        "p.proc",
        "rule \"Not both ends\": never s_out.signal and s_in.signal\n"
        "procedure \"Works\"\nstep \"It starts\"\n    press start for 100 ms\n    expect run within 50 ms\n" +
            meddles +
            "step \"A brick goes through\"\n    place brick on b at 0.2 m\n    wait until see within 18 s\n"
            "    wait until not see within 16 s\n    expect away.counted = 1 within 20 s\n"
            "step \"It stops\"\n    press stop for 200 ms\n    expect not run within 100 ms\n");
}

std::vector<std::string> rows_of(Setup setup, bool plain) {
    setup.plain = plain;
    const auto faults = campaign::make_faults(setup);
    REQUIRE(faults->remarks().empty());
    std::vector<std::string> out;
    for (const RunRow& r : campaign::carry_out(*faults, setup).rows) {
        std::string line = fmt::format("{} at {}: {} {}", r.disturbance, base::clock_text(r.at), r.outcome,
                                       r.reaction ? base::clock_text(*r.reaction) : "-");
        for (const campaign::Sight& s : r.sights) line += "; " + s.key;
        out.push_back(line);
    }
    return out;
}

}  // namespace

TEST_CASE("faults: what is cut short comes out as what is carried through, whatever keeps time and who meddles") {
    std::size_t compared = 0;
    std::set<std::string> outcomes;
    std::uint32_t limit = 24;
    for (const auto& [clock, text] : clocks()) {
        for (const auto& [meddles, orders] : meddling()) {
            CAPTURE(clock);
            CAPTURE(meddles);
            Setup setup = setup_of(machine(asked(clock, text)), {procedure_of(orders)});
            setup.limit = ++limit;  // others of the faults each time
            const auto plain = rows_of(setup, true), cut = rows_of(setup, false);
            REQUIRE(plain.size() == cut.size());
            for (std::size_t i = 0; i < plain.size(); ++i) {
                CHECK(plain[i] == cut[i]);
                for (const char* o : {"dangerous", "silent", "shown", "masked"}) {
                    if (plain[i].find(o) != std::string::npos) outcomes.insert(o);
                }
            }
            compared += plain.size();
        }
    }
    CHECK(compared > 1000);
    CHECK(outcomes.size() == 4);
}

TEST_CASE("faults: a machine at a standstill is not waited for, one that only comes to it later is") {
    const auto seconds = [](const std::string& clock) {
        for (const auto& [name, text] : clocks()) {
            if (name != clock) continue;
            const auto source = procedure_of("");
            const Setup setup = setup_of(machine(asked(name, text)), {source});
            const auto faults = campaign::make_faults(setup);
            for (const RunRow& r : campaign::carry_out(*faults, setup).rows) {
                if (r.disturbance == "fault b jammed" && r.at.count() == 0) return r.outcome + ": " + r.detail;
            }
        }
        return std::string("no such run");
    };
    CHECK(seconds("nothing").find("silent: 'A brick goes through': at ") == 0);
    CHECK(seconds("nothing").find("nothing changes any more") != std::string::npos);
    CHECK(seconds("a blinker").find("nothing changes any more") != std::string::npos);
    CHECK(seconds("a chart").find("nothing changes any more") != std::string::npos);
    CHECK(seconds("an action for some time").find("nothing changes any more") != std::string::npos);
    CHECK(seconds("a timer over whose time grows later") == "shown: alarm = TRUE");
    CHECK(seconds("a counter") == "shown: alarm = TRUE");
    CHECK(seconds("an action after some time") == "shown: alarm = TRUE");
}

TEST_CASE("faults: what a table has yet to write is waited for") {
    session::Definition definition = machine_text("");
    definition.stimuli.push_back({std::chrono::seconds(16), "alarm", {}, "TRUE", {}, "", {}});
    const Setup setup = setup_of(test::build(definition), {procedure_of("")});
    const auto plain = rows_of(setup, true), cut = rows_of(setup, false);
    CHECK(plain == cut);
    const bool shown = std::any_of(cut.begin(), cut.end(), [](const std::string& row) {
        return row.starts_with("fault b jammed at 0.000 s: shown 16.0");
    });
    CHECK(shown);
}

TEST_CASE("timers that are over go on alike at one instant only if they are for as long") {
    const auto model = machine(clocks()[5].second);
    REQUIRE(clocks()[5].first == "a timer over");
    const auto pressed_after = [&](int steps) {
        session::Session s(model);
        for (int i = 0; i < steps; ++i) s.step();
        for (const procedure::Order& o : campaign::read_lines(*model, {"press start for 100 ms"})) {
            std::string said;
            procedure::perform(s, o, said);
        }
        for (int i = steps; i < 1000; ++i) s.step();
        return s;
    };
    const session::Session one = pressed_after(100), same = pressed_after(100), other = pressed_after(200);
    CHECK(one.goes_on_as(same, {}));
    CHECK_FALSE(one.goes_on_as(other, {}));
    CHECK(one.goes_on_as(other, {.over = true}));
}

TEST_CASE("two runs that do the same at different times are told to go on alike, and do") {
    for (const auto& [clock, text] : clocks()) {
        CAPTURE(clock);
        const auto model = machine(asked(clock, text));
        const auto begun = [&](int wait) {
            session::Session s(model);
            const auto obey = [&](const char* order) {
                for (const procedure::Order& o : campaign::read_lines(*model, {order})) {
                    std::string said;
                    CHECK(procedure::perform(s, o, said).empty());
                }
            };
            for (int i = 0; i < wait; ++i) s.step();
            obey("press start");
            for (int i = 0; i < 20; ++i) s.step();
            obey("release start");
            for (int i = 0; i < 40; ++i) s.step();
            return s;
        };
        session::Session early = begun(100), late = begun(778);  // a multiple of the scan apart
        const session::Session::LeftOut left_out{.step_times = true};
        const bool alike = early.goes_on_as(late, left_out);
        // What blinks from the first scan on is somewhere else, and where the logic asks how long steps last it counts
        // for how long the chart was idle.
        const bool differs = clock.find("blink") != std::string::npos || clock.find("grows") != std::string::npos ||
                             clock.find("asks") != std::string::npos;
        CHECK(alike == !differs);
        bool same = true;
        for (int i = 0; i < 1600; ++i) {
            early.step();
            late.step();
            same = same && early.plant().wires == late.plant().wires && early.goes_on_as(late, left_out) == alike;
        }
        if (alike) CHECK(same);
    }
}

TEST_CASE("conditions come to the same whether they are computed every time or only when a name has changed") {
    const auto model =
        machine("PROGRAM q VAR n : INT; END_VAR IF see THEN n := n + 1; END_IF; level := n; END_PROGRAM");
    const auto source =
        base::make_source("p.proc",
                          "rule \"a\": never rises(see) and run\nrule \"b\": never falls(run) or rises(alarm)\n"
                          "rule \"c\": whenever rises(run and not see) then falls(see) within 1 s\n"
                          "rule \"d\": never level > 3 and slide.position > 50 mm\nrule \"e\": never 10 / level > 2\n"
                          "rule \"f\": never rises(level > 5) and not falls(start.contact) or b.speed > 0.1 m/s\n"
                          "procedure \"p\"\nstep \"s\"\n    expect rises(see) within 1 s\n    measure \"t\" from "
                          "rises(run) to falls(run)\n");
    const Setup setup = setup_of(model, {source});
    const std::size_t count = setup.book->conditions->set.conditions.size();
    REQUIRE(count > 8);
    procedure::Evaluator kept(setup.book->conditions), anew(setup.book->conditions);
    session::Session s(model);
    std::mt19937 random(7);
    std::array<int, 3> answers{};
    for (int scan = 0; scan < 4000; ++scan) {
        const auto chance = [&](unsigned n) { return random() % n == 0; };
        for (const char* order : {"press start", "release start", "press stop for 50 ms", "place brick on b at 0.2 m",
                                  "press reset for 50 ms"}) {
            if (!chance(90)) continue;
            for (const procedure::Order& o : campaign::read_lines(*model, {order})) {
                std::string said;
                procedure::perform(s, o, said);
            }
        }
        s.step();
        s.step();
        for (std::size_t c = 0; c < count; ++c) {
            if (chance(3)) continue;  // not each in every scan
            const int number = static_cast<int>(c);
            if (chance(200)) {
                kept.arm(number);
                anew.arm(number);
            }
            anew.follow(setup.book->conditions);  // forgets what it has computed, but not what edges have seen
            const procedure::Answer one = kept.evaluate(number, s), other = anew.evaluate(number, s);
            REQUIRE(one.kind == other.kind);
            REQUIRE(one.why == other.why);
            ++base::at(answers, static_cast<int>(one.kind));
        }
    }
    for (const int n : answers) CHECK(n > 30);
}

TEST_CASE("what nobody looks at: unread wires, lamps and sensors that no condition asks for") {
    struct Case {
        const char* what;
        const char* logic;
        const char* rule;
        bool other_seen, lamp_seen;
    };
    const Case cases[] = {
        {"nobody", "", "", false, false},
        {"the logic by name", "PROGRAM q late_lamp := spare; END_PROGRAM", "", true, false},
        {"the logic by address", "PROGRAM q late_lamp := %IX1.0; END_PROGRAM", "", true, false},
        {"the logic by another bit", "PROGRAM q late_lamp := %IX1.1; END_PROGRAM", "", false, false},
        {"the logic by a byte around it",
         "VAR_GLOBAL all AT %IB1 : BYTE; END_VAR PROGRAM q late_lamp := all = 1; END_PROGRAM", "", true, false},
        {"the logic by an argument of its configuration",
         "PROGRAM q VAR_INPUT x : BOOL; END_VAR late_lamp := x; END_PROGRAM\n"
         "CONFIGURATION c RESOURCE r ON plc TASK t(INTERVAL := T#10ms, PRIORITY := 1);\n"
         "PROGRAM one WITH t : p; PROGRAM two WITH t : q(x := spare); END_RESOURCE END_CONFIGURATION\n",
         "", true, false},
        {"a rule, its tag", "", "rule \"r\": never spare and alarm\n", true, false},
        {"a rule, its wire", "", "rule \"r\": never other.signal and alarm\n", true, false},
        {"a rule, what the eye sees", "", "rule \"r\": never other.blocked and alarm\n", false, false},
        {"a rule, the lamp", "", "rule \"r\": never shows.on and alarm\n", false, true},
    };
    for (const Case& c : cases) {
        CAPTURE(c.what);
        const auto model = machine(c.logic);
        const std::string own = procedure_of("")->text;
        Setup setup = setup_of(model, {base::make_source("p.proc", c.rule + own)});
        const campaign::Unnoticed unnoticed(setup, setup.book->procedures[0]);
        const plant::PlantModel& plant = *model->plant;
        CHECK(unnoticed.point(plant.find_point("other.signal")) == !c.other_seen);
        const bool device_asked = std::string(c.rule).find("blocked") != std::string::npos;
        CHECK(unnoticed.device(plant.find_device("other")) == !(c.other_seen || device_asked));
        CHECK(unnoticed.point(plant.find_point("shows.on")) == !c.lamp_seen);
        CHECK(unnoticed.device(plant.find_device("shows")) == !c.lamp_seen);
        CHECK(!unnoticed.point(plant.find_point("eye.signal")));
        CHECK(!unnoticed.point(plant.find_point("b.run")));
        CHECK(!unnoticed.device(plant.find_device("b")));
        CHECK(!unnoticed.device(plant.find_device("slide")));
    }
}
