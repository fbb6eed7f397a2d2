// The laws that devices follow, against closed forms. Tolerances are of one step (5 ms) unless they say otherwise.
#include <cmath>

#include "core/plant/tuning.hpp"
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::Bench;
using test::PlantText;

namespace {

PlantText belt_a(const std::string& speed = "0.5 m/s") {
    PlantText p;
    p.brick()
        .add("item.tin",
             {{"size", "[100 mm, 100 mm, 120 mm]"}, {"mass", "2 kg"}, {"material", "metal"}, {"code", "#2380"}})
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", speed}});
    return p;
}

PlantText two_tanks() {
    PlantText p;
    p.add("tank.high", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "2 m"}, {"level", "1 m"}});
    p.add("tank.low", {{"at", "[2 m, 0 m]"}, {"length", "1 m"}, {"width", "0.5 m"}, {"depth", "2 m"}});
    return p;
}

}  // namespace

TEST_CASE("a belt that accelerates: v squared over 2 a until it is up to speed") {
    PlantText p = belt_a();
    p.definition.devices.back().keys.push_back({"acceleration", {}, PlantText::value("0.25 m/s2", {})});
    Bench b(p);
    b.put("a", 0.5);
    b.drive("a.run", 1);
    b.run(3);
    // 2 s and 0.5 m to 0.5 m/s, then 1 s at it.
    CHECK(b.item(0).x_m == Approx(0.5 + 0.5 * 0.5 / (2 * 0.25) + 0.5).epsilon(0.003));
}

TEST_CASE("a belt at any heading carries along it, and gives to one at another") {
    PlantText p;
    p.brick()
        .add("belt.a", {{"at", "[0 m, 0 m]"}, {"heading", "30 deg"}, {"length", "2 m"}, {"speed", "0.4 m/s"}})
        .add("belt.b", {{"after", "a"}, {"heading", "75 deg"}, {"length", "2 m"}, {"speed", "0.4 m/s"}});
    Bench b(p);
    b.put("a", 1.0);
    b.drive("a.run", 1);
    b.drive("b.run", 1);
    b.run(2);
    CHECK(b.item(0).x_m == Approx(1.8 * std::cos(std::numbers::pi / 6)).epsilon(0.002));
    CHECK(b.item(0).y_m == Approx(1.8 * std::sin(std::numbers::pi / 6)).epsilon(0.002));
    b.run(2);
    CHECK(b.state.surfaces[1].pose.along(b.item(0).x_m, b.item(0).y_m) == Approx(0.6).epsilon(0.01));
    CHECK(b.item(0).heading.radians() == Approx(std::numbers::pi / 6));  // it keeps the way it lies
}

TEST_CASE("setpoint, both ways, and what goes wrong with a belt") {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", "1 m/s"}, {"control", "setpoint"}});
    p.add("belt.r", {{"at", "[0 m, 2 m]"}, {"length", "5 m"}, {"speed", "1 m/s"}, {"control", "reversible"}});
    Bench b(p);
    b.drive("a.setpoint", -0.3);
    b.drive("r.reverse", 1);
    b.step();
    CHECK(b.read("a.speed") == -0.3);
    CHECK(b.read("r.speed") == -1.0);
    b.drive("a.setpoint", 7);
    b.drive("r.forward", 1);
    b.fault("a", "slow", 25);
    b.step();
    CHECK(b.read("a.speed") == 0.75);
    CHECK(b.read("r.speed") == 0.0);
    b.fault("a", "wrong_direction");
    b.step();
    CHECK(b.read("a.speed") == -0.75);
}

TEST_CASE("a roller bed with zero pressure: items queue a zone each and do not touch") {
    PlantText p;
    p.brick()
        .add("roller_bed.r", {{"at", "[0 m, 0 m]"}, {"length", "4 m"}, {"zones", "#4"}, {"speed", "0.5 m/s"}})
        .add("outfeed.out", {{"after", "r"}})
        .add("infeed.in", {{"on", "r"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "3 s"}, {"limit", "#4"}});
    Bench b(p);
    b.drive("r.run", 1);
    b.run(30);
    REQUIRE(b.state.items.size() == 4);
    CHECK(b.read("r.waiting") == 1);
    CHECK(b.read("r.taken") == 4);
    for (std::size_t i = 0; i + 1 < 4; ++i) CHECK(b.item(i).x_m - b.item(i + 1).x_m == Approx(1.0).epsilon(0.02));
    b.drive("r.release", 1);
    b.run(12);
    CHECK(b.read("out.counted") == 4);
}

