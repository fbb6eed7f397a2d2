// Guides that lead items aside, merges, shelves, bulk on its way, tanks by a table, pipes; and how little the step
// counts.
#include <numbers>

#include <cmath>

#include "core/plant/tuning.hpp"
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::Bench;
using test::PlantText;

namespace {

/// A belt along x with a guide across it at an angle; the item starts so that it has met the guide after a second.
PlantText guided(int degrees) {
    PlantText p;
    p.add("item.puck", {{"size", "[100 mm, 100 mm, 50 mm]"}});
    p.add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "6 m"}, {"width", "3 m"}, {"speed", "0.4 m/s"}});
    p.add(
        "wall.guide",
        {{"at", "[2 m, 0 m]"}, {"heading", fmt::format("{} deg", degrees)}, {"elevation", "0.8 m"}, {"length", "5 m"}});
    return p;
}

}  // namespace

TEST_CASE("an item is led along a guide at v (cos a - mu sin a)") {
    for (const int degrees : {20, 45, 60}) {
        CAPTURE(degrees);
        Bench b(guided(degrees));
        REQUIRE(b.put("a", 1.6));
        b.drive("a.run", 1);
        b.run(1.5);
        const plant::Item before = b.item(0);
        b.run(1.0);
        const plant::Item after = b.item(0);
        const double a = degrees * std::numbers::pi / 180;
        const double speed = 0.4 * (std::cos(a) - plant::kGuideFriction * std::sin(a));
        CHECK(after.x_m - before.x_m == Approx(speed * std::cos(a)).epsilon(1e-6));
        CHECK(after.y_m - before.y_m == Approx(speed * std::sin(a)).epsilon(1e-6));
    }
}

TEST_CASE("a guide that is too steep holds what meets it, and so does a straight one") {
    for (const int degrees : {80, 90, 100}) {  // atan(1 / 0.25) is 76 degrees
        CAPTURE(degrees);
        Bench b(guided(degrees));
        REQUIRE(b.put("a", 1.6));
        b.drive("a.run", 1);
        b.run(2.0);
        const plant::Item before = b.item(0);
        b.run(5.0);
        CHECK(b.item(0).x_m == before.x_m);
        CHECK(b.item(0).y_m == before.y_m);
    }
}

TEST_CASE("a merge brings two lanes to one, nothing lost, nothing overlapping") {
    PlantText p;
    p.brick()
        .add("merge.m", {{"at", "[0 m, 0 m]"}, {"length", "3 m"}, {"width", "800 mm"}, {"speed", "0.4 m/s"}})
        .add("outfeed.out", {{"after", "m"}, {"width", "800 mm"}});
    for (const char* lane : {"-200 mm", "200 mm"})
        p.add(fmt::format("infeed.i{}", lane[0] == '-' ? 1 : 2), {{"on", "m"},
                                                                  {"at", "0.2 m"},
                                                                  {"left", lane},
                                                                  {"item", "brick"},
                                                                  {"interval", lane[0] == '-' ? "2 s" : "2.7 s"},
                                                                  {"limit", "#5"}});
    Bench b(p);
    b.drive("m.run", 1);
    for (int i = 0; i < 60 * 200; ++i) {
        b.step();
        for (const plant::Item& item : b.state.items) {
            if (item.x_m > 2.7) CHECK(item.y_m == Approx(-0.35).epsilon(1e-4));  // all along the right edge
        }
    }
    CHECK(b.read("out.counted") == 10);
    CHECK(b.read("plant.items_on_floor") == 0);
}

TEST_CASE("bulk takes length over speed, and none is lost") {
    PlantText p;
    p.add("hopper.bin", {{"at", "[0 m, 0 m]"}, {"volume", "500 l"}, {"initial", "400 l"}})
        .add("hopper.to", {{"at", "[3 m, 0 m]"}, {"volume", "500 l"}})
        .add("bulk_feeder.screw",
             {{"from", "bin"}, {"into", "to"}, {"rate", "2 l/s"}, {"length", "3 m"}, {"speed", "0.3 m/s"}});
    Bench b(p);
    b.drive("screw.run", 1);
    double first = -1;
    for (int i = 0; i < 4000; ++i) {
        b.step();
        if (first < 0 && b.read("to.content") > 0) first = b.time_s;
        CHECK(b.read("bin.content") + b.read("screw.on_it") + b.read("to.content") == Approx(0.4).epsilon(1e-9));
    }
    CHECK(first == Approx(10.0 * 63 / 64).epsilon(0.01));  // 64 cells
    CHECK(b.read("to.content") == Approx(2e-3 * (20.0 - 10.0)).epsilon(0.02));
    CHECK(b.read("screw.flow") == Approx(2e-3).epsilon(1e-6));
    CHECK(b.read("screw.running") == 1);
    b.fault("screw", "slipping");
    b.step();
    CHECK(b.read("screw.flow") == 0);
    CHECK(b.read("screw.running") == 1);
    b.fault("screw", "slipping", 0);
    b.drive("screw.run", 0);
    const double on_it = b.read("screw.on_it");
    b.run(5);
    CHECK(b.read("screw.on_it") == on_it);  // it keeps what lies on it
}

