// Each device kind against its closed form.
#include <cmath>
#include <numbers>

#include "core/plant/tuning.hpp"
#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

PlantText line() {
    PlantText p;
    p.colours({"clay", "cobalt"})
        .brick()
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "4 m"}, {"speed", "0.4 m/s"}});
    return p;
}

PlantText with_tank(const PlantText::Keys& extra = {}) {
    PlantText p;
    PlantText::Keys keys = {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "0.5 m"}, {"depth", "1 m"}};
    keys.insert(keys.end(), extra.begin(), extra.end());
    p.add("tank.t", keys);
    return p;
}

}  // namespace

TEST_CASE("button: open and closed contacts") {
    PlantText p;
    p.add("button.no", {}).add("button.nc", {{"contact", "normally closed"}});
    Bench b(p);
    CHECK(b.read("no") == 0);
    CHECK(b.read("nc") == 1);
    b.control("no", "press");
    b.control("nc", "press");
    b.step();
    CHECK(b.read("no") == 1);
    CHECK(b.read("nc") == 0);
    CHECK(b.read("nc.pressed") == 1);
    b.control("no", "release");
    b.step();
    CHECK(b.read("no.contact") == 0);
}

TEST_CASE("emergency stop latches until it is pulled out") {
    PlantText p;
    p.add("estop.e", {});
    Bench b(p);
    CHECK(b.read("e") == 1);
    b.control("e", "press");
    b.run(10);
    CHECK(b.read("e") == 0);
    b.control("e", "release");
    b.step();
    CHECK(b.read("e") == 1);
}

TEST_CASE("selector: one contact for two positions, two for three") {
    PlantText p;
    p.add("selector.two", {{"positions", "[manual, automatic]"}})
        .add("selector.three", {{"positions", "[left, off, right]"}});
    Bench b(p);
    CHECK(b.model->find_point("two.contact_2") == plant::kNone);
    CHECK(b.read("two.contact_1") == 0);
    b.control("two", "turn", 1);
    b.control("three", "turn", 2);
    b.step();
    CHECK(b.read("two.contact_1") == 1);
    CHECK(b.read("three.contact_1") == 0);
    CHECK(b.read("three.contact_2") == 1);
    CHECK(b.read("three.position") == 2);
}

TEST_CASE("potentiometer, lamp, horn, display") {
    PlantText p;
    p.add("potentiometer.knob", {{"initial", "30 %"}}).add("lamp.l", {}).add("horn.h", {}).add("display.d", {});
    Bench b(p);
    CHECK(b.read("knob") == 30);
    b.control("knob", "set", 75);
    b.drive("l.on", 1);
    b.drive("h.on", 1);
    b.drive("d.value", 42);
    b.step();
    CHECK(b.read("knob.value") == 75);
    CHECK(b.read("l.lit") == 1);
    CHECK(b.read("h.sounding") == 1);
    CHECK(b.read("d.shown") == 42);
}

TEST_CASE("motor: contactor delay, running feedback, overload that latches") {
    PlantText p;
    p.add("motor.m", {{"start_time", "0.2 s"}, {"trip_time", "1 s"}});
    Bench b(p);
    CHECK(b.read("m.overload_contact") == 1);  // normally closed
    b.drive("m.run", 1);
    CHECK(b.until("m.running", 1, 2) == doctest::Approx(0.2).epsilon(0.03));
    b.drive("m.run", 0);
    b.step();
    CHECK(b.read("m.running") == 0);
    b.drive("m.run", 1);
    b.run(0.5);
    b.fault("m", "jammed");
    CHECK(b.until("m.overload_contact", 0, 3) == doctest::Approx(1.0).epsilon(0.01));
    b.fault("m", "jammed", 0);
    b.run(1);
    CHECK(b.read("m.running") == 0);  // latched
    b.control("m", "reset");
    b.run(0.5);
    CHECK(b.read("m.running") == 1);
    b.fault("m", "trip");
    b.step();
    CHECK(b.read("m.running") == 0);
    CHECK(b.read("m.overload_contact") == 0);
    b.control("m", "reset");
    b.step();
    CHECK(b.read("m.tripped") == 1);  // not while the fault lasts
}

