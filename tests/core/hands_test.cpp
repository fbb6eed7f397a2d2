// Hands on the plant: outputs worked by hand, items taken, faults with their amounts; what devices cut off; what a
// plant can never do.
#include <algorithm>
#include <cmath>

#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

std::string problems_of(const PlantText& text) {
    base::Diagnostics diagnostics;
    plant::build_plant(text.definition, diagnostics);
    std::string out;
    for (const base::Diagnostic& d : diagnostics.list())
        out += fmt::format("{}: {}\n", base::severity_name(d.severity), d.message);
    return out;
}

std::string order(session::Session& s, const std::string& line) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_order(s.model(), base::make_source("test", line), diagnostics);
    if (book == nullptr || diagnostics.has_errors()) return test::joined(test::lines_of(diagnostics));
    procedure::Run run(book, 0, s);
    run.advance(s);
    const auto verdict = run.verdict(s).steps[0];
    if (verdict.failure) return verdict.failure->found;
    return verdict.notes.empty() ? "" : verdict.notes[0];
}

double read(const session::Session& s, const std::string& name) {
    return session::read(s, *session::find_signal(s.model(), name));
}

}  // namespace

TEST_CASE("a row of thousands that touch goes as one, in either direction, to the byte as from its head") {
    PlantText p;
    p.add("item.can", {{"size", "[40 mm, 40 mm, 40 mm]"}})
        .add("belt.long", {{"at", "[0 m, 0 m]"}, {"length", "190 m"}, {"speed", "0.3 m/s"}, {"control", "reversible"}});
    for (const bool back : {false, true}) {
        for (const bool from_front : {false, true}) {
            CAPTURE(back);
            CAPTURE(from_front);
            Bench b(p);
            constexpr int kCount = 4000;
            for (int i = 0; i < kCount; ++i) {
                const int place = from_front ? kCount - 1 - i : i;
                REQUIRE(b.put("long", 15.0 + 0.04 * place));
            }
            b.item(0);  // as after a hand: nothing is known of who stands where
            b.drive(back ? "long.reverse" : "long.forward", 1);
            b.step();
            b.step();
            const double way = (back ? -1.0 : 1.0) * 2.0 * 0.3 * b.model->step_s;
            for (int i = 0; i < kCount; ++i) {
                const int place = from_front ? kCount - 1 - i : i;
                REQUIRE(std::abs(b.state.items[static_cast<std::size_t>(i)].x_m - (15.0 + 0.04 * place + way)) < 1e-9);
            }
        }
    }
}

