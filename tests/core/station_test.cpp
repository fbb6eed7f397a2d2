// Stations that work on items, sensors that stand freely, motors that run down, liquids that are not water, tags that a
// screen writes.
#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

PlantText press() {
    PlantText p;
    p.add("item.blank", {{"size", "[200 mm, 100 mm, 40 mm]"}, {"mass", "1 kg"}})
        .add("item.pressed", {{"size", "[200 mm, 100 mm, 30 mm]"}, {"mass", "1.2 kg"}})
        .add("belt.line", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.5 m/s"}})
        .add("station.press", {{"on", "line"}, {"at", "1 m"}, {"work_time", "0.5 s"}, {"becomes", "pressed"}});
    return p;
}

std::string type_of(Bench& b, std::size_t item) {
    return b.model->type_of(b.item(item)).name;
}

}  // namespace

TEST_CASE("a station works on what stands in it, for its time, once") {
    Bench b(press());
    b.drive("press.work", 1);
    b.run(0.2);
    CHECK(b.read("press.busy") == 0);  // nothing is there
    REQUIRE(b.put("line", 1.0));
    const double took = b.until("press.done", 1, 2.0);
    CHECK(took == doctest::Approx(0.505).epsilon(0.02));  // work_time, and the step in which it sees the item
    CHECK(type_of(b, 0) == "pressed");
    CHECK(b.read("press.worked") == 1);
    b.run(2.0);
    CHECK(b.read("press.worked") == 1);
    b.drive("press.work", 0);
    b.step();
    CHECK(b.read("press.done") == 0);
    b.drive("press.work", 1);  // the same item again: it is done
    b.run(1.0);
    CHECK(b.read("press.worked") == 1);
    CHECK(b.read("press.busy") == 0);
}

TEST_CASE("a station fails when the item moves, or its tool sticks, and can lie") {
    struct Row {
        const char* fault;
        bool belt_runs;
        double done, failed, worked, spoilt;
        const char* type;
    };
    for (const Row& row : {Row{"", false, 1, 0, 1, 0, "pressed"},
                           {"", true, 0, 1, 0, 0, "blank"},
                           {"jammed", false, 0, 1, 0, 0, "blank"},
                           {"jammed", true, 0, 1, 0, 0, "blank"},
                           {"no_effect", false, 1, 0, 0, 1, "blank"},
                           {"no_effect", true, 0, 1, 0, 0, "blank"}}) {
        CAPTURE(row.fault);
        CAPTURE(row.belt_runs);
        Bench b(press());
        if (*row.fault != '\0') b.fault("press", row.fault);
        REQUIRE(b.put("line", 1.0));
        b.drive("press.work", 1);
        b.step(2);
        if (row.belt_runs) b.drive("line.run", 1);
        b.run(0.6);
        CHECK(b.read("press.done") == row.done);
        CHECK(b.read("press.failed") == row.failed);
        CHECK(b.read("press.worked") == row.worked);
        CHECK(b.read("press.spoilt") == row.spoilt);
        CHECK(type_of(b, 0) == row.type);
    }
}

