// Random layouts: belts and chutes at any heading and height, plates and blades, stacks. The fast transport must equal
// the plain one to the bit, and keep what no plant may break.
#include <cstring>
#include <random>

#include "core/plain_transport.hpp"
#include "core/plant/clearance.hpp"
#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

class Layout {
  public:
    explicit Layout(std::uint32_t seed, bool machines = false) : random_(seed), machines_(machines) {
        text_.add("item.brick", {{"size", "[200 mm, 100 mm, 80 mm]"}})
            .add("item.tile", {{"size", "[90 mm, 90 mm, 30 mm]"}})
            .add("item.plank", {{"size", "[400 mm, 60 mm, 20 mm]"}});
        const bool straight = below(3) == 0;  // rows of belts that touch exactly
        for (int b = 0; b < kBelts; ++b) {
            const int angle = straight ? 90 * below(4) : below(360);
            text_.add(fmt::format("belt.b{}", b),
                      {{"at", straight ? fmt::format("[{} m, {} m]", below(4), 0.4 * below(8))
                                       : fmt::format("[{} mm, {} mm]", below(3000), below(3000))},
                       {"heading", fmt::format("{} deg", angle)},
                       {"elevation", fmt::format("{} mm", below(3) == 0 ? 500 : 800)},
                       {"length", fmt::format("{} mm", 800 + below(2000))},
                       {"control", reverses(b) ? "reversible" : "on/off"},
                       {"speed", fmt::format("{} mm/s", 100 + below(700))}});
        }
        text_.add("chute.c", {{"at", fmt::format("[{} mm, {} mm]", below(3000), below(3000))},
                              {"heading", fmt::format("{} deg", below(360))},
                              {"length", "1.5 m"},
                              {"drop", "600 mm"}});
        for (int w = 0; w < 4; ++w) {
            text_.add(fmt::format("wall.w{}", w), {{"at", fmt::format("[{} mm, {} mm]", below(3000), below(3000))},
                                                   {"heading", fmt::format("{} deg", below(360))},
                                                   {"elevation", "500 mm"},
                                                   {"height", "500 mm"},
                                                   {"length", "1 m"}});
        }
        for (int s = 0; s < kMovers; ++s) {
            text_.add(fmt::format("stopper.s{}", s), {{"on", fmt::format("b{}", s)}, {"at", "600 mm"}});
            text_.add(fmt::format("pusher.p{}", s), {{"on", fmt::format("b{}", s + kMovers)}, {"at", "400 mm"}});
            text_.add(fmt::format("cylinder.c{}", s), {{"clamps", fmt::format("b{}", s + 2 * kMovers)},
                                                       {"at", "600 mm"},
                                                       {"stroke", "200 mm"},
                                                       {"extend_time", "300 ms"}});
        }
        if (machines_) add_machines();
        for (int b = 0; b < kBelts; ++b)
            text_.add(fmt::format("photoeye.e{}", b), {{"on", fmt::format("b{}", b)}, {"at", "350 mm"}});
    }

    /// What turns, rises and diverts, among the belts.
    void add_machines() {
        const auto somewhere = [&] { return fmt::format("[{} mm, {} mm]", below(3000), below(3000)); };
        for (int n = 0; n < 3; ++n) {
            text_.add(fmt::format("turntable.t{}", n),
                      {{"at", somewhere()}, {"heading", fmt::format("{} deg", below(360))}, {"turn_time", "1 s"}});
            text_.add(fmt::format("lift.l{}", n), {{"at", somewhere()},
                                                   {"elevation", "0.4 m"},
                                                   {"travel", "0.6 m"},
                                                   {"heading", fmt::format("{} deg", below(360))}});
            text_.add(
                fmt::format("diverter.d{}", n),
                {{"on", fmt::format("b{}", n)}, {"at", "400 mm"}, {"angle", fmt::format("{} deg", below(180) - 90)}});
            text_.add(fmt::format("index_table.i{}", n),
                      {{"at", somewhere()}, {"elevation", "0.8 m"}, {"radius", "400 mm"}});
            text_.add(fmt::format("roller_bed.r{}", n),
                      {{"at", somewhere()}, {"heading", fmt::format("{} deg", below(360))}, {"length", "1.5 m"}});
            text_.add(fmt::format("gantry.g{}", n), {{"at", somewhere()},
                                                     {"elevation", "1.2 m"},
                                                     {"x_travel", "1 m"},
                                                     {"y_travel", "1 m"},
                                                     {"z_travel", "0.8 m"}});
        }
    }
    void drive_machines(Bench& b) {
        for (int n = 0; n < 3; ++n) {
            const auto now_and_then = [&](const char* point) {
                if (below(3) == 0) b.drive(fmt::format(fmt::runtime(point), n), below(2));
            };
            for (const char* point : {"t{}.run", "t{}.turn", "l{}.run", "l{}.up", "l{}.down", "d{}.raise", "i{}.index",
                                      "r{}.run", "r{}.release", "g{}.grip"})
                now_and_then(point);
            for (const char* point : {"g{}.x", "g{}.y", "g{}.down"}) {
                if (below(4) == 0) b.drive(fmt::format(fmt::runtime(point), n), 0.01 * below(100));
            }
        }
    }