TEST_CASE("a tank by a table: level and volume are the table's, straight between") {
    PlantText p;
    p.add("tank.cone", {{"at", "[0 m, 0 m]"},
                        {"length", "1 m"},
                        {"width", "1 m"},
                        {"depth", "1 m"},
                        {"level", "0.75 m"},
                        {"levels", "[0.5 m, 1 m]"},
                        {"volumes", "[100 l, 500 l]"}})
        .add("valve.out", {{"from", "cone"}, {"bore", "50 mm"}, {"stroke_time", "0 s"}});
    Bench b(p);
    CHECK(b.read("cone.volume") == Approx(0.3));
    CHECK(b.read("cone.level_percent") == Approx(75));
    b.drive("out.open", 1);
    // Torricelli in each part: dh/dt = -c sqrt(h) / A, so sqrt(h) falls by c t / 2A.
    const double c = 0.62 * std::numbers::pi / 4 * 0.05 * 0.05 * std::sqrt(2 * plant::kGravity_m_s2);
    const double upper = 2 * 0.8 / c * (std::sqrt(0.75) - std::sqrt(0.5));
    const double lower = 2 * 0.2 / c * (std::sqrt(0.5) - std::sqrt(0.1));
    b.run(upper);
    CHECK(b.read("cone.level") == Approx(0.5).epsilon(0.002));
    b.run(lower);
    CHECK(b.read("cone.level") == Approx(0.1).epsilon(0.01));
}

TEST_CASE("a pipe takes some of the height: Darcy and Weisbach") {
    PlantText p;
    p.add("tank.high",
          {{"at", "[0 m, 0 m]"}, {"length", "10 m"}, {"width", "10 m"}, {"depth", "2 m"}, {"level", "1 m"}})
        .add("valve.out", {{"from", "high"}, {"bore", "50 mm"}, {"stroke_time", "0 s"}, {"pipe", "30 m"}});
    Bench b(p);
    b.drive("out.open", 1);
    b.step();
    const double area = std::numbers::pi / 4 * 0.05 * 0.05;
    const double loss = 1 / (0.62 * 0.62) + 0.02 * 30 / 0.05;
    CHECK(b.read("out.flow") == Approx(area * std::sqrt(2 * plant::kGravity_m_s2 * 1.0 / loss)).epsilon(1e-6));
}

TEST_CASE("parameters that contradict each other are refused together") {
    const auto errors = [](const PlantText& p) {
        base::Diagnostics diagnostics;
        plant::build_plant(p.definition, diagnostics);
        return test::joined(test::lines_of(diagnostics));
    };
    PlantText::Keys tank = {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}};
    tank.push_back({"levels", "[0.5 m, 0.4 m]"});
    CHECK(errors(PlantText().add("tank.t", tank)) == "1:1 tank 't': 'levels' and 'volumes' are of one length\n");
    tank.push_back({"volumes", "[1 l, 2 l]"});
    CHECK(errors(PlantText().add("tank.t", tank)) == "1:1 tank 't': 'levels' and 'volumes' rise, and begin above 0\n");
    tank[4] = {"levels", "[0.5 m, 0.9 m]"};
    CHECK(errors(PlantText().add("tank.t", tank)) == "1:1 tank 't': the last of 'levels' is the depth\n");
    PlantText shelf = PlantText().brick();
    CHECK(
        errors(shelf.add("shelf.s", {{"at", "[0 m, 0 m]"}, {"length", "0.3 m"}, {"items", "[brick, brick, brick]"}})) ==
        "2:1 shelf 's': its items do not fit its length; make 'pitch' or the list shorter\n");
}