TEST_CASE("a turntable turns what lies on it, in its time, and stalls at what stands in the way") {
    PlantText p;
    p.brick().add("turntable.t", {{"at", "[0 m, 0 m]"}, {"length", "600 mm"}, {"turn_time", "2 s"}});
    p.add("belt.next", {{"at", "[0.3 m, 0.3 m]"}, {"heading", "90 deg"}, {"length", "1 m"}, {"speed", "0.3 m/s"}});
    SUBCASE("free") {
        Bench b(p);
        REQUIRE(b.put("t", 0.4));
        b.drive("t.turn", 1);
        CHECK(b.until("t.turned", 1, 5) == Approx(2.0).epsilon(0.01));
        b.run(0.1);
        CHECK(b.item(0).x_m == Approx(0.3).epsilon(1e-6));
        CHECK(b.item(0).y_m == Approx(0.1).epsilon(1e-6));
        CHECK(b.item(0).heading.sin == Approx(1.0));
        b.drive("t.run", 1);
        b.drive("next.run", 1);
        b.run(2);
        CHECK(b.item(0).support == 1);  // handed on
        b.drive("t.turn", 0);
        CHECK(b.until("t.home", 1, 5) == Approx(2.0).epsilon(0.01));
    }
    SUBCASE("a wall in the way") {
        p.add("wall.w", {{"at", "[0.3 m, 0.18 m]"}, {"length", "200 mm"}, {"elevation", "0.8 m"}});
        Bench b(p);
        REQUIRE(b.put("t", 0.45));
        b.drive("t.turn", 1);
        b.run(4);
        CHECK(b.read("t.turned") == 0);
        CHECK(b.read("t.angle") > 0.1);
    }
}

TEST_CASE("a lift takes an item up at its speed; jammed, and with a weak brake") {
    PlantText p;
    p.brick().add("lift.l",
                  {{"at", "[0 m, 0 m]"}, {"elevation", "0.5 m"}, {"travel", "1.2 m"}, {"lift_speed", "0.3 m/s"}});
    Bench b(p);
    b.put("l", 0.3);
    CHECK(b.read("l.bottom") == 1);
    b.drive("l.up", 1);
    CHECK(b.until("l.top", 1, 10) == Approx(4.0).epsilon(0.002));
    CHECK(b.item(0).z_m == Approx(1.7));
    b.drive("l.up", 0);
    b.fault("l", "slipping");
    b.run(1);
    CHECK(b.read("l.position") == Approx(1.2 - 0.03).epsilon(1e-6));
    CHECK(b.item(0).z_m == Approx(1.67));
}

TEST_CASE("a cross transfer lifts an item off its belt and carries it to the side") {
    PlantText p = belt_a();
    p.add("diverter.d", {{"on", "a"}, {"at", "2 m"}, {"angle", "90 deg"}, {"speed", "0.5 m/s"}});
    p.add("belt.side", {{"beside", "a"}, {"at", "2 m"}, {"length", "1 m"}, {"speed", "0.5 m/s"}});
    Bench b(p);
    b.put("a", 2.0);
    b.drive("d.raise", 1);
    b.drive("a.run", 1);
    b.drive("side.run", 1);
    CHECK(b.until("d.up", 1, 1) == Approx(0.2).epsilon(0.03));
    const double x = b.item(0).x_m;  // the belt ran until it was up
    b.run(1);
    CHECK(b.item(0).x_m == Approx(x).epsilon(0.002));
    CHECK(b.item(0).y_m > 0.45);
    CHECK(b.item(0).support == base::at(b.model->devices, b.device("side")).surface);
    b.put("a", 1.0);
    b.drive("d.raise", 0);
    b.run(4);
    CHECK(b.item(1).y_m == 0.0);  // lowered, it lets items pass
    CHECK(b.item(1).x_m == Approx(3.0).epsilon(0.01));
}

TEST_CASE("an index table goes on by a station at each edge and takes its items round") {
    PlantText p;
    p.brick().add("index_table.t",
                  {{"at", "[0 m, 0 m]"}, {"elevation", "0.8 m"}, {"radius", "500 mm"}, {"stations", "#4"}});
    Bench b(p);
    REQUIRE(b.put("t", 0.3));
    for (int n = 1; n <= 3; ++n) {
        b.drive("t.index", 1);
        b.run(0.1);
        CHECK(b.read("t.in_position") == 0);
        b.run(1.0);
        b.drive("t.index", 0);
        b.step();
        CHECK(b.read("t.in_position") == 1);
        CHECK(b.read("t.count") == n);
        CHECK(b.item(0).x_m == Approx(0.3 * std::cos(n * std::numbers::pi / 2)).epsilon(1e-6));
        CHECK(b.item(0).y_m == Approx(0.3 * std::sin(n * std::numbers::pi / 2)).epsilon(1e-6));
    }
}

TEST_CASE("a gate arm waits above what is under it") {
    PlantText p = belt_a();
    p.add("gate_arm.g", {{"on", "a"}, {"at", "2 m"}});
    Bench b(p);
    b.drive("g.raise", 1);
    CHECK(b.until("g.up", 1, 3) == Approx(1.0).epsilon(0.01));
    b.put("a", 2.0);
    b.drive("g.raise", 0);
    b.run(2);
    CHECK(b.read("g.down") == 0);
    b.drive("a.run", 1);
    b.run(2);
    CHECK(b.read("g.down") == 1);
    b.put("a", 1.0);
    b.run(4);
    CHECK(b.item(1).x_m == Approx(2.0 - 0.015 - 0.1).epsilon(1e-6));
}

