// Power that goes and comes back, retained values, a yard read anew while it runs, and the ring of a trace.
#include <algorithm>
#include <random>

#include "core/support.hpp"

using namespace vyard;
using base::Nanoseconds;

namespace {

constexpr const char* kLogic =
    "VAR_GLOBAL RETAIN total : DINT := 5; name : STRING[10] := 'a'; level : LREAL := 0.5; t : TIME := T#1s;\n"
    "  kind : Colour := red; list : ARRAY[1..2] OF INT; END_VAR\n"
    "VAR_GLOBAL plain : DINT := 3; run AT %QX0.0 : BOOL; END_VAR\n"
    "TYPE Colour : (red, green, blue); END_TYPE\n"
    "PROGRAM main total := total + 1; plain := plain + 1; run := TRUE; list[2] := 9; END_PROGRAM\n";

session::SessionModelPtr model_of(const std::string& logic, const test::PlantText& plant = {},
                                  const std::vector<std::array<std::string, 3>>& joins = {}) {
    return test::build(test::make_definition(logic, plant, joins));
}

std::string text(const session::Session& s, const std::string& name) {
    const auto signal = session::find_signal(s.model(), name);
    REQUIRE_MESSAGE(signal.has_value(), name);
    return session::explained_text(s, *signal);
}

void order(session::Session& s, const std::string& line) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_order(s.model(), base::make_source("test", line), diagnostics);
    REQUIRE_MESSAGE(book != nullptr, diagnostics.render());
    procedure::Run run(book, 0, s);
    run.advance(s);
}

std::string refused(session::Session& s, const std::string& line) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_order(s.model(), base::make_source("test", line), diagnostics);
    REQUIRE_MESSAGE(book != nullptr, diagnostics.render());
    procedure::Run run(book, 0, s);
    run.advance(s);
    const auto failure = run.verdict(s).steps[0].failure;
    return failure ? failure->found : std::string();
}

void steps(session::Session& s, int count) {
    for (int i = 0; i < count; ++i) s.step();
}

}  // namespace

TEST_CASE("power: retained variables alone are kept, and the controller scans again once it is back") {
    session::Session s(model_of(kLogic));
    steps(s, 20);  // 11 scans
    CHECK(text(s, "total") == "16");
    CHECK(text(s, "plain") == "14");
    CHECK(text(s, "run") == "TRUE");
    order(s, "power off line");
    CHECK(text(s, "run") == "FALSE (the controller has no power)");
    CHECK(text(s, "total") == "16");
    CHECK(text(s, "plain") == "3");
    CHECK(text(s, "list[2]") == "9");
    steps(s, 20);
    CHECK(text(s, "total") == "16");
    for (const char* line : {"start line", "start line warm"}) CHECK(refused(s, line) == "the controller has no power");
    CHECK(refused(s, "write plain = 4") == "the controller is stopped; nothing is written");
    order(s, "power on line");
    CHECK(refused(s, "power on line") == "the controller has power");
    CHECK(text(s, "run") == "FALSE (the controller has not scanned yet)");
    steps(s, 2);
    CHECK(text(s, "run") == "TRUE");
    CHECK(text(s, "total") == "17");
    CHECK(text(s, "plain") == "4");
}

TEST_CASE("power: a force waits while there is none, and acts again afterwards") {
    session::Session s(model_of(kLogic));
    test::force(s, "plain", "100");
    test::force(s, "run", "FALSE");
    steps(s, 2);
    CHECK(text(s, "plain") == "100 (forced)");
    order(s, "power off line");
    CHECK(text(s, "plain") == "3");
    order(s, "force total = 70");  // entered, not written
    steps(s, 4);
    CHECK(text(s, "total") != "70");
    order(s, "power on line");
    steps(s, 2);
    CHECK(text(s, "total") == "70 (forced)");
    CHECK(text(s, "plain") == "100 (forced)");
    CHECK(text(s, "run") == "FALSE (forced; logic: TRUE)");
}

TEST_CASE("retained values go out as the language writes them and come back exactly, or not at all") {
    session::Session s(model_of(kLogic));
    steps(s, 10);
    order(s, "write name = 'x,\"y\"'");
    order(s, "write level = 0.1");
    order(s, "write kind = blue");
    steps(s, 2);
    const auto rows = controller::retained_values(s.model().controllers[0], s.controller(0));
    REQUIRE(rows.size() == 7);
    session::Session other(s.model_ptr());
    for (const auto& row : rows) CHECK(other.put_retained(0, row) == "");
    other.start_warm(0);
    CHECK(controller::retained_values(other.model().controllers[0], other.controller(0)) == rows);
    CHECK(text(other, "kind") == "blue");
    CHECK(text(other, "plain") == "3");
    CHECK(other.put_retained(0, {"plain", "DINT", "1"}) == "there is no RETAIN variable 'plain'");
    CHECK(other.put_retained(0, {"gone", "DINT", "1"}) == "there is no RETAIN variable 'gone'");
    CHECK(other.put_retained(0, {"total", "INT", "1"}) == "'total' is DINT now, and was INT");
    CHECK(other.put_retained(0, {"total", "DINT", "1.5"}) == "'1.5' is not a valid value of 'total', which is DINT");
}

