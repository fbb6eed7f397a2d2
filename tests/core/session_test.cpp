#include <cmath>

#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;
using test::PlantText;

namespace {

constexpr const char* kLogic =
    "VAR_GLOBAL\n"
    "  start_pb AT %IX0.0 : BOOL; stop_pb AT %IX0.1 : BOOL; eye AT %IX0.2 : BOOL;\n"
    "  level_raw AT %IW2 : INT; knob AT %IW4 : INT; colour AT %IB6 : USINT;\n"
    "  run AT %QX0.0 : BOOL; lamp AT %QX0.1 : BOOL; count AT %QW2 : INT; opening AT %QW4 : INT;\n"
    "  inner : INT; on : BOOL;\n"
    "END_VAR\n"
    "PROGRAM main\n"
    "VAR seen : R_TRIG; END_VAR\n"
    "  on := (on OR start_pb) AND stop_pb;\n"
    "  run := on;\n"
    "  lamp := on AND NOT eye;\n"
    "  seen(CLK := eye);\n"
    "  IF seen.Q THEN count := count + 1; END_IF;\n"
    "  inner := inner + 1;\n"
    "  opening := knob;\n"
    "END_PROGRAM\n";

PlantText plant_text() {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", "0.5 m/s"}});
    p.add("button.start", {})
        .add("button.stop", {{"contact", "normally closed"}})
        .add("photoeye.see", {{"on", "a"}, {"at", "2 m"}});
    p.add("tank.t", {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "0.5 m"}});
    p.add("level_transmitter.lt", {{"tank", "t"}, {"range", "2 m"}})
        .add("potentiometer.pot", {{"initial", "25 %"}})
        .add("colour_reader.look", {{"on", "a"}, {"at", "3 m"}});
    p.add("lamp.l", {}).add("display.d", {}).add("valve.v", {{"control", "proportional"}, {"into", "t"}});
    return p;
}

session::SessionModelPtr model() {
    static const auto made = test::make_model(kLogic, plant_text(),
                                              {{"start_pb", "start", ""},
                                               {"stop_pb", "stop.contact", ""},
                                               {"eye", "see.signal", ""},
                                               {"level_raw", "lt.level", "0 m..1 m -> 4000..20000"},
                                               {"knob", "pot.value", "0 %..100 % -> 0..1000"},
                                               {"colour", "look.colour", ""},
                                               {"run", "a.run", ""},
                                               {"lamp", "l.on", "invert"},
                                               {"count", "d.value", ""},
                                               {"opening", "v.opening", "0 %..100 % -> 0..1000"}});
    return made;
}

class Machine {
  public:
    session::Session s{model()};

    double get(const std::string& name) const {
        const auto signal = session::find_signal(s.model(), name);
        REQUIRE_MESSAGE(signal.has_value(), name);
        return session::read(s, *signal);
    }
    void control(const char* device, const char* verb, double value = 0) {
        const int d = s.model().plant->find_device(device);
        s.use_control(d, *base::at(s.model().plant->devices, d).kind->find_control(verb), value);
    }
    controller::Spot spot(const char* name) const { return wiring::find_spots(s.model().controllers, name)[0].spot; }
    void run(double seconds) {
        const Nanoseconds end = s.now() + base::from_seconds(seconds);
        while (s.now() < end) s.step();
    }
    void start() {
        control("start", "press");
        run(0.05);
        control("start", "release");
        run(0.05);
    }
};

}  // namespace

TEST_CASE("power-up: sensors look and the first scan sees them") {
    Machine m;
    CHECK(m.get("stop_pb") == 1);
    CHECK(m.get("inner") == 1);
    CHECK(m.get("level_raw") == 12000);
    CHECK(m.get("knob") == 250);
}

TEST_CASE("a press reaches the plant within a step and two scans") {
    Machine m;
    m.control("start", "press");
    m.run(0.010);
    CHECK(m.get("start_pb") == 1);
    CHECK(m.get("a.run") == 1);
    CHECK(m.get("a.speed") == 0);  // the belt gets it in the next step
    m.run(0.005);
    CHECK(m.get("a.speed") == 0.5);
}