TEST_CASE("a belt driven by a motor turns when the motor does") {
    PlantText p;
    p.brick()
        .add("motor.m", {{"start_time", "0.5 s"}})
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "4 m"}, {"speed", "0.4 m/s"}, {"driven_by", "m"}});
    Bench b(p);
    CHECK(b.model->find_point("a.run") == plant::kNone);
    b.put("a", 1.0);
    b.drive("m.run", 1);
    b.run(1.5);
    CHECK(b.item(0).x_m - 1.0 == doctest::Approx(0.4 * 1.0).epsilon(0.015));
}

TEST_CASE("cylinder, single solenoid: stroke over time both ways, end switches, jam") {
    PlantText p;
    p.add("cylinder.c", {{"stroke", "200 mm"}, {"extend_time", "0.4 s"}, {"retract_time", "0.8 s"}});
    p.add("endswitch.in", {{"on", "c"}, {"at", "0 mm"}})
        .add("endswitch.mid", {{"on", "c"}, {"at", "100 mm"}, {"window", "5 mm"}});
    p.add("endswitch.out", {{"on", "c"}, {"at", "200 mm"}, {"contact", "normally closed"}});
    Bench b(p);
    CHECK(b.model->find_point("c.retract") == plant::kNone);
    CHECK(b.read("in") == 1);
    CHECK(b.read("out") == 1);
    b.drive("c.extend", 1);
    CHECK(b.until("mid", 1, 2) == doctest::Approx(0.2 - 0.01).epsilon(0.06));
    b.run(0.3);
    CHECK(b.read("c.position") == doctest::Approx(0.2));
    CHECK(b.read("out") == 0);
    b.drive("c.extend", 0);
    CHECK(b.until("in", 1, 2) == doctest::Approx(0.8 * (0.2 - 0.002) / 0.2).epsilon(0.01));
    b.drive("c.extend", 1);
    b.run(0.2);
    b.fault("c", "jammed");
    b.run(1);
    CHECK(b.read("c.position") == doctest::Approx(0.1).epsilon(0.03));
}

TEST_CASE("cylinder, double solenoid: stays as last sent, both on changes nothing") {
    PlantText p;
    p.add("cylinder.c", {{"stroke", "100 mm"}, {"extend_time", "0.5 s"}, {"valve", "double solenoid"}});
    Bench b(p);
    b.drive("c.extend", 1);
    b.run(0.1);
    b.drive("c.extend", 0);
    b.run(1);
    CHECK(b.read("c.position") == doctest::Approx(0.1));
    b.drive("c.extend", 1);
    b.drive("c.retract", 1);
    b.run(1);
    CHECK(b.read("c.position") == doctest::Approx(0.1));
    b.drive("c.extend", 0);
    b.run(1);
    CHECK(b.read("c.position") == 0);
}

TEST_CASE("a lift lowers its belt and what lies on it") {
    PlantText p = line();
    p.add("cylinder.lift", {{"lifts", "a"}, {"direction", "down"}, {"stroke", "300 mm"}, {"extend_time", "1 s"}});
    Bench b(p);
    b.put("a", 1.0);
    b.drive("lift.extend", 1);
    b.run(0.5);
    CHECK(b.item(0).z_m == doctest::Approx(0.8 - 0.15).epsilon(0.01));
    b.run(1);
    CHECK(b.item(0).z_m == doctest::Approx(0.5));
    b.drive("lift.extend", 0);
    b.run(1);
    CHECK(b.item(0).z_m == doctest::Approx(0.8));
    CHECK(b.item(0).support >= 0);
}

TEST_CASE("a clamp stops at the item's width and holds it on a running belt") {
    PlantText p = line();
    p.add("cylinder.clamp", {{"clamps", "a"},
                             {"at", "2 m"},
                             {"reach", "200 mm"},
                             {"opening", "250 mm"},
                             {"stroke", "200 mm"},
                             {"extend_time", "0.4 s"}});
    Bench b(p);
    b.put("a", 2.0);
    b.drive("clamp.extend", 1);
    b.run(0.5);
    CHECK(b.read("clamp.position") == doctest::Approx(0.25 - 0.1));  // opening less the item's 100 mm
    CHECK(b.read("clamp.gripping") == 1);
    b.drive("a.run", 1);
    b.run(1);
    CHECK(b.item(0).x_m == 2.0);
    b.drive("clamp.extend", 0);
    b.run(1);
    CHECK(b.item(0).x_m > 2.3);
    b.drive("clamp.extend", 1);
    b.run(2);
    CHECK(b.read("clamp.position") == doctest::Approx(0.2));  // nothing between the jaws
    CHECK(b.read("clamp.gripping") == 0);
}