TEST_CASE("power off and on for whole runs: as a warm start, whatever is forced or stopped before it") {
    // A plain count of scans says what total and plain are.
    std::mt19937 random(11);
    const auto model = model_of(kLogic);
    for (int round = 0; round < 200; ++round) {
        session::Session s(model);
        int total = 6, plain = 4;  // the scan at power-up is done
        bool powered = true, running = true;
        for (int k = 0; k < 30; ++k) {
            switch (random() % 6) {
                case 0:
                    order(s, "power off line");
                    powered = running = false;
                    plain = 3;
                    break;
                case 1:
                    if (!powered) {
                        order(s, "power on line");
                        powered = running = true;
                    }
                    break;
                case 2:
                    order(s, "stop line");
                    running = false;
                    break;
                case 3:
                    if (powered) {
                        order(s, "start line warm");
                        running = true;
                        plain = 3;
                    }
                    break;
                default: break;
            }
            steps(s, 2);
            if (running) {
                ++total;
                ++plain;
            }
            CAPTURE(round);
            CAPTURE(k);
            REQUIRE(text(s, "total") == std::to_string(total));
            REQUIRE(text(s, "plain") == std::to_string(plain));
            REQUIRE((text(s, "run").starts_with("TRUE")) == running);
        }
    }
}

TEST_CASE("PERSISTENT: kept through a cold start as well, whole blocks of it too; a variable may still be named so") {
    session::Session s(model_of(
        "VAR_GLOBAL PERSISTENT hours : DINT; END_VAR VAR_GLOBAL RETAIN parts : DINT; END_VAR VAR_GLOBAL loose : DINT; "
        "persistent : DINT; END_VAR\n"
        "FUNCTION_BLOCK counter VAR n : INT; t : TON; END_VAR n := n + 1; t(IN := TRUE, PT := T#1h); "
        "END_FUNCTION_BLOCK\n"
        "PROGRAM main VAR PERSISTENT mine : counter; list : ARRAY[1..3] OF INT; END_VAR\n"
        "hours := hours + 1; parts := parts + 1; loose := loose + 1; persistent := 7; mine(); list[2] := list[2] + 1; "
        "END_PROGRAM\n"));
    steps(s, 18);
    for (const char* name : {"hours", "parts", "loose", "main.mine.n", "main.list[2]"}) CHECK(text(s, name) == "10");
    order(s, "start line");
    for (const auto& [name, value] : std::vector<std::pair<std::string, std::string>>{
             {"hours", "10"}, {"parts", "0"}, {"loose", "0"}, {"main.mine.n", "10"}, {"main.list[2]", "10"}})
        CHECK(text(s, name) == value);
    CHECK(text(s, "main.mine.t.ET") != "T#0s");
    order(s, "write parts = 4");
    steps(s, 2);
    order(s, "start line warm");
    CHECK(text(s, "parts") == "5");
    CHECK(text(s, "loose") == "0");
    order(s, "power off line");
    order(s, "power on line");
    CHECK(text(s, "hours") == "11");
    CHECK(controller::retained_values(s.model().controllers[0], s.controller(0)).size() > 6);
}

// --- the yard read anew ---

namespace {

test::PlantText belts(const std::string& speed, bool second = true) {
    test::PlantText p;
    p.brick();
    p.add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "4 m"}, {"speed", speed}});
    if (second) p.add("belt.b", {{"at", "[0 m, 2 m]"}, {"length", "4 m"}, {"speed", "0.2 m/s"}});
    p.add("photoeye.see", {{"on", "a"}, {"at", "3 m"}, {"height", "20 mm"}});
    p.add("selector.mode", {{"positions", "[hand, auto]"}});
    p.add("tank.glaze",
          {{"at", "[8 m, 0 m]"}, {"level", "0.4 m"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}});
    return p;
}

constexpr const char* kBeltLogic =
    "VAR_GLOBAL run AT %QX0.0 : BOOL; seen AT %IX0.0 : BOOL; n : DINT; END_VAR\n"
    "PROGRAM main run := TRUE; n := n + 1; END_PROGRAM\n";
const std::vector<std::array<std::string, 3>> kBeltJoins = {{"run", "a.run", ""}, {"seen", "see.signal", ""}};

}  // namespace

