// What a step of a plant costs, by its size: rings of four belts on which items go round, stoppers that hold them up
// and let them go, eyes that see them, and a controller with 200 rungs. The figures are simulated seconds per second;
// what must hold besides (no overlap, a sane share of items that are held up) is checked in the same run.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <cstring>

#include "core/plant/tuning.hpp"
#include "core/session/build.hpp"
#include "rungs.hpp"

namespace vyard::bench {

namespace {

constexpr double kStep_s = 0.01;

class Yard {
  public:
    Yard(int rings, int items_a_ring, int eyes_a_ring) {
        add("item", "tile", {{"size", {"250 mm", "200 mm", "50 mm"}}});
        for (int r = 0; r < rings; ++r) {
            const int row = r / 16;
            const double x = (r % 16) * 4.0, y = row * 4.0;
            ring(r, x, y, eyes_a_ring);
        }
        session::Definition definition;
        definition.name = "bench";
        definition.step = base::from_seconds(kStep_s);
        definition.plant = definition_;
        definition.map.emplace();
        session::ControllerDefinition c;
        c.name = "line";
        c.logic = {base::make_source("rungs.st", make_rungs(200, "unused").structured_text)};
        definition.controllers.push_back(std::move(c));
        session_ = std::make_unique<session::Session>(session::build_or_die(definition));
        for (int r = 0; r < rings; ++r) fill(r, items_a_ring);
        for (int r = 0; r < rings; ++r) stops_.push_back(this->model().find_point(fmt::format("r{}_stop.raise", r)));
    }

    session::Session& session() { return *session_; }
    const plant::PlantModel& model() const { return *session_->model().plant; }

    /// Stoppers hold for six seconds and let go for two.
    void step() {
        if (steps_++ % 200 == 0) {
            for (std::size_t r = 0; r < stops_.size(); ++r)
                session_->drive(stops_[r], (steps_ / 200 + static_cast<int>(r)) % 4 != 0 ? 1 : 0);
        }
        session_->step();
    }
    void drive(const std::string& point, double value) { session_->drive(model().find_point(point), value); }

  private:
    using Keys = std::vector<std::pair<std::string, std::vector<std::string>>>;

    void add(const std::string& kind, const std::string& name, const Keys& keys) {
        plant::DeviceDefinition d;
        d.kind = kind;
        d.name = name;
        for (const auto& [key, texts] : keys) {
            plant::DefinitionKey k;
            k.name = key;
            k.value.form = texts.size() == 1 ? plant::DefinitionValue::Form::Text : plant::DefinitionValue::Form::List;
            k.value.text = texts[0];
            for (const std::string& text : texts) {
                plant::DefinitionValue part;
                part.form = plant::DefinitionValue::Form::Text;
                part.text = text;
                if (texts.size() > 1) k.value.list.push_back(part);
            }
            d.keys.push_back(std::move(k));
        }
        (kind == "item" ? definition_.items : definition_.devices).push_back(std::move(d));
    }

    void ring(int r, double x, double y, int eyes) {
        const double side = 3.0, early = 0.15;
        const double starts[4][2] = {
            {x - early, y}, {x + side, y - early}, {x + side + early, y + side}, {x, y + side + early}};
        for (int k = 0; k < 4; ++k) {
            add("belt", fmt::format("r{}_{}", r, k),
                {{"at", {fmt::format("{} m", starts[k][0]), fmt::format("{} m", starts[k][1])}},
                 {"heading", {fmt::format("{} deg", 90 * k)}},
                 {"length", {fmt::format("{} m", side + early)}},
                 {"speed", {"0.5 m/s"}}});
        }
        add("stopper", fmt::format("r{}_stop", r), {{"on", {fmt::format("r{}_0", r)}}, {"at", {"2 m"}}});
        for (int e = 0; e < eyes; ++e)
            add("photoeye", fmt::format("r{}_eye{}", r, e),
                {{"on", {fmt::format("r{}_{}", r, e % 4)}}, {"at", {fmt::format("{} m", 0.4 + 0.2 * e)}}});
    }