TEST_CASE("sensors that stand freely see what comes there, on whatever it lies") {
    PlantText p;
    p.add("item.can", {{"size", "[100 mm, 100 mm, 120 mm]"}, {"material", "metal"}})
        .add("index_table.table",
             {{"at", "[0 m, 0 m]"}, {"elevation", "0.6 m"}, {"radius", "0.5 m"}, {"stations", "#4"}})
        .add("photoeye.over", {{"at", "[0.4 m, 0 m]"}, {"height", "0.65 m"}, {"span", "0.3 m"}})
        .add("photoeye.high", {{"at", "[0.4 m, 0 m]"}, {"height", "0.9 m"}, {"span", "0.3 m"}})
        .add("photoeye.aside", {{"at", "[0.4 m, 0.5 m]"}, {"height", "0.65 m"}, {"span", "0.3 m"}})
        .add("proximity.feels", {{"at", "[0.4 m, 0.15 m]"}, {"height", "0.65 m"}, {"range", "120 mm"}})
        .add("proximity.short", {{"at", "[0.4 m, 0.15 m]"}, {"height", "0.65 m"}, {"range", "90 mm"}});
    Bench b(p);
    b.step();
    for (const char* name : {"over", "high", "aside", "feels", "short"}) CHECK(b.read(name) == 0);
    plant::Item can;
    can.id = b.state.next_item++;
    can.support = b.model->devices[0].surface;
    can.x_m = 0.4;
    can.z_m = 0.6;
    b.state.items.push_back(can);
    b.state.near.forget();
    b.step();
    CHECK(b.read("over") == 1);
    CHECK(b.read("high") == 0);
    CHECK(b.read("aside") == 0);
    CHECK(b.read("feels") == 1);  // its side is 100 mm away
    CHECK(b.read("short") == 0);
    base::Diagnostics diagnostics;
    PlantText wrong;
    wrong.add("photoeye.nowhere", {{"height", "0.65 m"}});
    plant::build_plant(wrong.definition, diagnostics);
    CHECK(test::joined(test::lines_of(diagnostics)) ==
          "1:1 photoeye 'nowhere' needs 'on' and 'at' [on = \"a belt\" and at = \"1.2 m\" along it; or at = [\"2 m\", "
          "\"0 "
          "m\"] in the plan]\n");
}

TEST_CASE("a motor runs down, and says that it runs until it stands") {
    PlantText p;
    p.add("motor.m", {{"start_time", "0 s"}, {"run_down", "4 s"}})
        .add("belt.b", {{"at", "[0 m, 0 m]"}, {"length", "9 m"}, {"speed", "0.5 m/s"}, {"driven_by", "m"}})
        .brick();
    Bench b(p);
    REQUIRE(b.put("b", 1.0));
    b.drive("m.run", 1);
    b.run(2.0);
    const double before = b.item(0).x_m;
    b.drive("m.run", 0);
    b.run(3.9);
    CHECK(b.read("m.running") == 1);
    b.run(0.2);
    CHECK(b.read("m.running") == 0);
    CHECK(b.item(0).x_m - before == doctest::Approx(0.5 * 4.0 / 2.0).epsilon(0.01));  // v t / 2
    b.fault("m", "jammed");
    b.drive("m.run", 1);
    b.run(0.1);
    CHECK(b.read("m.running") == 0);
}

TEST_CASE("the pressure at the bottom of a tank goes by its liquid") {
    for (const double density : {0.8, 1.0, 1.84}) {
        PlantText p;
        p.add("tank.t", {{"at", "[0 m, 0 m]"},
                         {"length", "1 m"},
                         {"width", "1 m"},
                         {"depth", "2 m"},
                         {"level", "1.5 m"},
                         {"relative_density", fmt::format("#{}", density)}})
            .add("pressure_transmitter.p", {{"tank", "t"}, {"range", "1 bar"}});
        Bench b(p);
        b.run(1.0);
        CHECK(b.read("p.pressure") == doctest::Approx(density * 998.0 * 9.80665 * 1.5).epsilon(1e-9));
    }
}

TEST_CASE("a tag that a screen writes is declared so, and missed by nobody") {
    const auto warnings = [](const std::vector<std::string>& screen) {
        session::Definition d = test::make_definition(
            "VAR_GLOBAL setpoint : INT; other : INT; out AT %QW0 : INT; END_VAR\n"
            "PROGRAM main out := setpoint + other; END_PROGRAM",
            PlantText().add("display.shown", {}), {{"out", "shown.value", ""}});
        for (const std::string& s : screen) d.controllers[0].screen.push_back({s, {}, {}});
        base::Diagnostics diagnostics;
        session::build(d, diagnostics);
        std::string out;
        for (const base::Diagnostic& w : diagnostics.list()) out += w.message + "\n";
        return out;
    };
    const std::string missed = "is read, but neither the logic nor the map ever writes it\n";
    CHECK(warnings({}) == "'setpoint' " + missed + "'other' " + missed);
    CHECK(warnings({"setpoint"}) == "'other' " + missed);
    CHECK(warnings({"setpoint", "OTHER"}).empty());
    CHECK(warnings({"setpoin", "other"}).find("no tag is named 'setpoin'") != std::string::npos);
}
