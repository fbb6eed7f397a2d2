#include <cmath>
#include <random>

#include "core/plant/tuning.hpp"
#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

PlantText one_belt(const std::string& speed = "0.5 m/s") {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"speed", speed}});
    return p;
}

/// No two items, and no item and solid, overlap by more than a millimetre in all three directions.
void check_no_overlap(const Bench& b) {
    constexpr double kAllowed_m = 0.001;
    for (std::size_t i = 0; i < b.state.items.size(); ++i) {
        const plant::Item& x = b.state.items[i];
        for (std::size_t j = i + 1; j < b.state.items.size(); ++j) {
            const plant::Item& y = b.state.items[j];
            const bool apart_in_height =
                b.model->top_m(x) <= y.z_m + kAllowed_m || b.model->top_m(y) <= x.z_m + kAllowed_m;
            CHECK((apart_in_height || !plant::overlap(b.model->footprint(x), b.model->footprint(y), kAllowed_m)));
        }
    }
}

}  // namespace

TEST_CASE("travel time on a belt is way over speed, within one step") {
    Bench b(one_belt("0.30 m/s").add("photoeye.eye", {{"on", "a"}, {"at", "4 m"}}));
    REQUIRE(b.put("a", 0.5));
    b.drive("a.run", 1);
    // The front edge (0.1 m before the middle) reaches the beam: 3.4 m at 0.30 m/s.
    CHECK(b.until("eye.signal", 1, 30) == doctest::Approx(3.4 / 0.30).epsilon(0).scale(1).epsilon(0.006));
    // It stays broken for the item's length.
    CHECK(b.until("eye.signal", 0, 5) == doctest::Approx(0.2 / 0.30).epsilon(0.01));
}

TEST_CASE("halving the step changes an arrival by less than two of the larger steps") {
    double arrival[2];
    int n = 0;
    for (const double step : {0.010, 0.005}) {
        Bench b(one_belt("0.37 m/s").add("photoeye.eye", {{"on", "a"}, {"at", "4 m"}}), step);
        b.put("a", 0.3);
        b.drive("a.run", 1);
        arrival[n++] = b.until("eye.signal", 1, 30);
    }
    CHECK(std::abs(arrival[0] - arrival[1]) < 2 * 0.010);
}

TEST_CASE("an item passes between belts of different speed; the time adds up") {
    PlantText p = one_belt("0.5 m/s");
    p.add("belt.b", {{"after", "a"}, {"length", "2 m"}, {"speed", "0.2 m/s"}})
        .add("photoeye.eye", {{"on", "b"}, {"at", "1.1 m"}});
    Bench b(p);
    b.put("a", 4.0);
    b.drive("a.run", 1);
    b.drive("b.run", 1);
    // Its middle goes 1 m at 0.5, then 1 m at 0.2.
    CHECK(b.until("eye.signal", 1, 20) == doctest::Approx(1.0 / 0.5 + 1.0 / 0.2).epsilon(0.005));
    CHECK(b.state.items.size() == 1);
}

TEST_CASE("a belt that stands still, or is jammed, carries nothing") {
    Bench b(one_belt());
    b.put("a", 1.0);
    b.run(1);
    CHECK(b.item(0).x_m == 1.0);
    b.drive("a.run", 1);
    b.fault("a", "jammed");
    b.run(1);
    CHECK(b.item(0).x_m == 1.0);
    CHECK(b.read("a.speed") == 0);
    b.fault("a", "jammed", 0);
    b.run(1);
    CHECK(b.item(0).x_m == doctest::Approx(1.5));
}

TEST_CASE("belts run in all four directions, and backwards") {
    for (int quarter = 0; quarter < 4; ++quarter) {
        PlantText p;
        p.brick().add("belt.a", {{"at", "[1 m, 2 m]"},
                                 {"heading", fmt::format("{} deg", quarter * 90)},
                                 {"length", "2 m"},
                                 {"speed", "0.5 m/s"}});
        Bench b(p);
        b.put("a", 1.0);
        const plant::Item before = b.item(0);
        b.drive("a.run", 1);
        b.run(1);
        const plant::Vector2 d = plant::Heading::quarter(quarter).ahead();
        CHECK(b.item(0).x_m - before.x_m == doctest::Approx(0.5 * d.x_m));
        CHECK(b.item(0).y_m - before.y_m == doctest::Approx(0.5 * d.y_m));
    }
    Bench back(one_belt("-0.5 m/s"));
    back.put("a", 2.0);
    back.drive("a.run", 1);
    back.run(1);
    CHECK(back.item(0).x_m == doctest::Approx(1.5));
}

