// What a person at the machine costs: a screen drawn, beside the limit that 20 a second take a tenth of a core; going
// back to any of the last 10 minutes, beside the plain steps of the second that it may have to compute anew, and
// within 50 ms.
#include <benchmark/benchmark.h>

#include <fmt/format.h>

#include <random>

#include "files/yard_file.hpp"
#include "live/screen/screen_front.hpp"

namespace vyard::bench {

namespace {

class StillClock final : public live::Clock {
  public:
    base::Nanoseconds now() override { return base::Nanoseconds(1); }
};

live::Sitting& ten_minutes() {
    static StillClock clock;
    static live::Sitting sitting = [] {
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(VYARD_EXAMPLES "/glaze-line", diagnostics);
        VYARD_CHECK(yard.model != nullptr);
        live::SittingOptions options;
        options.pace = 0.0;
        options.limit = base::Nanoseconds(600'000'000'000);
        return live::Sitting(session::Session(yard.model), clock, options);
    }();
    if (sitting.desk().now().count() == 0) {
        sitting.begin();
        int line = 0;
        for (const char* order : {"watch line_run, dip_step, lift.position, glaze.level",
                                  "turn panel.mode to automatic", "press panel.start for 200 ms"})
            sitting.obey(order, ++line, 1);
        while (sitting.due()) {
            sitting.tick();
            sitting.take_replies();
        }
    }
    return sitting;
}

/// Limit: 5 ms, at 20 a second a tenth of a core.
void BM_ScreenDrawn(benchmark::State& state) {
    live::Sitting& sitting = ten_minutes();
    live::Screen screen(1, "", false);
    base::Nanoseconds now{};
    for (auto _ : state) {
        now += base::Nanoseconds(50'000'000);
        benchmark::DoNotOptimize(screen.draw(sitting, 142, 41, now));
    }
    state.counters["of_limit"] = benchmark::Counter(static_cast<double>(state.iterations()) * 0.005,
                                                    benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(BM_ScreenDrawn)->Unit(benchmark::kMicrosecond);

/// Limit: 50 ms to any moment, in memory of at most 64 MB.
void BM_GoBack(benchmark::State& state) {
    live::Sitting& sitting = ten_minutes();
    std::mt19937 random(1);
    double most_s = 0;
    for (auto _ : state) {
        const auto begin = std::chrono::steady_clock::now();
        sitting.obey(fmt::format("rewind {} ms", random() % 600'000U), 1, 1);
        most_s = std::max(most_s, std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count());
        state.PauseTiming();
        sitting.obey("forward 600 s", 1, 1);
        sitting.take_replies();
        state.ResumeTiming();
    }
    state.counters["most_ms"] = most_s * 1e3;
    state.counters["of_limit"] = benchmark::Counter(static_cast<double>(state.iterations()) * 0.050,
                                                    benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(BM_GoBack)->Unit(benchmark::kMillisecond);

/// Half a second of plain steps, which going back computes anew on average.
void BM_HalfASecondOfSteps(benchmark::State& state) {
    const session::Session warm = ten_minutes().desk().session();
    for (auto _ : state) {
        session::Session s = warm;
        for (int k = 0; k < 100; ++k) s.step();
        benchmark::DoNotOptimize(s.now());
    }
}
BENCHMARK(BM_HalfASecondOfSteps)->Unit(benchmark::kMillisecond);

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