TEST_CASE("photo-eye: height of the beam, normally closed, fault of its point") {
    PlantText p = line();
    p.add("photoeye.low", {{"on", "a"}, {"at", "2 m"}, {"height", "40 mm"}})
        .add("photoeye.high", {{"on", "a"}, {"at", "2 m"}, {"height", "120 mm"}});
    p.add("photoeye.dark", {{"on", "a"}, {"at", "2 m"}, {"contact", "normally closed"}});
    Bench b(p);
    CHECK(b.read("low") == 0);
    CHECK(b.read("dark") == 1);
    b.put("a", 2.05);
    b.step();
    CHECK(b.read("low") == 1);
    CHECK(b.read("high") == 0);  // the brick is 80 mm high
    CHECK(b.read("dark") == 0);
    plant::set_point_fault(*b.model, b.state, b.model->find_point("low.signal"), plant::Defect::Stuck, 0);
    b.step();
    CHECK(b.read("low") == 0);
    CHECK(b.read("low.blocked") == 1);  // the actual tells the truth
    CHECK(plant::active_faults(*b.model, b.state) == std::vector<std::string>{"low.signal stuck off"});
    plant::heal_device(*b.model, b.state, b.device("low"));
    b.step();
    CHECK(b.read("low") == 1);
}

TEST_CASE("colour reader tells colours apart, 0 for nothing") {
    PlantText p = line();
    p.add("colour_reader.look", {{"on", "a"}, {"at", "2 m"}});
    Bench b(p);
    b.step();
    CHECK(b.read("look.colour") == 0);
    b.put("a", 2.0);
    b.step();
    CHECK(b.read("look.colour") == 1);
    b.item(0).colour = 1;
    b.step();
    CHECK(b.read("look.colour") == 2);
}

TEST_CASE("infeed by interval: count over time, limit, gap, empty") {
    PlantText p = line();
    p.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "1.5 s"}, {"limit", "#3"}});
    Bench b(p);
    b.drive("a.run", 1);
    b.run(0.1);
    CHECK(b.read("in.fed") == 1);
    b.run(1.6);
    CHECK(b.read("in.fed") == 2);
    b.run(10);
    CHECK(b.read("in.fed") == 3);

    PlantText gap = line();
    gap.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "0.1 s"}, {"gap", "300 mm"}});
    Bench g(gap);
    g.drive("a.run", 1);
    g.run(5);
    for (std::size_t i = 1; i < g.state.items.size(); ++i) CHECK(g.item(i - 1).x_m - g.item(i).x_m >= 0.5 - 1e-9);
    const double fed = g.read("in.fed");
    g.fault("in", "empty");
    g.run(5);
    CHECK(g.read("in.fed") == fed);
}

TEST_CASE("infeed on command: one item a rising edge") {
    PlantText p = line();
    p.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"feed", "command"}});
    Bench b(p);
    b.drive("a.run", 1);
    b.run(1);
    CHECK(b.read("in.fed") == 0);
    b.drive("in.release", 1);
    b.run(2);
    CHECK(b.read("in.fed") == 1);
    b.drive("in.release", 0);
    b.run(1);
    b.drive("in.release", 1);
    b.run(1);
    CHECK(b.read("in.fed") == 2);
}