TEST_CASE("items queue at a raised stopper, touching, and go on together") {
    Bench b(one_belt().add("stopper.stop", {{"on", "a"}, {"at", "4 m"}}));
    for (const double at : {0.3, 0.9, 1.6, 2.6}) REQUIRE(b.put("a", at));
    b.drive("a.run", 1);
    b.drive("stop.raise", 1);
    b.run(12);
    // The blade is 20 mm thick, items 200 mm long.
    for (std::size_t i = 0; i < 4; ++i)
        CHECK(b.item(3 - i).x_m == doctest::Approx(3.99 - 0.1 - 0.2 * static_cast<double>(i)).epsilon(1e-6));
    check_no_overlap(b);
    b.drive("stop.raise", 0);
    b.run(1.15);
    for (std::size_t i = 0; i < 3; ++i) CHECK(b.item(i + 1).x_m - b.item(i).x_m == doctest::Approx(0.2).epsilon(1e-6));
    CHECK(b.item(3).x_m > 4.3);
}

TEST_CASE("a stopper does not rise under an item, but behind it") {
    Bench b(one_belt().add("stopper.stop", {{"on", "a"}, {"at", "2 m"}}));
    b.put("a", 2.0);
    b.drive("stop.raise", 1);
    b.run(1);
    CHECK(b.read("stop.position") == 0);
    b.drive("a.run", 1);
    b.run(1);
    CHECK(b.read("stop.position") == doctest::Approx(0.06));
    CHECK(b.item(0).x_m > 2.2);
}

TEST_CASE("a pusher shoves an item across the belt, at its own speed, and what lies beside too") {
    Bench b(one_belt().add(
        "pusher.push", {{"on", "a"}, {"at", "2 m"}, {"side", "left"}, {"stroke", "300 mm"}, {"extend_time", "0.6 s"}}));
    b.put("a", 2.0);
    b.drive("push.extend", 1);
    b.run(0.3);
    CHECK(b.read("push.position") == doctest::Approx(0.15).epsilon(0.01));
    CHECK(std::abs(b.item(0).y_m) < 1e-12);  // the plate touches it after 150 mm
    b.run(0.3);
    CHECK(b.read("push.position") == doctest::Approx(0.3).epsilon(0.001));
    CHECK(b.item(0).y_m == doctest::Approx(-0.15).epsilon(0.001));
    b.drive("push.extend", 0);
    b.run(0.5);
    CHECK(b.read("push.position") == 0);
    CHECK(b.item(0).y_m == doctest::Approx(-0.15).epsilon(0.001));
}

TEST_CASE("a pusher that pushes against something fixed stops there") {
    PlantText p;
    p.brick().add("belt.a", {{"at", "[0 m, 0 m]"}, {"length", "5 m"}, {"width", "300 mm"}, {"speed", "0.5 m/s"}});
    p.add("pusher.left", {{"on", "a"}, {"at", "2 m"}, {"side", "left"}, {"stroke", "300 mm"}});
    p.add("pusher.right", {{"on", "a"}, {"at", "2 m"}, {"side", "right"}, {"stroke", "300 mm"}});
    Bench b(p);
    b.put("a", 2.0);
    b.drive("left.extend", 1);
    b.drive("right.extend", 1);
    b.run(2);
    // Both plates close on an item of 100 mm: 300 mm of belt less the item.
    CHECK(b.read("left.position") + b.read("right.position") == doctest::Approx(0.2).epsilon(1e-6));
    check_no_overlap(b);
}

TEST_CASE("a jammed pusher stays where it is") {
    Bench b(one_belt().add("pusher.push", {{"on", "a"}, {"at", "2 m"}, {"extend_time", "1 s"}, {"stroke", "400 mm"}}));
    b.drive("push.extend", 1);
    b.run(0.5);
    b.fault("push", "jammed");
    b.run(1);
    CHECK(b.read("push.position") == doctest::Approx(0.2).epsilon(0.01));
}