    int below(int n) { return static_cast<int>(random_() % static_cast<std::uint32_t>(n)); }
    const PlantText& text() const { return text_; }

    void fill(Bench& b, int items = 90) {
        for (int n = 0; n < items; ++n) b.put(fmt::format("b{}", below(kBelts)), 0.001 * below(800), below(3));
        // Some lie on others.
        for (int n = 0; n < 6 && !b.state.items.empty(); ++n) {
            plant::Item top = base::at(b.state.items, below(static_cast<int>(b.state.items.size())));
            top.id = b.state.next_item++;
            top.z_m += b.model->form_of(top).height_m + 0.05 + 0.2 * n;
            top.support = plant::kNone;
            top.heading = plant::Heading::of(0.01 * below(600));
            if (plant::space_is_free(*b.model, b.state, top)) b.state.items.push_back(top);
        }
        b.state.near.forget();
    }
    void drive(Bench& b) {
        for (int n = 0; n < kBelts; ++n) {
            if (below(4) != 0) continue;
            const double on = below(5) != 0 ? 1.0 : 0.0;
            const bool back = reverses(n) && below(3) == 0;
            b.drive(fmt::format(fmt::runtime(reverses(n) ? "b{}.forward" : "b{}.run"), n), back ? 0.0 : on);
            if (reverses(n)) b.drive(fmt::format("b{}.reverse", n), back ? on : 0.0);
        }
        for (int s = 0; s < kMovers; ++s) {
            if (below(3) == 0) b.drive(fmt::format("s{}.raise", s), below(2));
            if (below(3) == 0) b.drive(fmt::format("p{}.extend", s), below(2));
            if (below(3) == 0) b.drive(fmt::format("c{}.extend", s), below(2));
        }
        if (machines_) drive_machines(b);
    }
    static constexpr int kBelts = 12, kMovers = 4;
    static bool reverses(int belt) { return belt % 3 == 2; }

  private:
    std::mt19937 random_;
    bool machines_;
    PlantText text_;
};

bool same_bits(double a, double b) {
    return std::memcmp(&a, &b, sizeof a) == 0;
}

void check_same(const plant::PlantState& a, const plant::PlantState& b) {
    REQUIRE(a.items.size() == b.items.size());
    for (std::size_t i = 0; i < a.items.size(); ++i) {
        const plant::Item &x = a.items[i], &y = b.items[i];
        const bool same = same_bits(x.x_m, y.x_m) && same_bits(x.y_m, y.y_m) && same_bits(x.z_m, y.z_m) &&
                          x.support == y.support && x.below == y.below && x.on_floor == y.on_floor &&
                          same_bits(x.speed_m_s, y.speed_m_s);
        CAPTURE(i);
        REQUIRE(same);
    }
    for (std::size_t s = 0; s < a.solids.size(); ++s) REQUIRE(same_bits(a.solids[s].offset_m, b.solids[s].offset_m));
}

double deepest_overlap_m(const Bench& b) {
    double deepest = 0.0;
    const auto depth = [&](const plant::OrientedBox& one, const plant::OrientedBox& two) {
        double least = 0.0;
        for (double d = 1e-5; d < 0.1 && plant::overlap(one, two, d); d *= 1.5) least = d;
        return least;
    };
    for (std::size_t i = 0; i < b.state.items.size(); ++i) {
        const plant::Item& x = b.state.items[i];
        for (std::size_t j = i + 1; j < b.state.items.size(); ++j) {
            const plant::Item& y = b.state.items[j];
            const bool apart = b.model->top_m(x) <= y.z_m + 0.0021 || b.model->top_m(y) <= x.z_m + 0.0021;
            if (!apart) deepest = std::max(deepest, depth(b.model->footprint(x), b.model->footprint(y)));
        }
    }
    return deepest;
}

}  // namespace