TEST_CASE("scans come at their interval, the plant at its step") {
    Machine m;
    m.run(1.0);
    CHECK(m.s.controller(0).scans == 101);
    CHECK(m.s.now() == Nanoseconds(1'000'000'000));
}

TEST_CASE("analog scaling: both directions, clamped, whole numbers rounded") {
    Machine m;
    m.control("pot", "set", 33.33);
    m.run(0.02);
    CHECK(m.get("knob") == 333);
    CHECK(m.get("v.opening") == doctest::Approx(33.3));
    test::force(m.s, "opening", "32000");
    m.run(0.02);
    const auto point = plant::find_reading(*m.s.model().plant, "v.opening");
    CHECK(plant::read(*m.s.model().plant, m.s.plant(), *point) == 100);
}

TEST_CASE("a level above the scaled range goes over it, as an analog input does") {
    PlantText p = plant_text();
    for (auto& key : p.definition.devices[4].keys) {
        if (key.name == "level") key.value.text = "1.7 m";
    }
    const auto high = test::make_model(kLogic, p, {{"level_raw", "lt.level", "0 m..1 m -> 4000..20000"}});
    session::Session s(high);
    CHECK(session::read(s, *session::find_signal(*high, "level_raw")) == 24000);
}

TEST_CASE("a colour number joins a USINT as it is; an inverted lamp lights when the tag is FALSE") {
    Machine m;
    m.s.place_item(0, m.s.model().plant->find_device("a"), 3.0, std::nullopt);
    m.run(0.02);
    CHECK(m.get("colour") == 1);
    CHECK(m.get("lamp") == 0);
    CHECK(m.get("l.lit") == 1);
}

TEST_CASE("forcing an input replaces what was sampled, only while forces are on") {
    Machine m;
    m.start();
    CHECK(m.get("run") == 1);
    m.s.switch_forces(false);
    test::force(m.s, "stop_pb", "FALSE");  // it waits
    m.run(0.02);
    CHECK(m.get("run") == 1);
    m.s.switch_forces(true);
    CHECK(m.get("stop_pb") == 0);  // at once
    m.run(0.02);
    CHECK(m.get("stop_pb") == 0);
    CHECK(m.get("run") == 0);
    CHECK(m.get("stop.contact") == 1);  // the wire says otherwise
    CHECK(session::forces_text(m.s) == std::vector<std::string>{"stop_pb forced to FALSE"});
    m.s.switch_forces(false);
    m.start();
    CHECK(m.get("run") == 1);
    CHECK(session::forces_text(m.s) == std::vector<std::string>{"stop_pb forced to FALSE (forces are off)"});
    CHECK(m.s.remove_force(0, m.spot("stop_pb")));
    CHECK_FALSE(m.s.remove_force(0, m.spot("stop_pb")));
}

TEST_CASE("forcing an output reaches the plant; the logic's own value stays visible") {
    Machine m;
    test::force(m.s, "run", "TRUE");
    CHECK(m.get("run") == 1);  // a tag of an output is what leaves, at once
    m.run(0.05);
    CHECK(m.get("run") == 1);
    CHECK(m.get("logic.run") == 0);
    CHECK(m.get("a.run") == 1);
    CHECK(m.get("a.speed") == 0.5);
    CHECK(session::explained_text(m.s, *session::find_signal(m.s.model(), "run")) == "TRUE (forced; logic: FALSE)");
    m.s.remove_all_forces();
    m.run(0.05);
    CHECK(m.get("a.speed") == 0);
}

TEST_CASE("forcing another variable writes it before and after each scan") {
    Machine m;
    test::force(m.s, "inner", "100");
    m.run(0.05);
    CHECK(m.get("inner") == 100);
    test::force(m.s, "inner", "200");  // a second entry replaces the first
    m.run(0.02);
    CHECK(m.get("inner") == 200);
    CHECK(m.s.controller(0).forces.size() == 1);
}

TEST_CASE("a fault of an output point holds against the controller, and is healed") {
    Machine m;
    m.start();
    CHECK(m.get("a.speed") == 0.5);
    m.s.set_point_fault(m.s.model().plant->find_point("a.run"), plant::Defect::Stuck, 0);
    m.run(0.05);
    CHECK(m.get("run") == 1);
    CHECK(m.get("a.run") == 0);
    CHECK(m.get("a.speed") == 0);
    m.s.heal_all();
    m.run(0.05);
    CHECK(m.get("a.speed") == 0.5);
}

TEST_CASE("stopped: outputs safe, the plant lives on, a cold start begins anew") {
    Machine m;
    m.start();
    m.s.place_item(0, m.s.model().plant->find_device("a"), 0.5, std::nullopt);
    m.run(1);
    m.s.stop(0);
    m.run(0.05);
    CHECK(m.get("a.run") == 0);
    CHECK(m.get("l.on") == 0);  // safe is FALSE at the point, inverted or not
    const double scans = static_cast<double>(m.s.controller(0).scans);
    m.run(1);
    CHECK(static_cast<double>(m.s.controller(0).scans) == scans);
    CHECK(m.s.now() > Nanoseconds(2'000'000'000));
    m.s.start(0);
    m.run(0.02);
    CHECK(m.get("inner") == 2);
    CHECK(m.get("run") == 0);
    // Also of one that runs: nothing leaves before the next scan, which is the end of the step at the latest.
    test::force(m.s, "run", "TRUE");
    CHECK(m.get("a.run") == 1);
    m.s.start(0);
    CHECK(m.get("a.run") == 0);
    CHECK(m.get("run") == 0);
    m.run(0.02);
    CHECK(m.get("a.run") == 1);
    m.s.start_warm(0);
    CHECK(m.get("a.run") == 0);
}

TEST_CASE("stopped: an output with a reversed scaling goes to 0 at the terminal, or to its safe value") {
    PlantText p = plant_text();
    const char* logic = "VAR_GLOBAL opening AT %QW4 : INT := 8000; END_VAR PROGRAM m opening := 8000; END_PROGRAM";
    const auto reversed = test::make_model(logic, p, {{"opening", "v.opening", "0 %..100 % -> 20000..4000"}});
    session::Session s(reversed);
    const auto point = *plant::find_reading(*reversed->plant, "v.opening");
    CHECK(plant::read(*reversed->plant, s.plant(), point) == 75);
    s.stop(0);
    for (int i = 0; i < 4; ++i) s.step();
    CHECK(plant::read(*reversed->plant, s.plant(), point) == 0);

    session::Definition with_safe =
        test::make_definition(logic, p, {{"opening", "v.opening", "0 %..100 % -> 20000..4000"}});
    with_safe.controllers[0].safe = {test::safe("opening", "#16000")};
    session::Session t(test::build(with_safe));
    t.stop(0);
    for (int i = 0; i < 4; ++i) t.step();
    CHECK(plant::read(*reversed->plant, t.plant(), point) == 25);
}

TEST_CASE("stopped: of a number that leaves in part the other bits stay, those beyond the last joined one too") {
    const char* logic = "VAR_GLOBAL status : LWORD; END_VAR PROGRAM m status := 16#7766_5544_3322_11FF; END_PROGRAM";
    for (const bool stopped : {false, true}) {
        const auto model = test::make_model(logic, plant_text(), {{"status.%X3", "a.run", ""}});
        session::Session s(model);
        for (int i = 0; i < 4; ++i) s.step();
        if (stopped) s.stop(0);
        const auto status = session::find_signal(*model, "status");
        REQUIRE((status && status->leaves));
        CHECK(session::value(s, *status).bits == (stopped ? 0x7766'5544'3322'11F7U : 0x7766'5544'3322'11FFU));
    }
}

TEST_CASE("a run-time fault stops the controller with its place, outputs safe, the plant goes on") {
    const auto faulty = test::make_model(
        "VAR_GLOBAL run AT %QX0.0 : BOOL; n : INT; q : INT; END_VAR\nPROGRAM p\nrun := TRUE;\nn := n + 1;\nq := 5 / (3 "
        "- n);\nEND_PROGRAM",
        plant_text(), {{"run", "a.run", ""}});
    session::Session s(faulty);
    s.place_item(0, faulty->plant->find_device("a"), 0.5, std::nullopt);
    for (int i = 0; i < 3; ++i) s.step();
    CHECK(s.plant().surfaces[0].speed_m_s == 0.5);
    for (int i = 0; i < 20; ++i) s.step();
    CHECK_FALSE(s.controller(0).running);
    CHECK(controller::fault_text(faulty->controllers[0], s.controller(0)) == "test.st:5:8: division by zero");
    CHECK(s.plant().surfaces[0].speed_m_s == 0);
    CHECK(s.now() == Nanoseconds(115'000'000));
}

TEST_CASE("a pressed button lets go by itself after its time") {
    Machine m;
    const auto& plant = *m.s.model().plant;
    const int d = plant.find_device("start");
    const auto& kind = *base::at(plant.devices, d).kind;
    m.s.hold_control(d, *kind.find_control("press"), *kind.find_control("release"), Nanoseconds(200'000'000));
    m.run(0.19);
    CHECK(m.get("start.pressed") == 1);
    m.run(0.03);
    CHECK(m.get("start.pressed") == 0);
    m.s.hold_control(d, *kind.find_control("press"), *kind.find_control("release"), Nanoseconds(200'000'000));
    m.run(0.1);
    m.control("start", "press");  // pressed again meanwhile: the earlier release no longer counts
    m.run(1);
    CHECK(m.get("start.pressed") == 1);
}

TEST_CASE("a session is a value: copies that get the same orders stay equal to the byte") {
    Machine m;
    m.start();
    m.s.place_item(0, m.s.model().plant->find_device("a"), 0.5, std::nullopt);
    m.run(1.5);
    Machine copy = m;
    const auto go_on = [](Machine& x) {
        trace::Trace trace;
        trace::Recorder recorder(x.s, trace::usual_channels(x.s.model()), {&trace});
        for (int i = 0; i < 2000; ++i) {
            if (i == 500) x.control("stop", "press");
            if (i == 700) x.control("stop", "release");
            if (i == 800) x.control("start", "press");
            x.s.step();
            recorder.observe(x.s);
        }
        recorder.finish(x.s);
        return trace;
    };
    const trace::Trace a = go_on(m), b = go_on(copy);
    CHECK(a.change_count() > 100);
    CHECK(a == b);
    CHECK(m.s.controller(0).memory == copy.s.controller(0).memory);
    CHECK(m.s.plant().wires == copy.s.plant().wires);
}

TEST_CASE("two controllers at different intervals share the clock and the plant") {
    session::Definition definition;
    definition.plant = plant_text().definition;
    definition.map.emplace();
    for (const int ms : {10, 25}) {
        session::ControllerDefinition c;
        c.name = fmt::format("c{}", ms);
        c.scan = Nanoseconds(ms * 1'000'000);
        c.logic = {base::make_source("t", "PROGRAM p VAR n : DINT; END_VAR n := n + 1; END_PROGRAM")};
        definition.controllers.push_back(c);
    }
    const auto both = test::build(definition);
    session::Session s(both);
    for (int i = 0; i < 200; ++i) s.step();
    CHECK(s.controller(0).scans == 101);
    CHECK(s.controller(1).scans == 41);
    CHECK(session::find_signal(*both, "c25.p.n")->controller == 1);
    CHECK(session::read(s, *session::find_signal(*both, "c25.p.n")) == 41);
}

TEST_CASE("a trace holds every change and nothing else") {
    Machine m;
    trace::Trace trace;
    trace::Recorder recorder(m.s, trace::usual_channels(m.s.model()), {&trace});
    const auto run = [&](double seconds) {
        const Nanoseconds end = m.s.now() + base::from_seconds(seconds);
        while (m.s.now() < end) {
            m.s.step();
            recorder.observe(m.s);
        }
    };
    run(0.1);
    m.control("start", "press");
    run(0.1);
    m.control("start", "release");
    run(0.1);
    recorder.finish(m.s);
    const auto start = trace.find("START_PB");
    REQUIRE(start.has_value());
    const auto changes = trace.of(*start);
    REQUIRE(changes.size() == 3);
    CHECK(changes[0].time == Nanoseconds(0));
    CHECK(changes[1].time == Nanoseconds(110'000'000));
    CHECK(changes[2].time == Nanoseconds(210'000'000));
    CHECK(trace.value_at(*start, Nanoseconds(150'000'000)).bits == 1);
    CHECK(trace.value_at(*start, Nanoseconds(250'000'000)).bits == 0);
    const auto run_channel = trace.find("run");
    CHECK(trace.edge({*run_channel, true}, Nanoseconds(0)) == Nanoseconds(110'000'000));
    CHECK_FALSE(trace.edge({*run_channel, false}, Nanoseconds(0)).has_value());
    CHECK(trace.of(*trace.find("on")).size() == 2);
    CHECK(trace.of(*trace.find("inner")).size() == 31);
    CHECK_FALSE(trace.find("nothing").has_value());
}

// --- the map ---

namespace {

std::string map_errors(const std::vector<std::array<std::string, 3>>& joins, bool warnings = false) {
    base::Diagnostics diagnostics;
    std::vector<wiring::MapRow> rows;
    const auto source = base::make_source("map.csv", "");
    int line = 1;
    for (const auto& [tag, point, scaling] : joins) {
        ++line;
        rows.push_back({tag, {source, line, 1, 1}, point, {source, line, 2, 1}, scaling, {source, line, 3, 1}, ""});
    }
    wiring::build_wiring(rows, model()->controllers, *model()->plant, {}, diagnostics);
    return test::joined(test::lines_of(diagnostics, warnings));
}

}  // namespace

TEST_CASE("mistakes of the map, each with both sides named") {
    struct Row {
        std::array<std::string, 3> join;
        const char* message;
    };
    const Row rows[] = {
        {{"startpb", "start", ""}, "2:1 no tag is named 'startpb' [did you mean 'start_pb'?]\n"},
        {{"start_pb", "starts.contact", ""},
         "2:2 no point is named 'starts.contact' [did you mean 'start.contact'?]\n"},
        {{"run", "start", ""}, "2:2 'start.contact' is an input of the controller, but 'run' lies at %QX0.0\n"},
        {{"start_pb", "a.run", ""}, "2:2 'a.run' is an output of the controller, but 'start_pb' lies at %IX0.0\n"},
        {{"knob", "start", ""}, "2:1 tag 'knob' is INT, point 'start.contact' is BOOL\n"},
        {{"start_pb", "pot.value", ""}, "2:1 tag 'start_pb' is BOOL, point 'pot.value' is analog\n"},
        {{"knob", "pot.value", ""},
         "2:1 tag 'knob' is INT, point 'pot.value' is analog [give a scaling, such as 0 %..100 % -> 4000..20000]\n"},
        {{"start_pb", "start", "0..1 -> 0..1"},
         "2:3 a scaling '0..1 -> 0..1' does not suit point 'start.contact', which is BOOL [BOOL points take 'invert' "
         "or nothing]\n"},
        {{"knob", "pot.value", "invert"},
         "2:3 a scaling 'invert' does not suit point 'pot.value', which is analog [a scaling has the form 0 m..1 m -> "
         "4000..20000]\n"},
        {{"knob", "pot.value", "0 %..100 %"},
         "2:3 '0 %..100 %' is not a valid scaling [a scaling has the form 0 m..1 m -> 4000..20000]\n"},
        {{"knob", "pot.value", "0..100 -> 0..1000"}, "2:3 a percentage needs a unit; accepted: %\n"},
        {{"knob", "pot.value", "0 m..1 m -> 0..1000"}, "2:3 'm' is not a unit of percentage; accepted: %\n"},
        {{"knob", "pot.value", "0 %..100 % -> 0..100000"}, "2:3 100000 does not fit INT, the type of 'knob'\n"},
        {{"knob", "pot.value", "0 %..100 % -> 5..5"}, "2:3 a scaling needs two different ends on both sides\n"},
        {{"knob", "pot.value", "0 % -> 5..6"},
         "2:3 '0 %' is not a valid range [a scaling has the form 0 m..1 m -> 4000..20000]\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.message);
        CHECK(map_errors({row.join}) == row.message);
    }
}

TEST_CASE("a tag or a point joined twice names the first place") {
    CHECK(map_errors({{"start_pb", "start", ""}, {"eye", "start.contact", ""}}) ==
          "3:2 point 'start.contact' is joined twice; first at map.csv:2:2\n");
    CHECK(map_errors({{"start_pb", "start", ""}, {"start_pb", "stop", ""}}) ==
          "3:1 tag 'start_pb' is joined twice; first at map.csv:2:1\n");
}

TEST_CASE("what is left unjoined is warned of") {
    const std::string all = map_errors({}, true);
    CHECK(all.find("point 'see.signal' is joined to no tag") != std::string::npos);
    CHECK(all.find("'eye' at %IX0.2 is joined to no point") != std::string::npos);
}

TEST_CASE("a build may have other values than the files: keys of devices, initial values of tags; mistakes are told") {
    const auto build = [](const std::vector<std::pair<std::string, std::string>>& values, std::string& problems) {
        session::Definition definition = test::make_definition(kLogic, plant_text(), {{"run", "a.run", ""}});
        for (const auto& [name, value] : values) definition.overrides.push_back({name, value, {}});
        base::Diagnostics diagnostics;
        const session::Built built = session::build(definition, diagnostics);
        problems = test::joined(test::lines_of(diagnostics));
        return built.model;
    };
    std::string problems;
    const auto changed =
        build({{"a.speed", "0.2 m/s"}, {"t.level", "1.5 m"}, {"inner", "40"}, {"line.on", "TRUE"}}, problems);
    REQUIRE_MESSAGE(changed != nullptr, problems);
    session::Session s(changed);
    CHECK(session::read(s, *session::find_signal(*changed, "inner")) == 41);
    CHECK(session::read(s, *session::find_signal(*changed, "t.level")) == 1.5);
    s.drive(changed->plant->find_point("a.run"), 1);
    s.step();
    build({{"a.sped", "1 m/s"}}, problems);
    CHECK(problems.find("belt has no parameter 'sped'") + problems.find("'sped'") != 2 * std::string::npos);
    build({{"b.speed", "1 m/s"}, {"a.speed", "1 bar"}, {"inner", "lots"}}, problems);
    CHECK(problems.find("neither a device's key, nor an end of a scaling, nor a tag is named 'b.speed'") !=
          std::string::npos);
    CHECK(problems.find("'bar' is not a unit of speed") != std::string::npos);
    CHECK(problems.find("'lots' is not a valid value for inner, which is INT") != std::string::npos);
}