TEST_CASE("a plant read anew goes on: items where they are, hands, liquids and faults, at the new speed") {
    session::Session s(model_of(kBeltLogic, belts("0.5 m/s"), kBeltJoins));
    order(s, "place brick on a at 0.5 m");
    order(s, "turn mode to auto");
    order(s, "fault see stuck on");
    order(s, "force n = 7");
    steps(s, 200);
    const double before = s.plant().items[0].x_m;
    const auto slow = model_of(kBeltLogic, belts("0.25 m/s"), kBeltJoins);
    const session::Session::Moved moved = s.move_to(slow);
    CHECK(moved.plant_kept);
    CHECK(moved.lost.empty());
    CHECK(s.model_ptr() == slow);
    CHECK(s.plant().items[0].x_m == before);
    CHECK(text(s, "mode.position") == "1");
    CHECK(text(s, "see.signal") == "TRUE");
    CHECK(text(s, "n") == "7 (forced)");
    CHECK(text(s, "glaze.level") == "0.4 m");
    steps(s, 200);
    CHECK(s.plant().items[0].x_m - before == doctest::Approx(0.25).epsilon(0.02));
    order(s, "heal all");
    steps(s, 2);
    CHECK(text(s, "see.signal") == "FALSE");
    CHECK(test::joined(session::faults_text(s)) == "");
}

TEST_CASE("a plant read anew without a belt that carries something: its items are lost, and said to be") {
    session::Session s(model_of(kBeltLogic, belts("0.5 m/s"), kBeltJoins));
    order(s, "place brick on b at 0.5 m");
    order(s, "turn mode to auto");
    steps(s, 20);
    const session::Session::Moved moved = s.move_to(model_of(kBeltLogic, belts("0.5 m/s", false), kBeltJoins));
    CHECK_FALSE(moved.plant_kept);
    CHECK(test::joined(moved.lost) ==
          "device 'b' is gone\n1 item: what they lie on, or what they are, is not there any more\n");
    CHECK(s.plant().items.empty());
    CHECK(text(s, "mode.position") == "1");  // a hand is where it was
    steps(s, 20);
    CHECK(text(s, "a.speed") == "0.5 m/s");
}

TEST_CASE("an empty belt may go, and a device come, without touching what lies elsewhere") {
    session::Session s(model_of(kBeltLogic, belts("0.5 m/s", false), kBeltJoins));
    order(s, "place brick on a at 0.5 m");
    steps(s, 100);
    session::Session uninterrupted = s;
    const session::Session::Moved there = s.move_to(model_of(kBeltLogic, belts("0.5 m/s"), kBeltJoins));
    CHECK(there.plant_kept);
    const session::Session::Moved back = s.move_to(model_of(kBeltLogic, belts("0.5 m/s", false), kBeltJoins));
    CHECK(back.plant_kept);
    CHECK(test::joined(back.lost) == "device 'b' is gone\n");
    for (int k = 0; k < 400; ++k) {
        s.step();
        uninterrupted.step();
        REQUIRE(s.plant().items[0].x_m == uninterrupted.plant().items[0].x_m);
        REQUIRE(text(s, "n") == text(uninterrupted, "n"));
        REQUIRE(text(s, "seen") == text(uninterrupted, "seen"));
    }
}

TEST_CASE("a yard read anew that says the same changes nothing, at any moment of any example of faults and forces") {
    // The product: what is going on when it is read anew x when.
    const auto model = model_of(kBeltLogic, belts("0.5 m/s"), kBeltJoins);
    for (const char* going_on : {"wait 1 s", "force seen = TRUE", "force run = FALSE", "fault see stuck on",
                                 "fault a.run delay 40 ms", "power off line", "stop line", "turn mode to auto"}) {
        for (const int when : {1, 2, 37, 150}) {
            CAPTURE(going_on);
            CAPTURE(when);
            session::Session s(model);
            order(s, "place brick on a at 2.2 m");
            order(s, going_on);
            session::Session uninterrupted = s;
            steps(s, when);
            s.move_to(model_of(kBeltLogic, belts("0.5 m/s"), kBeltJoins));
            steps(uninterrupted, when);
            for (int k = 0; k < 300; ++k) {
                s.step();
                uninterrupted.step();
                for (const char* name : {"run", "seen", "n", "see.signal", "a.speed", "mode.position"})
                    REQUIRE(text(s, name) == text(uninterrupted, name));
                REQUIRE(s.plant().items[0].x_m == uninterrupted.plant().items[0].x_m);
            }
        }
    }
}

// --- the ring ---