    void fill(int r, int items) {
        for (int k = 0; k < 4; ++k) drive(fmt::format("r{}_{}.run", r, k), 1);
        for (int n = 0; n < items; ++n) {
            const int belt = model().find_device(fmt::format("r{}_{}", r, n % 4));
            VYARD_CHECK(session_->place_item(0, belt, 0.5 + 0.4 * std::floor(n / 4.0), std::nullopt));
        }
    }

    plant::PlantDefinition definition_;
    std::unique_ptr<session::Session> session_;
    std::vector<int> stops_;
    int steps_ = 0;
};

/// The share of items that a running belt carries and that stood still in a step; fails when any two overlap.
double blocked_share(Yard& yard) {
    const std::vector<plant::Item> before = yard.session().plant().items;
    yard.step();
    const std::vector<plant::Item>& items = yard.session().plant().items;
    VYARD_CHECK(items.size() == before.size());
    int still = 0;
    for (std::size_t i = 0; i < items.size(); ++i) {
        VYARD_CHECK(!items[i].on_floor);
        still += items[i].x_m == before[i].x_m && items[i].y_m == before[i].y_m ? 1 : 0;
        for (std::size_t j = i + 1; j < items.size(); ++j)
            VYARD_CHECK(!plant::overlap(yard.model().footprint(items[i]), yard.model().footprint(items[j]), 0.001));
    }
    return static_cast<double>(still) / static_cast<double>(items.size());
}

/// Rings, items and eyes a ring. A ring has four belts.
void BM_Plant(benchmark::State& state) {
    Yard yard(static_cast<int>(state.range(0)), static_cast<int>(state.range(1)), static_cast<int>(state.range(2)));
    for (int n = 0; n < 2000; ++n) yard.step();
    double share = 0.0;
    for (int n = 0; n < 8; ++n) {
        share += blocked_share(yard) / 8.0;
        for (int k = 0; k < 50; ++k) yard.step();
    }
    VYARD_CHECK(share > 0.05 && share < 0.95);
    for (auto _ : state) yard.step();
    state.counters["times_real_time"] = benchmark::Counter(kStep_s, benchmark::Counter::kIsIterationInvariantRate);
    state.counters["items"] = static_cast<double>(yard.session().plant().items.size());
    state.counters["blocked_share"] = share;
    const plant::Nearby& near = yard.session().plant().near;
    int ordered = 0;
    for (std::size_t i = 0; i < near.listed(); ++i) ordered += near.ordered(i) ? 1 : 0;
    state.counters["ordered_share"] = ordered / state.counters["items"];
}

/// A copy of the whole session against a step of it.
void BM_Copy(benchmark::State& state) {
    Yard yard(static_cast<int>(state.range(0)), static_cast<int>(state.range(1)), static_cast<int>(state.range(2)));
    for (int n = 0; n < 500; ++n) yard.step();
    session::Session copy = yard.session();
    for (auto _ : state) {
        copy = yard.session();
        benchmark::DoNotOptimize(copy.plant().items.data());
    }
    const plant::PlantState& p = yard.session().plant();
    state.counters["bytes"] =
        static_cast<double>(p.devices.size() + sizeof(double) * p.wires.size() + sizeof(plant::Item) * p.items.size() +
                            sizeof(plant::SurfaceState) * p.surfaces.size() +
                            sizeof(plant::SolidState) * p.solids.size() + yard.session().controller(0).memory.size());
}

// 12 belts / 30 items / 30 eyes, 100 / 500 / 300, 1,000 / 5,000 / 3,000.
#define VYARD_SIZES Args({3, 10, 10})->Args({25, 20, 12})->Args({250, 20, 12})
BENCHMARK(BM_Plant)->VYARD_SIZES;
BENCHMARK(BM_Copy)->VYARD_SIZES;

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