TEST_CASE("a gantry picks an item, sets it on another, and drops one when it loses hold") {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.5 m/s"}});
    p.add(
        "gantry.g",
        {{"at", "[0 m, 0 m]"}, {"elevation", "1.5 m"}, {"x_travel", "2 m"}, {"y_travel", "1 m"}, {"z_travel", "1 m"}});
    Bench b(p);
    b.put("a", 0.5);
    b.put("a", 1.5);
    const auto go = [&](double x, double y, double down) {
        b.drive("g.x", x);
        b.drive("g.y", y);
        b.drive("g.down", down);
        return b.until("g.in_position", 1, 20);
    };
    CHECK(go(0.5, 0, 0) == Approx(1.0).epsilon(0.01));  // 0.5 m at 0.5 m/s
    CHECK(go(0.5, 0, 0.62) == Approx(0.62 / 0.3).epsilon(0.01));
    b.drive("g.grip", 1);
    CHECK(b.until("g.held", 1, 1) == Approx(0.2).epsilon(0.03));
    go(0.5, 0, 0.2);
    CHECK(b.item(0).z_m == Approx(0.8 + 0.42).epsilon(1e-6));
    go(1.5, 0, 0.2);
    CHECK(b.item(0).x_m == Approx(1.5).epsilon(1e-6));
    b.drive("g.down", 1.0);
    b.run(3);
    CHECK(b.item(0).z_m == Approx(0.88).epsilon(1e-6));  // it stands on the other one, and so does the axis
    CHECK(b.read("g.at_down") == Approx(1.5 - 0.96).epsilon(1e-6));
    b.drive("g.grip", 0);
    go(1.5, 0, 0.1);
    CHECK(b.item(0).below == 1);
    b.drive("a.run", 1);
    b.run(0.4);
    CHECK(b.item(0).x_m == Approx(1.7).epsilon(0.003));  // a stack rides along
    b.drive("a.run", 0);
    // Picked again, it drops when the vacuum goes.
    go(1.7, 0, 0.54);
    b.drive("g.grip", 1);
    b.run(0.5);
    go(1.7, 0.8, 0.1);
    CHECK(b.read("g.held") == 1);
    b.fault("g", "weak");
    b.run(1);
    CHECK(b.read("g.held") == 0);
    CHECK(bool{b.item(0).on_floor});
}

TEST_CASE("photo-eyes: reach, switching, and what blinds them") {
    PlantText p = belt_a();
    p.add("photoeye.beam", {{"on", "a"}, {"at", "1 m"}});
    p.add("photoeye.near", {{"on", "a"}, {"at", "1 m"}, {"type", "diffuse"}, {"range", "160 mm"}});
    p.add("photoeye.far", {{"on", "a"}, {"at", "1 m"}, {"type", "diffuse"}, {"range", "140 mm"}});
    p.add("photoeye.dark", {{"on", "a"}, {"at", "1 m"}, {"switching", "dark"}});
    p.add("photoeye.light", {{"on", "a"}, {"at", "1 m"}, {"switching", "light"}});
    p.add("photoeye.high", {{"on", "a"}, {"at", "1 m"}, {"height", "90 mm"}});
    Bench b(p);
    CHECK(b.read("beam.signal") + b.read("near.signal") + b.read("far.signal") + b.read("dark.signal") == 0);
    CHECK(b.read("light.signal") == 1);
    b.put("a", 1.0);  // 100 mm wide in the middle of 400 mm: its side is 150 mm away
    b.step();
    CHECK(b.read("beam.signal") == 1);
    CHECK(b.read("near.signal") == 1);
    CHECK(b.read("far.signal") == 0);
    CHECK(b.read("dark.signal") == 1);
    CHECK(b.read("light.signal") == 0);
    CHECK(b.read("high.signal") == 0);  // 80 mm tall
    b.fault("near", "misaligned");
    b.fault("high", "misaligned");
    b.step();
    CHECK(b.read("near.signal") == 0);
    CHECK(b.read("high.signal") == 1);
}

TEST_CASE("height, metal, code, weight, distance and way") {
    PlantText p = belt_a();
    p.add("light_grid.c", {{"on", "a"}, {"at", "1 m"}, {"beams", "#10"}, {"lowest", "10 mm"}, {"pitch", "20 mm"}});
    p.add("proximity.metal", {{"on", "a"}, {"at", "1 m"}, {"range", "200 mm"}});
    p.add("proximity.any", {{"on", "a"}, {"at", "1 m"}, {"range", "200 mm"}, {"type", "capacitive"}});
    p.add("code_reader.r", {{"on", "a"}, {"at", "1 m"}});
    p.add("checkweigher.w", {{"on", "a"}, {"at", "1 m"}, {"time_constant", "0.1 s"}, {"range", "10 kg"}});
    p.add("distance_sensor.d", {{"on", "a"}, {"at", "3 m"}, {"range", "2.5 m"}});
    p.add("encoder.e", {{"on", "a"}, {"pulses_per_metre", "#500"}});
    Bench b(p);
    b.step();
    CHECK(b.read("c.contact") == 1);
    CHECK(b.read("d.in_range") == 0);
    REQUIRE(b.put("a", 1.0, 1));
    b.step();
    CHECK(b.read("c.contact") == 0);
    CHECK(b.read("c.beams_broken") == 6);  // 120 mm: beams at 10, 30 ... 110
    CHECK(b.read("c.height") == Approx(0.11));
    CHECK(b.read("metal.signal") == 1);
    CHECK(b.read("any.signal") == 1);
    CHECK(b.read("d.distance") == Approx(3.0 - 1.05));
    b.drive("r.trigger", 1);
    b.step();
    CHECK(b.read("r.code") == 2380);
    CHECK(b.read("r.good") == 1);
    b.run(0.1 - 0.01);
    CHECK(b.read("w.weight") == Approx(2.0 * (1 - std::exp(-1.0))).epsilon(0.02));
    b.run(1);
    CHECK(b.read("w.weight") == Approx(2.0).epsilon(0.001));
    CHECK(b.read("w.stable") == 1);
    b.drive("a.run", 1);
    b.run(2);
    CHECK(b.read("e.count") == 500);  // 1 m
    CHECK(b.read("w.weight") < 0.01);
    b.put("a", 1.0, 0);
    b.step();
    CHECK(b.read("metal.signal") == 0);  // a brick is no metal
    CHECK(b.read("any.signal") == 1);
}