TEST_CASE("what leaves a belt falls: height over time as in free fall, then it lies on the floor") {
    Bench b(one_belt());
    b.put("a", 4.95);
    b.drive("a.run", 1);
    while (b.item(0).support != plant::kNone) b.step();
    const double start_z = b.item(0).z_m + b.item(0).speed_m_s * b.item(0).speed_m_s / (2 * plant::kGravity_m_s2);
    const double fallen_already = b.item(0).speed_m_s / plant::kGravity_m_s2;
    b.run(0.2);
    const double t = fallen_already + 0.2;
    CHECK(b.item(0).z_m == doctest::Approx(start_z - 0.5 * plant::kGravity_m_s2 * t * t).epsilon(1e-9));
    b.run(1);
    CHECK(b.item(0).z_m == 0.0);
    CHECK(bool{b.item(0).on_floor});
    CHECK(b.read("plant.items_on_floor") == 1);
    CHECK(b.read("plant.items") == 1);
}

TEST_CASE("a chute: way over time as on an inclined plane with friction") {
    PlantText p = one_belt();
    p.add("chute.c", {{"at", "[0 m, 3 m]"}, {"length", "2 m"}, {"drop", "1 m"}, {"friction", "0.2"}});
    Bench b(p);
    b.put("c", 0.1);
    const double slope = std::atan2(1.0, 2.0);
    const double a = plant::kGravity_m_s2 * (std::sin(slope) - 0.2 * std::cos(slope)) * std::cos(slope);
    b.run(0.8);
    CHECK(b.item(0).x_m - 0.1 == doctest::Approx(0.5 * a * 0.8 * 0.8).epsilon(1e-6));
    CHECK(b.item(0).z_m == doctest::Approx(0.8 - b.item(0).x_m / 2).epsilon(0.02));
}

TEST_CASE("an item that is pushed onto a chute goes on at the pusher's speed, and stops where friction says") {
    PlantText p = one_belt();
    p.add("pusher.push",
          {{"on", "a"}, {"at", "2 m"}, {"side", "left"}, {"stroke", "450 mm"}, {"extend_time", "0.45 s"}});
    p.add("chute.c", {{"beside", "a"},
                      {"at", "2 m"},
                      {"side", "right"},
                      {"length", "4 m"},
                      {"drop", "0.4 m"},
                      {"friction", "0.3"},
                      {"width", "600 mm"}});
    Bench b(p);
    b.put("a", 2.0);
    b.drive("push.extend", 1);
    double left_at_m = 0.0, speed_m_s = 0.0;
    for (int i = 0; i < 400; ++i) {
        b.run(0.005);
        if (b.read("push.position") < 0.45) {
            left_at_m = b.item(0).y_m;
            speed_m_s = b.item(0).speed_m_s;
        }
    }
    CHECK(speed_m_s == doctest::Approx(1.0).epsilon(0.05));
    const double slope = std::atan2(0.4, 4.0);
    const double a = plant::kGravity_m_s2 * (0.3 * std::cos(slope) - std::sin(slope)) * std::cos(slope);
    CHECK(std::abs(b.item(0).y_m - left_at_m) == doctest::Approx(speed_m_s * speed_m_s / (2.0 * a)).epsilon(0.05));
}

TEST_CASE("on a flat or rough chute nothing moves") {
    PlantText p = one_belt();
    p.add("chute.c", {{"at", "[0 m, 3 m]"}, {"length", "2 m"}, {"drop", "0.1 m"}, {"friction", "0.4"}});
    Bench b(p);
    b.put("c", 0.5);
    b.run(2);
    CHECK(b.item(0).x_m == 0.5);
}

TEST_CASE("an item falls onto the surface below, not through it") {
    PlantText p = one_belt();
    p.add("belt.low", {{"at", "[4.5 m, 0 m]"}, {"elevation", "0.3 m"}, {"length", "3 m"}, {"speed", "0.1 m/s"}});
    Bench b(p);
    b.put("a", 4.9);
    b.drive("a.run", 1);
    b.run(2);
    CHECK(b.item(0).z_m == doctest::Approx(0.3));
    CHECK(b.item(0).support == base::at(b.model->devices, b.device("low")).surface);
    CHECK(b.read("plant.items_on_floor") == 0);
}

TEST_CASE("an item that falls on another rests on it") {
    PlantText p = one_belt();
    Bench b(p);
    b.put("a", 1.0);
    b.put("a", 2.0);
    b.item(1).x_m = 1.0;
    b.item(1).z_m = 1.2;
    b.item(1).support = plant::kNone;
    b.run(1);
    CHECK(b.item(1).z_m == doctest::Approx(0.8 + 0.08));
    check_no_overlap(b);
}

TEST_CASE("there is no room where an item lies") {
    Bench b(one_belt());
    CHECK(b.put("a", 1.0));
    CHECK_FALSE(b.put("a", 1.1));
    CHECK(b.put("a", 1.2));
    CHECK(b.state.items.size() == 2);
}