TEST_CASE("halving the step changes no arrival by two of the larger steps") {
    struct Row {
        const char* what;
        PlantText plant;
        const char* drive;
        const char* reading;
        double value;
        double start_m;  ///< Of an item on 'a'; less than nought: none.
    };
    PlantText ramp, chute, rod, valve, drain, slide, hands;
    ramp.brick()
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", "0.7 m/s"}, {"acceleration", "0.3 m/s2"}})
        .add("photoeye.eye", {{"on", "a"}, {"at", "3 m"}});
    chute.brick()
        .add("chute.a", {{"at", "[0 m, 0 m]"}, {"length", "3 m"}, {"drop", "1.2 m"}, {"elevation", "2 m"}})
        .add("photoeye.eye", {{"on", "a"}, {"at", "2.5 m"}});
    rod.add("cylinder.c", {{"stroke", "300 mm"}, {"extend_time", "0.73 s"}})
        .add("endswitch.out", {{"on", "c"}, {"at", "290 mm"}});
    valve.add("valve.v", {{"stroke_time", "3.3 s"}, {"feedback", "end switches"}});
    drain
        .add("tank.t",
             {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"level", "0.8 m"}})
        .add("valve.v", {{"from", "t"}, {"bore", "80 mm"}})
        .add("level_switch.low", {{"tank", "t"}, {"at", "0.3 m"}});
    slide.add("axis.x", {{"travel", "1 m"}, {"homing_speed", "0.07 m/s"}, {"initial", "0.4 m"}});
    const PlantText corner = guided(30);
    hands = corner;
    hands.add("photoeye.eye", {{"on", "a"}, {"at", "3.3 m"}});
    const Row rows[] = {
        {"a belt that speeds up", ramp, "a.run", "eye.signal", 1, 0.2},
        {"a chute", chute, "", "eye.signal", 1, 0.2},
        {"a cylinder", rod, "c.extend", "out.signal", 1, -1},
        {"a valve", valve, "v.open", "v.opened", 1, -1},
        {"a tank that empties", drain, "v.open", "low.signal", 0, -1},
        {"an axis that homes", slide, "x.enable x.home", "x.homed", 1, -1},
        {"a guide", hands, "a.run", "eye.signal", 1, 0.5},
    };
    for (const Row& row : rows) {
        CAPTURE(row.what);
        double arrival[2];
        int n = 0;
        for (const double step : {0.010, 0.005}) {
            Bench b(row.plant, step);
            if (row.start_m >= 0) REQUIRE(b.put("a", row.start_m));
            std::string drives = row.drive;
            for (std::size_t at = 0; at < drives.size();) {
                const std::size_t end = std::min(drives.find(' ', at), drives.size());
                b.drive(drives.substr(at, end - at), 1);
                at = end + 1;
            }
            arrival[n++] = b.until(row.reading, row.value, 60);
        }
        CHECK(arrival[0] > 0.3);
        CHECK(std::abs(arrival[0] - arrival[1]) < 2 * 0.010);
    }
}

TEST_CASE("a vacuum cup needs its air, a gripper room between its jaws") {
    const auto cell = [](const char* tool) {
        PlantText p;
        p.add("item.slab", {{"size", "[200 mm, 150 mm, 50 mm]"}, {"mass", "2 kg"}})
            .add("shelf.board", {{"at", "[0 m, 0 m]"},
                                 {"length", "1 m"},
                                 {"elevation", "0.5 m"},
                                 {"items", "[slab]"},
                                 {"first", "0.5 m"}})
            .add("air_supply.air", {})
            .add("gantry.arm", {{"at", "[0.5 m, 0 m]"},
                                {"elevation", "1 m"},
                                {"x_travel", "1 m"},
                                {"z_travel", "0.6 m"},
                                {"tool", tool},
                                {"opening", "160 mm"},
                                {"air", "air"}});
        return p;
    };
    Bench cup(cell("vacuum"));
    cup.drive("air.open", 1);
    cup.drive("arm.down", 0.45);
    cup.drive("arm.grip", 1);
    cup.run(8);
    CHECK(cup.read("arm.holding") == 1);
    cup.drive("air.open", 0);
    cup.run(20);
    CHECK(cup.read("arm.holding") == 0);

    // Jaws go down beside the part, which is 150 mm across and 50 mm high, its top at 0.55 m; their air does not
    // matter.
    struct Grip {
        double down_m, turned_deg, aside_mm;
        bool holds;
        const char* why;
    };
    for (const Grip& g : {Grip{0.47, 0, 0, true, "between the jaws"},
                          {0.49, 0, 0, true, "deeper"},
                          {0.45, 0, 0, false, "the tips are no lower than its top"},
                          {0.30, 0, 0, false, "far above"},
                          {0.47, 30, 0, false, "it stands askew"},
                          {0.47, 2, -1, true, "the jaws turn it straight"},
                          {0.47, 90, 0, false, "200 mm across do not fit"},
                          {0.47, 0, 4, true, "within the opening"},
                          {0.47, 0, 30, false, "a jaw stands on it"}}) {
        CAPTURE(g.why);
        Bench jaws(cell("gripper"));
        jaws.step();
        plant::Item& slab = jaws.item(0);
        slab.heading = slab.heading.turned(plant::Heading::of(g.turned_deg * std::numbers::pi / 180.0));
        slab.y_m += g.aside_mm / 1000.0;
        jaws.drive("arm.down", g.down_m);
        jaws.drive("arm.grip", 1);
        jaws.run(8);
        CHECK((jaws.read("arm.holding") == 1) == g.holds);
        // It follows up when it is held.
        jaws.drive("arm.down", 0.2);
        jaws.run(4);
        CHECK((jaws.item(0).z_m > 0.6) == g.holds);
    }
    PlantText narrow = cell("gripper");
    for (auto& key : narrow.definition.devices.back().keys) {
        if (key.name == "opening") key.value = PlantText::value("140 mm", {});
    }
    Bench tight(narrow);
    tight.drive("arm.down", 0.47);
    tight.drive("arm.grip", 1);
    tight.run(8);
    CHECK(tight.read("arm.holding") == 0);
}