TEST_CASE("a checkweigher weighs what its own surface carries") {
    PlantText p;
    p.add("item.box", {{"size", "[200 mm, 200 mm, 100 mm]"}, {"mass", "2 kg"}})
        .add("belt.low", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.1 m/s"}, {"elevation", "0.5 m"}})
        .add("belt.high", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.1 m/s"}, {"elevation", "0.9 m"}})
        .add("checkweigher.scale", {{"on", "low"}, {"at", "1 m"}, {"length", "600 mm"}});
    Bench b(p);
    REQUIRE(b.put("high", 1.0));
    b.run(1);
    CHECK(b.read("scale.load") == 0.0);
    REQUIRE(b.put("low", 1.0));
    b.run(1);
    CHECK(std::abs(b.read("scale.load") - 2.0) < 1e-9);
}

TEST_CASE("amounts of faults have their ranges, as `kinds` lists them") {
    PlantText p;
    p.add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.1 m/s"}})
        .add("tank.t",
             {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"level", "0.5 m"}});
    session::Session s(test::build(test::make_definition("PROGRAM main END_PROGRAM", p, {})));
    CHECK(order(s, "fault b slow 300 %") == "1:14 the fault slow takes 0 to 100 %\n");
    CHECK(order(s, "fault b slow -1 %") == "1:14 the fault slow takes 0 to 100 %\n");
    CHECK(order(s, "fault t leaking -50 l/s") == "1:17 the fault leaking takes 0 to 10000 l/s\n");
    CHECK(order(s, "fault b slow 100 %").empty());
    CHECK(order(s, "fault t leaking").empty());
    for (const plant::Kind& kind : plant::all_kinds()) {
        for (const plant::FaultSpec& f : kind.faults) {
            CAPTURE(kind.name);
            CAPTURE(f.name);
            if (f.takes_amount) CHECK((f.low <= f.default_amount && f.default_amount <= f.high && f.low < f.high));
        }
    }
}

TEST_CASE("hands on outputs: with and without a controller, forces, faults and stops") {
    PlantText p;
    p.add("valve.v", {{"control", "proportional"}}).add("motor.m", {});
    // The plain oracle: a hand has the last word; else a stuck wire; else what leaves the controller.
    for (const bool joined : {false, true}) {
        for (const bool running : {false, true}) {
            for (const int fault : {-1, 0, 1}) {
                for (const int hand : {-1, 0, 1}) {
                    for (const bool hand_first : {false, true}) {
                        const std::vector<std::array<std::string, 3>> joins =
                            joined ? std::vector<std::array<std::string, 3>>{{"run", "m.run", ""}}
                                   : std::vector<std::array<std::string, 3>>{};
                        session::Session s(test::build(test::make_definition(
                            "VAR_GLOBAL run AT %QX0.0 : BOOL; END_VAR PROGRAM main run := TRUE; END_PROGRAM", p,
                            joins)));
                        const auto work = [&] {
                            if (hand >= 0)
                                CHECK(order(s, hand == 1 ? "drive m.run = TRUE" : "drive m.run off").empty());
                        };
                        if (hand_first) work();
                        if (fault >= 0)
                            CHECK(order(s, fault == 1 ? "fault m.run stuck on" : "fault m.run stuck off").empty());
                        if (!running) CHECK(order(s, "stop").empty());
                        if (!hand_first) work();
                        for (int i = 0; i < 10; ++i) s.step();
                        const double wire = joined && running ? 1.0 : 0.0;
                        const double faulted = fault >= 0 ? fault : wire;
                        CAPTURE(joined);
                        CAPTURE(running);
                        CAPTURE(fault);
                        CAPTURE(hand);
                        CHECK(read(s, "m.run") == (hand >= 0 ? hand : faulted));
                        CHECK(session::hands_text(s).size() == (hand >= 0 ? 1U : 0U));
                        CHECK(session::faults_text(s).size() == (fault >= 0 ? 1U : 0U));
                        // Healing takes no hand off, and letting go heals nothing.
                        session::Session healed = s;
                        CHECK(order(healed, "heal all").empty());
                        for (int i = 0; i < 10; ++i) healed.step();
                        CHECK(read(healed, "m.run") == (hand >= 0 ? hand : wire));
                        CHECK(order(s, "undrive m.run") == (hand >= 0 ? "" : "it is not worked by hand"));
                        for (int i = 0; i < 10; ++i) s.step();
                        CHECK(read(s, "m.run") == faulted);
                    }
                }
            }
        }
    }
    session::Session s(test::build(test::make_definition("PROGRAM main END_PROGRAM", p, {})));
    CHECK(order(s, "drive v.opening = 40 %").empty());
    CHECK(order(s, "drive v.opening 140 %") == "1:17 'v.opening' takes 0 to 100 %\n");
    for (int i = 0; i < 400; ++i) s.step();
    CHECK(read(s, "v.opening") == 40.0);
    CHECK(session::hands_text(s)[0] == "v.opening driven to 40 % by hand");
    CHECK(order(s, "undrive all").empty());
    s.step();
    CHECK(read(s, "v.opening") == 0.0);
}

TEST_CASE("set values that a device cuts off are remarked, once, with what it takes") {
    PlantText p;
    p.add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.5 m/s"}, {"control", "setpoint"}})
        .add("drive.d", {});
    session::Session s(test::build(
        test::make_definition("VAR_GLOBAL v AT %QD0 : REAL; r AT %QD4 : REAL; n : INT; END_VAR\n"
                              "PROGRAM main n := n + 1; v := SEL(n > 3, REAL#0.5, REAL#10.0); r := -100.0; END_PROGRAM",
                              p, {{"v", "b.setpoint", ""}, {"r", "d.setpoint", ""}})));
    CHECK(session::odd_outputs_text(s).empty());
    for (int i = 0; i < 40; ++i) s.step();
    REQUIRE(session::odd_outputs_text(s).size() == 1);
    CHECK(session::odd_outputs_text(s)[0] ==
          "line.v asked b.setpoint for 10 m/s, first at 0.030 s; it takes -0.5 to 0.5 m/s");
}

TEST_CASE("what a scaling cuts off is remarked as what a device cuts off is, over scalings x ends") {
    // The oracle: asked is what the ends of the scaling make of the counts; it is kept within scaling and valve (0..100
    // %).
    struct Scale {
        const char* text;
        double per_count, at_nought, low, high;
    };
    for (const Scale& s : {Scale{"0 %..100 % -> 0..20000", 0.005, 0.0, 0.0, 100.0},
                           {"0 %..100 % -> 20000..0", -0.005, 100.0, 0.0, 100.0},
                           {"0 %..50 % -> 0..20000", 0.0025, 0.0, 0.0, 50.0},
                           {"0 %..100 % -> 4000..20000", 0.00625, -25.0, 0.0, 100.0},
                           {"-50 %..150 % -> 0..20000", 0.01, -50.0, 0.0, 100.0}}) {
        for (const int counts : {-1000, 0, 4000, 10000, 20000, 21000}) {
            CAPTURE(s.text);
            CAPTURE(counts);
            PlantText p;
            p.add("valve.v", {{"control", "proportional"}, {"stroke_time", "0 s"}});
            session::Session run(test::build(test::make_definition(
                fmt::format("VAR_GLOBAL o AT %QW0 : INT; END_VAR PROGRAM main o := {}; END_PROGRAM", counts), p,
                {{"o", "v.opening", s.text}})));
            for (int i = 0; i < 20; ++i) run.step();
            const double asked = s.at_nought + s.per_count * counts;
            const bool cut = asked < s.low - 1e-9 || asked > s.high + 1e-9;
            CHECK(session::odd_outputs_text(run).size() == (cut ? 1U : 0U));
            CHECK(read(run, "v.actual_opening") == doctest::Approx(std::clamp(asked, s.low, s.high)));
        }
    }
}

TEST_CASE("what can never be reached is said when the plant is read") {
    PlantText p;
    p.add("cylinder.c", {{"stroke", "100 mm"}})
        .add("endswitch.fine", {{"on", "c"}, {"at", "100 mm"}})
        .add("endswitch.beyond", {{"on", "c"}, {"at", "150 mm"}})
        .add("text_axis.x", {{"travel", "0.5 m"}})
        .add("endswitch.past", {{"on", "x"}, {"at", "0.6 m"}})
        .add("tank.t", {{"at", "[0 m, 3 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}})
        .add("level_switch.low", {{"tank", "t"}, {"at", "0.1 m"}})
        .add("level_switch.over", {{"tank", "t"}, {"at", "1.2 m"}})
        .add("hopper.h", {{"at", "[0 m, 6 m]"}, {"volume", "100 l"}, {"length", "0.5 m"}, {"width", "0.5 m"}})
        .add("level_switch.bulk", {{"tank", "h"}, {"at", "0.5 m"}})
        .add("chute.flat", {{"at", "[5 m, 0 m]"}, {"length", "1 m"}, {"drop", "200 mm"}, {"friction", "0.2"}})
        .add("chute.steep", {{"at", "[5 m, 3 m]"}, {"length", "1 m"}, {"drop", "300 mm"}, {"friction", "0.2"}});
    CHECK(problems_of(p) ==
          "warning: 'beyond': it switches at 0.15 m, and 'c' goes no farther than 0.1 m\n"
          "warning: 'past': it switches at 0.6 m, and 'x' goes no farther than 0.5 m\n"
          "warning: 'over': it switches at 1.2 m, and no more than 1 m can be in 't'\n"
          "warning: 'bulk': it switches at 0.5 m, and no more than 0.4 m can be in 'h'\n"
          "warning: 'flat': it is as flat as its friction, 0.2 against 0.2: nothing starts to slide on it\n");
}

TEST_CASE("a full switch on a hopper: normally closed, with the faults of its wire") {
    PlantText p;
    p.add("hopper.h", {{"at", "[0 m, 0 m]"},
                       {"volume", "100 l"},
                       {"initial", "99 l"},
                       {"length", "0.5 m"},
                       {"width", "0.5 m"},
                       {"full_contact", "normally closed"}})
        .add("level_switch.full", {{"tank", "h"}, {"at", "0.3 m"}, {"contact", "normally closed"}});
    Bench b(p);
    CHECK(b.read("h.full_contact") == 0);  // it is full, and normally closed
    CHECK(b.read("full.signal") == 0);
    b.drive("h.open", 1);
    b.run(60);
    CHECK(b.read("h.full_contact") == 1);
    CHECK(b.read("full.signal") == 1);
    plant::set_point_fault(*b.model, b.state, b.model->find_point("full.signal"), plant::Defect::OpenWire, 0.0, {});
    b.step();
    CHECK(b.read("full.signal") == 0);  // as if it were full: that is what it is wired so for
}

TEST_CASE("open wires and shorts go out of the range, with and without a rack") {
    PlantText p;
    p.add("potentiometer.knob", {{"initial", "50 %"}})
        .add("number_setter.keys", {{"low", "0"}, {"high", "200"}, {"initial", "100"}})
        .add("number_setter.count", {{"numbers", "whole"}, {"initial", "7"}});
    session::Session s(test::build(test::make_definition(
        "VAR_GLOBAL k AT %IW0 : INT; n AT %IW2 : INT; c AT %IW4 : INT; END_VAR PROGRAM main END_PROGRAM", p,
        {{"k", "knob.value", "0 to 100 % -> 4000..20000"},
         {"n", "keys.value", "0..200 -> 0..20000"},
         {"c", "count", ""}})));
    const auto after = [&](const std::string& line, const char* name) {
        session::Session tried = s;
        CHECK(order(tried, line).empty());
        for (int i = 0; i < 4; ++i) tried.step();
        return read(tried, name);
    };
    CHECK(after("wait 0 s", "k") == 12000);
    CHECK(after("fault knob.value open_wire", "k") == 0);  // 4-20 mA at 0 mA
    CHECK(after("fault knob.value short", "k") == 22400);  // at 22.4 mA
    CHECK(after("fault keys.value open_wire", "n") == -5000);
    CHECK(after("fault keys.value short", "n") == 23000);
    CHECK(after("set count to 12", "c") == 12);  // a whole number goes as it is
}