TEST_CASE("taking the foremost item, or the nearest to a place") {
    Bench b(one_belt());
    for (const double at : {1.0, 2.0, 3.0}) b.put("a", at);
    CHECK(plant::take_item(*b.model, b.state, b.device("a"), 1.9));
    CHECK(b.state.items.size() == 2);
    CHECK(b.item(1).x_m == 3.0);
    CHECK(plant::take_item(*b.model, b.state, b.device("a"), std::nullopt));
    CHECK(b.item(0).x_m == 1.0);
    CHECK(plant::take_item(*b.model, b.state, b.device("a"), std::nullopt));
    CHECK_FALSE(plant::take_item(*b.model, b.state, b.device("a"), std::nullopt));
}

TEST_CASE("random lines keep their balance: nothing vanishes, overlaps, or moves without cause") {
    for (std::uint32_t seed = 1; seed <= 12; ++seed) {
        std::mt19937 random(seed);
        const auto below = [&](std::uint32_t n) { return static_cast<int>(random() % n); };
        PlantText p;
        p.brick().add("item.tile", {{"size", "[100 mm, 90 mm, 30 mm]"}});
        p.add("belt.b0", {{"at", "[0 m, 0 m]"},
                          {"heading", fmt::format("{} deg", below(4) * 90)},
                          {"length", "3 m"},
                          {"speed", "0.4 m/s"}});
        p.add("belt.b1", {{"after", "b0"}, {"length", "2 m"}, {"speed", "0.2 m/s"}});
        p.add("belt.b2", {{"after", "b1"}, {"length", "2 m"}, {"speed", "0.6 m/s"}});
        p.add("outfeed.out", {{"after", "b2"}});
        p.add("infeed.in", {{"on", "b0"},
                            {"at", "0.2 m"},
                            {"item", below(2) == 0 ? "brick" : "tile"},
                            {"interval", fmt::format("{} ms", 600 + below(1500))}});
        p.add("stopper.s", {{"on", "b1"}, {"at", "1.5 m"}});
        p.add("pusher.p",
              {{"on", "b2"}, {"at", "1 m"}, {"side", below(2) == 0 ? "left" : "right"}, {"stroke", "250 mm"}});
        Bench b(p);
        int running_changes = 0;
        for (int tenth = 0; tenth < 400; ++tenth) {
            for (const char* point : {"b0.run", "b1.run", "b2.run", "s.raise", "p.extend"}) {
                if (below(6) == 0) b.drive(point, below(4) != 0), ++running_changes;
            }
            std::vector<plant::Item> before = b.state.items;
            const bool idle = b.read("b0.run") == 0 && b.read("b1.run") == 0 && b.read("b2.run") == 0 &&
                              b.read("p.extend") == 0 && b.read("p.position") == 0;
            b.step(20);
            check_no_overlap(b);
            const double fed = b.read("in.fed"), out = b.read("out.counted");
            CHECK(fed - out == static_cast<double>(b.state.items.size()));
            if (!idle) continue;
            for (std::size_t i = 0; i < std::min(before.size(), b.state.items.size()); ++i) {
                if (before[i].support == plant::kNone || before[i].id != b.state.items[i].id) continue;
                CHECK(before[i].x_m == b.state.items[i].x_m);
                CHECK(before[i].y_m == b.state.items[i].y_m);
            }
        }
        CHECK(running_changes > 50);
        CHECK(b.read("in.fed") > 3);
    }
}

TEST_CASE("a copied plant goes the same way to the byte") {
    PlantText p = one_belt();
    p.add("infeed.in", {{"on", "a"}, {"at", "0.2 m"}, {"item", "brick"}, {"interval", "1 s"}});
    p.add("stopper.s", {{"on", "a"}, {"at", "3 m"}});
    Bench b(p);
    b.drive("a.run", 1);
    b.drive("s.raise", 1);
    b.run(5);
    plant::PlantState copy = b.state;
    for (int i = 0; i < 1000; ++i) {
        plant::step(*b.model, b.state);
        plant::step(*b.model, copy);
    }
    REQUIRE(copy.items.size() == b.state.items.size());
    for (std::size_t i = 0; i < copy.items.size(); ++i) {
        CHECK(copy.items[i].x_m == b.state.items[i].x_m);
        CHECK(copy.items[i].id == b.state.items[i].id);
    }
    CHECK(copy.wires == b.state.wires);
}