TEST_CASE("a ring gives the last stretch of a trace as the whole trace has it") {
    std::mt19937 random(3);
    const auto model = model_of(
        "VAR_GLOBAL a : BOOL; b : INT; END_VAR PROGRAM main VAR n : UDINT; END_VAR\n"
        "n := n * 1664525 + 1013904223; a := n > 16#8000_0000;\n"
        "IF n > 16#C000_0000 THEN b := b + 1; END_IF; END_PROGRAM");
    for (const int reach_ms : {50, 200, 1000}) {
        session::Session s(model);
        trace::Trace whole;
        trace::Ring ring(Nanoseconds(reach_ms * 1'000'000LL), 1000);
        const auto channels = trace::usual_channels(*model);
        trace::Recorder recorder(s, channels, {&whole, &ring});
        for (int k = 0; k < 400; ++k) {
            s.step();
            recorder.observe(s);
            if (k % 37 != 0) continue;
            const Nanoseconds from = std::max(s.now() - Nanoseconds(reach_ms * 1'000'000LL), Nanoseconds(0));
            trace::Trace part;
            const Nanoseconds begin = ring.write(from, s.now(), part);
            CHECK(begin == from);
            for (Nanoseconds t = from; t <= s.now(); t += Nanoseconds(5'000'000)) {
                for (std::uint32_t c = 0; c < channels.size(); ++c)
                    REQUIRE(part.value_at(c, t) == whole.value_at(c, t));
            }
        }
    }
}

TEST_CASE("a ring that may not hold so much begins later, and says when") {
    session::Session s(model_of("VAR_GLOBAL a : BOOL; END_VAR PROGRAM main a := NOT a; END_PROGRAM"));
    trace::Ring ring(Nanoseconds(10'000'000'000), 20);
    trace::Recorder recorder(s, trace::usual_channels(s.model()), {&ring});
    for (int k = 0; k < 200; ++k) {
        s.step();
        recorder.observe(s);
    }
    CHECK(ring.size() <= 20);
    trace::Trace part;
    const Nanoseconds begin = ring.write(Nanoseconds(0), s.now(), part);
    CHECK(begin == Nanoseconds(800'000'000));
    CHECK(part.value_at(0, begin).bits == 1);
    CHECK(part.value_at(0, s.now()).bits == 1);
}

TEST_CASE("timers stand still while their controller does, whichever way it is off") {
    // A retained TON is let run for about a second, its controller is off for one, and goes on where it was.
    const char* logic =
        "VAR_GLOBAL RETAIN on_delay : TON; off_delay : TOF; pulse : TP; END_VAR\n"
        "VAR_GLOBAL go AT %IX0.0 : BOOL; END_VAR\n"
        "PROGRAM main on_delay(IN := TRUE, PT := T#5s); off_delay(IN := on_delay.ET < T#100ms, PT := T#5s);\n"
        "pulse(IN := on_delay.ET > T#200ms, PT := T#5s); END_PROGRAM\n";
    const auto seconds = [](const session::Session& s, const std::string& name) {
        return std::stod(text(s, name).substr(2)) / (text(s, name).ends_with("ms") ? 1000.0 : 1.0);
    };
    struct Way {
        const char* off;
        const char* on;
    };
    for (const Way& way : {Way{"stop line", "start line warm"}, {"power off line", "power on line"}}) {
        CAPTURE(way.off);
        session::Session s(model_of(logic)), always(model_of(logic));
        steps(s, 220);
        steps(always, 220);
        order(s, way.off);
        steps(s, 200);
        order(s, way.on);
        steps(s, 100);
        steps(always, 100);
        for (const char* timer : {"on_delay.ET", "off_delay.ET", "pulse.ET"}) {
            CAPTURE(timer);
            CHECK(std::abs(seconds(s, timer) - seconds(always, timer)) <= 0.0101);  // a scan
        }
    }
    // And through a process that ends: what is listed is put back, and the timers go on from there.
    session::Session before(model_of(logic)), after(model_of(logic));
    steps(before, 220);
    for (const auto& value : controller::retained_values(before.model().controllers[0], before.controller(0)))
        CHECK(after.put_retained(0, value).empty());
    steps(after, 100);
    steps(before, 100);
    for (const char* timer : {"on_delay.ET", "off_delay.ET", "pulse.ET"}) {
        CAPTURE(timer);
        CHECK(std::abs(seconds(after, timer) - seconds(before, timer)) <= 0.0101);
    }
}

TEST_CASE("a flasher changes at its times to the scan") {
    session::Session s(model_of(
        "VAR_GLOBAL lamp AT %QX0.0 : BOOL; END_VAR\n"
        "PROGRAM main VAR f : flasher; END_VAR f(run := TRUE, on_time := T#300ms, off_time := T#200ms); lamp := f.q;\n"
        "END_PROGRAM\n"));
    bool on = true;
    std::vector<std::int64_t> edges_ms;
    for (int i = 0; i < 400; ++i) {
        const bool now = text(s, "lamp") == "TRUE";
        if (now != on) edges_ms.push_back(s.now().count() / 1'000'000);
        on = now;
        s.step();
    }
    CHECK(edges_ms == std::vector<std::int64_t>{300, 500, 800, 1000, 1300, 1500, 1800});
}