TEST_CASE("an encoder counts down backwards, below nought") {
    PlantText p = belt_a("-0.5 m/s");
    p.add("encoder.e", {{"on", "a"}, {"pulses_per_metre", "#100"}});
    Bench b(p);
    b.drive("a.run", 1);
    b.run(2);
    CHECK(b.read("e.count") == -100);
}

TEST_CASE("an infeed by list, ratio, feeder and gap") {
    PlantText p = belt_a();
    SUBCASE("in turn") {
        p.add("infeed.in",
              {{"on", "a"}, {"at", "0.2 m"}, {"item", "[brick, brick, tin]"}, {"interval", "1 s"}, {"limit", "#6"}});
        Bench b(p);
        b.drive("a.run", 1);
        b.run(6);
        std::string order;
        for (const plant::Item& i : b.state.items) order += i.type == 0 ? 'b' : 't';
        CHECK(order == "bbtbbt");
    }
    SUBCASE("at random by ratio, the same again from the same seed") {
        p.add("infeed.in", {{"on", "a"},
                            {"at", "0.2 m"},
                            {"item", "[brick, tin]"},
                            {"sequence", "random"},
                            {"ratio", "[#3, #1]"},
                            {"interval", "0.5 s"}});
        p.add("outfeed.out", {{"after", "a"}});
        std::string orders[2];
        int tins = 0;
        for (std::string& order : orders) {
            Bench b(p);
            b.drive("a.run", 1);
            std::uint32_t last = 0;
            for (int n = 0; n < 200 * 200; ++n) {
                b.step();
                const plant::Item& item = b.state.items.back();
                if (item.id == last) continue;
                last = item.id;
                order += item.type == 0 ? 'b' : 't';
                tins += item.type;
            }
        }
        CHECK(orders[0] == orders[1]);
        CHECK(orders[0].size() > 390);
        CHECK(tins / 2.0 == Approx(100).epsilon(0.25));  // a quarter of 400
    }
    SUBCASE("a feeder feeds while it runs") {
        p.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"feed", "running"}, {"interval", "1 s"}});
        Bench b(p);
        b.drive("a.run", 1);
        b.run(3);
        CHECK(b.state.items.empty());
        b.drive("in.run", 1);
        b.run(3.5);
        CHECK(b.read("in.fed") == 4);
    }
    SUBCASE("by gap, turned") {
        p.add(
            "infeed.in",
            {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"feed", "gap"}, {"gap", "300 mm"}, {"angle", "90 deg"}});
        Bench b(p);
        b.drive("a.run", 1);
        b.run(5);
        REQUIRE(b.state.items.size() > 3);
        // Bricks lie across: 100 mm long; measured from the middle of one that lies along, they come 450 mm apart.
        CHECK(b.item(0).x_m - b.item(1).x_m == Approx(b.item(1).x_m - b.item(2).x_m).epsilon(0.01));
        CHECK(b.item(0).x_m - b.item(1).x_m - 0.1 >= 0.3 - 1e-9);
        CHECK(b.item(0).heading.sin == Approx(1.0));
    }
}

// --- liquids and heat ---

TEST_CASE("a tank empties by Torricelli's law") {
    PlantText p = two_tanks();
    p.add("valve.v", {{"from", "high"}, {"bore", "50 mm"}, {"stroke_time", "0 s"}, {"feedback", "end switches"}});
    Bench b(p);
    b.drive("v.open", 1);
    // sqrt(h0) - sqrt(h) = Cd a sqrt(g / 2) t / A
    const double area = std::numbers::pi / 4 * 0.05 * 0.05;
    b.run(100);
    const double root = 1.0 - 0.62 * area * std::sqrt(plant::kGravity_m_s2 / 2) * 100.0 / 1.0;
    CHECK(b.read("high.level") == Approx(root * root).epsilon(0.002));
    CHECK(b.read("v.opened") == 1);
}