TEST_CASE("the fast transport equals the plain one to the bit on random layouts") {
    int blocked = 0, fell = 0, stacked = 0, held = 0;
    for (std::uint32_t seed = 1; seed <= 36; ++seed) {
        CAPTURE(seed);
        Layout layout(seed);
        Bench fast(layout.text(), 0.01);
        layout.fill(fast, seed <= 24 ? 90 : 6);  // few are held against each other without a grid
        plant::PlantState plain = fast.state;
        for (int n = 0; n < 500; ++n) {
            if (n % 25 == 0) layout.drive(fast);
            plain.wires = fast.state.wires;
            const std::vector<plant::Item> before = fast.state.items;
            fast.step();
            // Both get the same orders to surfaces and solids; only the transport differs.
            plain.surfaces = fast.state.surfaces;
            for (std::size_t s = 0; s < plain.solids.size(); ++s) {
                plain.solids[s].present = fast.state.solids[s].present;
                plain.solids[s].wanted_m = fast.state.scratch.wanted[s];
            }
            for (std::size_t i = 0; i < plain.items.size(); ++i) {
                plain.items[i].held_in = fast.state.items[i].held_in;
                held += fast.state.held(fast.state.items[i]) ? 1 : 0;
            }
            test::PlainTransport(*fast.model, plain).step();
            check_same(fast.state, plain);
            for (std::size_t i = 0; i < before.size(); ++i) {
                const plant::Item& item = fast.state.items[i];
                const bool driven =
                    item.support != plant::kNone && base::at(fast.state.surfaces, item.support).speed_m_s != 0.0;
                blocked += driven && item.x_m == before[i].x_m && item.y_m == before[i].y_m ? 1 : 0;
                stacked += item.below != plant::kNone ? 1 : 0;
            }
        }
        for (const plant::Item& item : fast.state.items) fell += item.on_floor ? 1 : 0;
    }
    CHECK(blocked > 1000);  // or nothing was tried
    CHECK(fell > 50);
    CHECK(stacked > 500);
    CHECK(held > 500);
}

TEST_CASE("lists of neighbours of any age change nothing, for eyes, plates, jaws and what carries") {
    int seen = 0, moved = 0;
    for (std::uint32_t seed = 201; seed <= 216; ++seed) {
        CAPTURE(seed);
        Layout layout(seed, seed % 2 == 0);
        Bench aged(layout.text(), seed % 3 == 0 ? 0.01 : 0.005);
        layout.fill(aged, seed % 4 < 2 ? 90 : 6);
        plant::PlantState fresh = aged.state;
        for (int n = 0; n < 600; ++n) {
            if (n % 40 == 0) layout.drive(aged);
            fresh.wires = aged.state.wires;
            const auto before = aged.state.items;
            aged.step();
            fresh.near.forget();
            plant::step(*aged.model, fresh);
            check_same(aged.state, fresh);
            REQUIRE(aged.state.wires == fresh.wires);
            REQUIRE(aged.state.devices == fresh.devices);
            for (int b = 0; b < Layout::kBelts; ++b) seen += aged.read(fmt::format("e{}.signal", b)) != 0.0 ? 1 : 0;
            moved += before[0].x_m != aged.state.items[0].x_m ? 1 : 0;
        }
    }
    CHECK(seen > 1000);
    CHECK(moved > 500);
}

TEST_CASE("on random layouts nothing vanishes, overlaps or moves without cause") {
    for (std::uint32_t seed = 101; seed <= 140; ++seed) {
        CAPTURE(seed);
        Layout layout(seed, seed % 2 == 0);
        Bench b(layout.text(), 0.01);
        layout.fill(b);
        const std::size_t count = b.state.items.size();
        for (int n = 0; n < 40; ++n) {
            layout.drive(b);
            b.step(20);
            REQUIRE(b.state.items.size() == count);
            REQUIRE(deepest_overlap_m(b) < 0.001);
        }
        // Everything off: after a while all rests, to the bit.
        for (double& wire : b.state.wires) wire = 0;
        b.step(1200);
        const std::vector<plant::Item> rest = b.state.items;
        b.step(50);
        for (std::size_t i = 0; i < count; ++i) {
            CHECK(same_bits(rest[i].x_m, b.state.items[i].x_m));
            CHECK(same_bits(rest[i].y_m, b.state.items[i].y_m));
            CHECK(same_bits(rest[i].z_m, b.state.items[i].z_m));
        }
    }
}

TEST_CASE("boxes that stand at any angle meet where geometry says") {
    const plant::OrientedBox square{{0, 0}, 0.5, 0.5, {}};
    const plant::OrientedBox diamond{{2, 0}, 0.5, 0.5, plant::Heading::of(std::numbers::pi / 4)};
    CHECK(plant::free_way(square, diamond, {1, 0}) == doctest::Approx(2 - 0.5 - std::sqrt(0.5)));
    CHECK(plant::free_way(square, diamond, {-1, 0}) == std::numeric_limits<double>::infinity());
    CHECK(plant::free_way(square, diamond, {0, 1}) == std::numeric_limits<double>::infinity());
    const plant::OrientedBox beside{{1, 0}, 0.5, 0.5, {}};
    CHECK(plant::free_way(square, beside, {1, 0}) == 0.0);
    CHECK(plant::free_way(square, beside, {0, 1}) == std::numeric_limits<double>::infinity());  // slides along it
    CHECK_FALSE(plant::overlap(square, beside, 1e-9));
    CHECK(plant::overlap(square, diamond.moved({-1.1, 0}), 1e-9));
    CHECK(plant::Heading::of(std::numbers::pi / 2) == plant::Heading::quarter(1));
}