TEST_CASE("valve from a supply: volume is flow times time less half the stroke") {
    PlantText p = with_tank();
    p.add("valve.v", {{"into", "t"}, {"flow", "2 l/s"}, {"stroke_time", "0.5 s"}});
    Bench b(p);
    b.drive("v.open", 1);
    b.run(10);
    CHECK(b.read("t.volume") == doctest::Approx(0.002 * (10 - 0.25)).epsilon(0.002));
    CHECK(b.read("v.actual_opening") == doctest::Approx(100));
    b.drive("v.open", 0);
    b.run(0.25);
    CHECK(b.read("v.actual_opening") == doctest::Approx(50).epsilon(0.02));
    b.fault("v", "jammed");
    b.run(1);
    CHECK(b.read("v.actual_opening") == doctest::Approx(50).epsilon(0.02));
}

TEST_CASE("proportional valve: flow follows the wanted opening") {
    PlantText p = with_tank();
    p.add("valve.v", {{"control", "proportional"}, {"into", "t"}, {"flow", "2 l/s"}, {"stroke_time", "0 s"}});
    Bench b(p);
    CHECK(b.model->find_point("v.open") == plant::kNone);
    b.drive("v.opening", 30);
    b.run(10);
    CHECK(b.read("t.volume") == doctest::Approx(0.002 * 0.3 * 10).epsilon(1e-6));
    b.drive("v.opening", 250);  // more than all is all
    b.step();
    CHECK(b.read("v.flow") == doctest::Approx(0.002));
}

TEST_CASE("outflow by gravity follows Torricelli: the root of the level falls linearly") {
    PlantText p = with_tank({{"level", "0.8 m"}});
    p.add("valve.drain", {{"from", "t"}, {"bore", "30 mm"}, {"discharge_coefficient", "0.62"}, {"stroke_time", "0 s"}});
    Bench b(p);
    b.drive("drain.open", 1);
    const double area = 0.5, bore = std::numbers::pi / 4 * 0.03 * 0.03;
    const double k = 0.62 * bore / area * std::sqrt(2 * plant::kGravity_m_s2) / 2;
    for (const double t : {50.0, 100.0, 200.0}) {
        b.run(t - b.time_s);
        const double root = std::sqrt(0.8) - k * t;
        CHECK(b.read("t.level") == doctest::Approx(root * root).epsilon(0.001));
    }
    b.run(600);
    CHECK(b.read("t.level") >= 0);
    CHECK(b.read("t.level") < 1e-4);
}