TEST_CASE("two tanks with an outlet under the liquid come to one level and stay") {
    PlantText p = two_tanks();
    p.add("valve.v", {{"from", "high"}, {"into", "low"}, {"bore", "200 mm"}, {"outlet", "under the liquid"}});
    Bench b(p);
    b.drive("v.open", 1);
    b.run(120);
    CHECK(b.read("high.level") == Approx(2.0 / 3.0).epsilon(1e-3));
    CHECK(b.read("low.level") == Approx(2.0 / 3.0).epsilon(1e-3));
    CHECK(b.read("high.volume") + b.read("low.volume") == Approx(1.0).epsilon(1e-9));
}

TEST_CASE("two streams mix by volume: concentration and temperature") {
    PlantText p;
    p.add("tank.dye", {{"at", "[0 m, 0 m]"},
                       {"length", "1 m"},
                       {"width", "1 m"},
                       {"depth", "1 m"},
                       {"level", "0.5 m"},
                       {"temperature", "80 degC"},
                       {"concentration", "10 %"}});
    p.add("tank.bath",
          {{"at", "[2 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"level", "0.1 m"}});
    p.add("pump.p", {{"from", "dye"}, {"into", "bath"}, {"flow", "2 l/s"}, {"head", "1000 m"}, {"start_time", "0 s"}});
    Bench b(p);
    b.drive("p.run", 1);
    b.run(50);  // 0.1 m3 to 0.1 m3
    CHECK(b.read("bath.volume") == Approx(0.2).epsilon(0.001));
    CHECK(b.read("bath.concentration") == Approx(5.0).epsilon(0.001));
    CHECK(b.read("bath.temperature") == Approx(50.0).epsilon(0.001));
}

TEST_CASE("a pump by the affinity laws, and running dry") {
    PlantText p = two_tanks();
    p.add("pump.p", {{"from", "high"},
                     {"flow", "1 l/s"},
                     {"head", "8 m"},
                     {"lift", "3 m"},
                     {"control", "setpoint"},
                     {"dry_time", "3 s"},
                     {"start_time", "0 s"}});
    p.add("flow_transmitter.f", {{"through", "p"}, {"range", "2 l/s"}, {"time_constant", "0 s"}});
    Bench b(p);
    b.drive("p.run", 1);
    b.drive("p.speed", 100);
    b.step(2);
    CHECK(b.read("p.flow") == Approx(1e-3 * std::sqrt(1 - 2.0 / 8.0)).epsilon(1e-3));  // 3 m less 1 m of level
    CHECK(b.read("f.flow") == Approx(b.read("p.flow")));
    b.drive("p.speed", 80);
    b.step(2);
    CHECK(b.read("p.flow") == Approx(0.8e-3 * std::sqrt(1 - 2.0 / (8.0 * 0.64))).epsilon(1e-3));
    b.state.liquids[0].volume_m3 = 0.0;
    CHECK(b.until("p.overload_contact", 0, 10) == Approx(3.0).epsilon(0.01));
    b.run(1);
    CHECK(b.read("p.running") == 0);
    CHECK(b.read("high.volume") >= 0.0);
}

TEST_CASE("heat: first-order rise to where power and loss balance") {
    PlantText p;
    p.add("tank.t", {{"at", "[0 m, 0 m]"},
                     {"length", "1 m"},
                     {"width", "1 m"},
                     {"depth", "1 m"},
                     {"level", "0.1 m"},
                     {"cooling_time", "1000 s"}});
    p.add("heater.h", {{"tank", "t"}, {"power", "10 kW"}, {"time_constant", "0 s"}});
    p.add("temperature_transmitter.tt", {{"tank", "t"}, {"time_constant", "0 s"}});
    Bench b(p, 0.05);
    b.drive("h.on", 1);
    b.run(600);
    const double rise = 10e3 * 1000.0 / (0.1 * 998.0 * 4182.0);
    CHECK(b.read("t.temperature") == Approx(20 + rise * (1 - std::exp(-0.6))).epsilon(0.001));
    CHECK(b.read("tt.temperature") == Approx(b.read("t.temperature")));
    b.drive("h.on", 0);
    const double from = b.read("t.temperature");
    b.run(1000);
    CHECK(b.read("t.temperature") == Approx(20 + (from - 20) * std::exp(-1.0)).epsilon(0.001));
}

TEST_CASE("pressure at the bottom, demand, bulk") {
    PlantText p = two_tanks();
    p.add("pressure_transmitter.pt", {{"tank", "high"}, {"range", "0.5 bar"}, {"time_constant", "0 s"}});
    p.add("demand.d", {{"from", "high"}, {"flow", "2 l/s"}, {"swing", "50 %"}, {"period", "10 s"}});
    p.add("hopper.h", {{"at", "[5 m, 0 m]"},
                       {"volume", "100 l"},
                       {"initial", "50 l"},
                       {"outlet_flow", "5 l/s"},
                       {"stroke_time", "0 s"}});
    Bench b(p);
    CHECK(b.read("pt.pressure") == Approx(998.0 * plant::kGravity_m_s2));
    b.drive("h.open", 1);
    b.run(10);
    CHECK(b.read("high.volume") == Approx(1.0 - 0.02).epsilon(0.001));  // a whole swing: the average
    CHECK(b.read("h.content") == Approx(0.0).epsilon(0.001));
    CHECK(b.read("h.empty_contact") == 1);
}

// --- air and motion ---

TEST_CASE("valves of cylinders: spring, memory, centre closed, centre exhausted; and the air that fails") {
    PlantText p;
    p.add("air_supply.air", {{"time_constant", "0 s"}});
    for (const char* valve : {"single solenoid", "double solenoid", "centre closed", "centre exhausted"}) {
        std::string name = valve;
        std::replace(name.begin(), name.end(), ' ', '_');
        p.add("cylinder." + name, {{"stroke", "100 mm"},
                                   {"extend_time", "1 s"},
                                   {"retract_time", "1 s"},
                                   {"valve", valve},
                                   {"air", "air"},
                                   {"load_force", "100 N"}});
    }
    Bench b(p);
    const std::vector<std::string> names{"single_solenoid", "double_solenoid", "centre_closed", "centre_exhausted"};
    const auto positions = [&] {
        std::vector<int> out;
        for (const std::string& n : names) out.push_back(static_cast<int>(std::lround(b.read(n + ".position") * 1000)));
        return out;
    };
    const auto extend = [&](double value) {
        for (const std::string& n : names) b.drive(n + ".extend", value);
    };
    b.drive("air.open", 1);
    extend(1);
    b.run(0.5);
    CHECK(positions() == std::vector<int>{50, 50, 50, 50});
    extend(0);
    b.run(0.2);
    CHECK(positions() == std::vector<int>{30, 70, 50, 30});
    extend(1);
    b.fault("air", "lost");
    b.run(0.2);
    CHECK(b.read("air.pressure_ok") == 0);
    CHECK(positions() == std::vector<int>{10, 70, 50, 30});  // only the spring still moves
}

TEST_CASE("a piston lifts no more than pressure times area") {
    PlantText p;
    p.add("air_supply.air", {{"pressure", "5 bar"}, {"time_constant", "0 s"}});
    for (const char* load : {"950", "1000"}) {
        p.add(fmt::format("cylinder.c{}", load),
              {{"stroke", "100 mm"}, {"air", "air"}, {"bore", "50 mm"}, {"load_force", fmt::format("{} N", load)}});
    }
    Bench b(p);
    b.drive("air.open", 1);
    b.drive("c950.extend", 1);
    b.drive("c1000.extend", 1);
    b.run(1);
    CHECK(b.read("c950.position") == Approx(0.1));  // 5 bar on 50 mm: 982 N
    CHECK(b.read("c1000.position") == 0.0);
}

TEST_CASE("motors and drives: both ways, changing over, ramp, fault and reset") {
    PlantText p;
    p.add("motor.m", {{"starter", "reversing"}, {"start_time", "0.5 s"}});
    p.add("drive.d", {{"ramp_time", "2 s"}});
    p.add("rotary_actuator.r", {{"time", "0.4 s"}});
    p.add("speed_monitor.s", {{"on", "d"}, {"start_time", "1 s"}});
    Bench b(p);
    b.drive("m.forward", 1);
    CHECK(b.until("m.running", 1, 2) == Approx(0.5).epsilon(1e-6));  // to the step
    CHECK(b.read("m.speed") == 100);
    b.drive("m.forward", 0);
    b.drive("m.reverse", 1);
    b.step();
    CHECK(b.read("m.running") == 0);
    b.run(0.6);
    CHECK(b.read("m.speed") == -100);
    b.drive("m.forward", 1);
    b.step();
    CHECK(b.read("m.running") == 0);  // locked out

    b.drive("d.enable", 1);
    b.drive("d.setpoint", -50);
    CHECK(b.until("d.at_speed", 1, 5) == Approx(1.0).epsilon(0.01));
    CHECK(b.read("d.speed") == Approx(-50));
    b.run(1.2);
    CHECK(b.read("s.speed_ok") == 0);  // half speed is too slow
    b.fault("d", "trip");
    b.step();
    CHECK(b.read("d.ready") == 0);
    b.fault("d", "trip", 0);
    b.run(2);
    CHECK(b.read("d.speed") == 0);
    b.drive("d.reset", 1);
    b.run(2);
    CHECK(b.read("d.speed") == Approx(-50));

    b.drive("r.turn", 1);
    CHECK(b.until("r.turned", 1, 2) == Approx(0.4).epsilon(0.02));
}

TEST_CASE("an axis: homing, the trapezoid, limits, following error") {
    PlantText p;
    p.add("axis.x", {{"travel", "2 m"},
                     {"speed", "0.5 m/s"},
                     {"acceleration", "1 m/s2"},
                     {"initial", "0.1 m"},
                     {"homing_speed", "0.05 m/s"}});
    Bench b(p, 0.001);
    b.drive("x.enable", 1);
    b.step();
    CHECK(b.read("x.ready") == 1);
    b.drive("x.move", 1);
    b.step(2);
    CHECK(b.read("x.fault") == 1);  // not homed
    b.drive("x.move", 0);
    b.drive("x.reset", 1);
    b.step(2);
    CHECK(b.read("x.fault") == 0);
    b.drive("x.home", 1);
    CHECK(b.until("x.homed", 1, 5) == Approx(0.1 / 0.05).epsilon(0.04));
    CHECK(b.read("x.low_limit") == 0);
    b.drive("x.target", 1.0);
    b.drive("x.move", 1);
    // 1 m at 0.5 m/s and 1 m/s2: s / v + v / a.
    const double time = b.until("x.in_position", 1, 10);
    CHECK(time == Approx(1.0 / 0.5 + 0.5 / 1.0).epsilon(0.02));
    CHECK(b.read("x.position") == Approx(1.0).epsilon(0.0005));
    // A short way is a triangle: 2 sqrt(s / a).
    b.drive("x.move", 0);
    b.drive("x.target", 1.04);
    b.step();
    b.drive("x.move", 1);
    CHECK(b.until("x.in_position", 1, 10) == Approx(2 * std::sqrt(0.04)).epsilon(0.1));
    b.drive("x.forward", 1);
    b.run(4);
    CHECK(b.read("x.high_limit") == 0);
    CHECK(b.read("x.position") == Approx(2.0).epsilon(0.001));
    b.drive("x.forward", 0);
    b.run(1);
    b.drive("x.reverse", 1);
    b.fault("x", "jammed");
    b.run(1);
    CHECK(b.read("x.fault") == 1);
    CHECK(b.read("x.busy") == 0);
}

// --- people ---

TEST_CASE("what people touch") {
    PlantText p;
    p.add("button.latch", {{"action", "latching"}, {"lamp", "lit"}});
    p.add("pull_cord.cord", {});
    p.add("number_setter.n", {{"low", "#5"}, {"high", "#50"}, {"initial", "#10"}});
    p.add("joystick.j", {});
    p.add("guard_door.d", {{"lock", "locked by power"}});
    p.add("stack_light.s", {});
    p.add("meter.m", {});
    p.add("hour_meter.h", {});
    p.add("selector.k", {{"positions", "[a, b, c, d]"}});
    Bench b(p);
    CHECK(b.read("cord.contact") == 1);
    CHECK(b.read("n.value") == 10);
    b.control("latch", "press");
    b.control("latch", "release");
    b.control("cord", "pull");
    b.control("n", "set", 99);
    b.control("j", "tilt", -60);
    b.control("k", "turn", 3);
    b.drive("latch.lamp", 1);
    b.drive("d.lock", 1);
    b.drive("s.red", 1);
    b.drive("s.green", 1);
    b.drive("m.value", 120);
    b.drive("h.run", 1);
    b.run(1);
    CHECK(b.read("latch.contact") == 1);
    CHECK(b.read("latch.lit") == 1);
    CHECK(b.read("cord.contact") == 0);
    CHECK(b.read("n.value") == 50);
    CHECK(b.read("j.reverse") == 1);
    CHECK(b.read("j.deflection") == -60);
    CHECK(b.read("k.contact_3") == 1);
    CHECK(b.read("k.contact_1") == 0);
    CHECK(b.read("d.locked") == 1);
    CHECK(b.read("s.lit") == 5);
    CHECK(b.read("m.shown") == 100);
    CHECK(b.read("h.run_time") == Approx(1.0));
    b.control("d", "open");
    b.run(0.5);
    CHECK(b.read("d.closed") == 1);  // bolted
    b.drive("d.lock", 0);
    b.run(0.5);
    CHECK(b.read("d.closed") == 0);
    b.fault("d", "bypassed");
    b.control("latch", "press");
    b.step();
    CHECK(b.read("d.closed") == 1);
    CHECK(b.read("latch.contact") == 0);
}

// --- defects of points ---

TEST_CASE("each defect of a point shows what it should, and healing shows the truth again") {
    PlantText p = two_tanks();
    p.add("level_transmitter.lt", {{"tank", "high"}, {"range", "2 m"}, {"time_constant", "0 s"}}).add("button.b", {});
    Bench b(p);
    const int level = b.model->find_point("lt.level"), contact = b.model->find_point("b.contact");
    const auto shows = [&](int point, plant::Defect defect, double amount, double seconds) {
        plant::set_point_fault(*b.model, b.state, point, defect, amount);
        b.run(seconds);
        const double out = b.state.shown(point);
        plant::heal_point(*b.model, b.state, point);
        return out;
    };
    using plant::Defect;
    b.run(0.1);
    CHECK(shows(level, Defect::Stuck, 1.7, 0.1) == 1.7);
    CHECK(shows(level, Defect::OpenWire, 0, 0.1) == Approx(-0.5));  // 0 mA of 4 to 20 mA over 0 to 2 m
    CHECK(shows(level, Defect::Short, 0, 0.1) == Approx(2.3));
    CHECK(shows(level, Defect::Offset, 0.25, 0.1) == Approx(1.25));
    CHECK(shows(level, Defect::Gain, 1.1, 0.1) == Approx(1.1));
    CHECK(shows(level, Defect::Drift, 0.01, 10) == Approx(1.1).epsilon(0.001));
    CHECK(std::abs(shows(level, Defect::Noise, 0.1, 0.1) - 1.0) <= 0.1);
    CHECK(b.state.shown(level) == 1.0);
    b.control("b", "press");
    b.step();
    CHECK(shows(contact, Defect::OpenWire, 0, 0.1) == 0);
    b.control("b", "release");
    b.step();
    CHECK(shows(contact, Defect::Short, 0, 0.1) == 1);
    // Late by 0.3 s.
    plant::set_point_fault(*b.model, b.state, contact, Defect::Delay, 0.3);
    b.control("b", "press");
    CHECK(b.until("b.contact", 1, 2) == Approx(0.3).epsilon(0.03));
    plant::heal_point(*b.model, b.state, contact);
    // Chatter flips every 20 ms.
    plant::set_point_fault(*b.model, b.state, contact, Defect::Chatter, 0.02);
    int changes = 0;
    for (double last = 1; changes < 1000;) {
        if (b.time_s > 1e6) break;
        b.step();
        const double now = b.read("b.contact");
        if (now != last) ++changes;
        last = now;
        if (changes == 25) break;
    }
    CHECK(changes == 25);
}

TEST_CASE("noise spreads evenly and follows the seed") {
    double sum[2] = {0, 0}, square = 0;
    for (double& s : sum) {
        PlantText p = two_tanks();
        p.add("level_transmitter.lt", {{"tank", "high"}, {"time_constant", "0 s"}, {"range", "2 m"}});
        Bench b(p);
        plant::set_point_fault(*b.model, b.state, b.model->find_point("lt.level"), plant::Defect::Noise, 0.1);
        for (int n = 0; n < 4000; ++n) {
            b.step();
            const double off = b.read("lt.level") - 1.0;
            s += off;
            square += off * off / 8000;
        }
    }
    CHECK(sum[0] == sum[1]);
    CHECK(std::abs(sum[0] / 4000) < 0.005);
    CHECK(square == Approx(0.01 / 3).epsilon(0.05));  // of an even spread: a squared over three
}

TEST_CASE("faults for a time, at every third signal, and at random") {
    PlantText p = belt_a();
    p.add("photoeye.e", {{"on", "a"}, {"at", "2 m"}}).add("motor.m", {});
    p.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "2 s"}});
    p.add("outfeed.out", {{"after", "a"}});
    Bench b(p);
    const plant::FaultTiming third{3, 0, 0}, brief{0, 0, 0.5}, now_and_then{0, 10.0, 1.0};
    const int eye = b.model->find_point("e.signal");
    plant::set_point_fault(*b.model, b.state, eye, plant::Defect::Stuck, 0, third);
    b.drive("a.run", 1);
    int passed = 0, seen = 0;
    double last_blocked = 0, last_signal = 0;
    for (int n = 0; n < 60 * 200; ++n) {
        b.step();
        passed += b.read("e.blocked") > last_blocked ? 1 : 0;
        seen += b.read("e.signal") > last_signal ? 1 : 0;
        last_blocked = b.read("e.blocked");
        last_signal = b.read("e.signal");
    }
    CHECK(passed > 25);
    CHECK(seen == passed - passed / 3);
    CHECK(plant::active_faults(*b.model, b.state)[0] == "e.signal stuck off every 3");
    plant::heal_all(*b.model, b.state);

    plant::set_point_fault(*b.model, b.state, eye, plant::Defect::Stuck, 1, brief);
    b.run(0.4);
    CHECK(b.read("e.signal") == 1);
    b.run(0.2);
    CHECK(plant::active_faults(*b.model, b.state).empty());

    const auto* jam = base::at(b.model->devices, b.device("a")).kind->find_fault("jammed");
    plant::set_fault(*b.model, b.state, b.device("a"), *jam, 1.0, now_and_then);
    int jams = 0, still = 0;
    double last = 0.5;
    for (int n = 0; n < 1000 * 200; ++n) {
        b.step();
        const double speed = b.read("a.speed");
        jams += speed == 0 && last != 0 ? 1 : 0;
        still += speed == 0 ? 1 : 0;
        last = speed;
    }
    CHECK(jams == Approx(1000.0 / 11.0).epsilon(0.3));  // 10 s between them on average, 1 s each
    CHECK(still * 0.005 / jams == Approx(1.0).epsilon(0.02));
    plant::heal_device(*b.model, b.state, b.device("a"));
    b.step();
    CHECK(b.read("a.speed") == 0.5);
}

TEST_CASE("hands shift, turn and swap items, where there is room") {
    Bench b(belt_a());
    const int a = b.device("a");
    b.put("a", 1.0);
    b.put("a", 1.5);
    CHECK(plant::shift_item(*b.model, b.state, a, 1.0, {0.1, 0.05}));
    CHECK(b.item(0).x_m == Approx(1.1));
    CHECK(b.item(0).y_m == Approx(0.05));
    CHECK_FALSE(plant::shift_item(*b.model, b.state, a, 1.0, {0.35, -0.05}));
    CHECK(plant::turn_item(*b.model, b.state, a, 1.5, std::numbers::pi / 2));
    CHECK(b.item(1).heading.sin == 1.0);
    CHECK(plant::swap_item(*b.model, b.state, a, 1.5, 1));
    CHECK(b.model->form_of(b.item(1)).height_m == 0.12);
    CHECK(b.model->type_of(b.item(1)).code == 2380);
}