TEST_CASE("liquid in equals liquid stored, overflowed, leaked and drained into another") {
    PlantText p = with_tank({{"level", "0.5 m"}});
    p.add("tank.low", {{"at", "[3 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "0.1 m"}});
    p.add("valve.over", {{"from", "t"}, {"into", "low"}, {"bore", "50 mm"}, {"stroke_time", "0 s"}});
    Bench b(p);
    b.drive("over.open", 1);
    b.run(300);
    CHECK(b.read("t.volume") + b.read("low.volume") + b.read("low.overflowed") == doctest::Approx(0.25).epsilon(1e-9));
    CHECK(b.read("low.overflowed") > 0.1);
    CHECK(b.read("low.level") == doctest::Approx(0.1));
}

TEST_CASE("a leak loses its flow and no more than there is") {
    Bench b(with_tank({{"level", "0.2 m"}}));
    b.fault("t", "leaking", 0.001);
    b.run(50);
    CHECK(b.read("t.volume") == doctest::Approx(0.1 - 0.05).epsilon(1e-6));
    b.run(100);
    CHECK(b.read("t.volume") == 0);
    CHECK(plant::active_faults(*b.model, b.state) == std::vector<std::string>{"t leaking 1 l/s"});
}

TEST_CASE("a dipped item takes the tank's colour after the soak time and carries some away") {
    PlantText p;
    p.colours({"clay", "cobalt"})
        .brick()
        .add("belt.a", {{"at", "[-0.4 m, 0 m]"}, {"length", "0.8 m"}, {"speed", "0.4 m/s"}});
    p.add("cylinder.lift", {{"lifts", "a"}, {"stroke", "500 mm"}, {"extend_time", "1 s"}});
    p.add("tank.t", {{"at", "[0 m, 0 m]"},
                     {"elevation", "0.1 m"},
                     {"length", "1 m"},
                     {"width", "1 m"},
                     {"depth", "0.6 m"},
                     {"level", "0.4 m"},
                     {"colour", "cobalt"},
                     {"soak_time", "2 s"},
                     {"drag_out", "1 l"}});
    Bench b(p);
    b.put("a", 0.4);
    b.drive("lift.extend", 1);
    // The liquid stands at 0.5 m, the brick's top at 0.88 m: 380 mm down at 500 mm/s, then the soak.
    CHECK(b.until("t.coated", 1, 10) == doctest::Approx(0.38 / 0.5 + 2.0).epsilon(0.01));
    CHECK(int{b.item(0).colour} == 1);
    CHECK(b.read("t.volume") == doctest::Approx(0.4 - 0.001));
    b.run(5);
    CHECK(b.read("t.coated") == 1);
}

TEST_CASE("a dip that is too short leaves no colour") {
    PlantText p;
    p.colours({"clay", "cobalt"})
        .brick()
        .add("belt.a", {{"at", "[-0.4 m, 0 m]"}, {"length", "0.8 m"}, {"speed", "0.4 m/s"}});
    p.add("cylinder.lift", {{"lifts", "a"}, {"stroke", "500 mm"}, {"extend_time", "1 s"}});
    p.add("tank.t", {{"at", "[0 m, 0 m]"},
                     {"length", "1 m"},
                     {"width", "1 m"},
                     {"depth", "0.6 m"},
                     {"level", "0.5 m"},
                     {"colour", "cobalt"},
                     {"soak_time", "2 s"}});
    Bench b(p);
    b.put("a", 0.4);
    for (int dip = 0; dip < 3; ++dip) {
        b.drive("lift.extend", 1);
        b.run(2);
        b.drive("lift.extend", 0);
        b.run(2);
    }
    CHECK(int{b.item(0).colour} == 0);
}

TEST_CASE("level transmitter: a first-order lag, clamped to its range") {
    PlantText p = with_tank({{"level", "0.2 m"}});
    p.add("level_transmitter.lt", {{"tank", "t"}, {"range", "0.6 m"}, {"time_constant", "2 s"}});
    Bench b(p);
    CHECK(b.read("lt") == doctest::Approx(0.2));
    b.state.liquids[0].volume_m3 = 0.25;  // a step to 0.5 m
    for (const double t : {1.0, 2.0, 5.0}) {
        b.run(t - b.time_s);
        CHECK(b.read("lt.level") == doctest::Approx(0.5 - 0.3 * std::exp(-t / 2)).epsilon(1e-9));
    }
    b.state.liquids[0].volume_m3 = 0.45;
    b.run(60);
    CHECK(b.read("lt.level") == doctest::Approx(0.6));
}

TEST_CASE("level switch: hysteresis and wiring") {
    PlantText p = with_tank();
    p.add("level_switch.no", {{"tank", "t"}, {"at", "0.4 m"}, {"hysteresis", "50 mm"}})
        .add("level_switch.nc",
             {{"tank", "t"}, {"at", "0.4 m"}, {"hysteresis", "50 mm"}, {"contact", "normally closed"}});
    Bench b(p);
    const auto at = [&](double level) {
        b.state.liquids[0].volume_m3 = level * 0.5;
        b.step();
        CHECK(b.read("no") == 1 - b.read("nc"));
        return b.read("no");
    };
    CHECK(at(0.39) == 0);
    CHECK(at(0.401) == 1);
    CHECK(at(0.36) == 1);
    CHECK(at(0.349) == 0);
    CHECK(at(0.39) == 0);
}

TEST_CASE("every kind declares itself well") {
    for (const plant::Kind& kind : plant::all_kinds()) {
        CAPTURE(kind.name);
        CHECK(plant::find_kind(kind.name) == &kind);
        CHECK(kind.summary.size() > 5);
        CHECK(kind.points.size() <= plant::kMaxPoints);
        for (const auto& p : kind.parameters) CHECK(p.help.size() > 3);
        for (const auto& p : kind.points) CHECK(p.help.size() > 3);
        for (const auto& f : kind.faults) CHECK(f.help.size() > 3);
        for (const auto& c : kind.controls) CHECK(c.help.size() > 3);
        for (const auto& g : kind.actuals) CHECK(g.help.size() > 3);
    }
    CHECK(plant::all_kinds().size() == 61);
}
