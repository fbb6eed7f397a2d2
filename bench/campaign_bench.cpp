// What a verdict of a campaign on the glaze line costs, against what it cannot be cheaper than without forks: the
// undisturbed run of its procedure from power-up.
//
// BM_Procedures: all procedures once, one after the other; items are runs.
// BM_Stops, BM_Faults: every so many-th job of the campaign, on one thread; items are verdicts. With the limit beside
// them, `of_a_run` is the share of a whole undisturbed run that a verdict takes. A run is linear in its steps, a
// campaign in its jobs.
#include <benchmark/benchmark.h>

#include <chrono>

#include "core/campaign/campaign.hpp"
#include "yards.hpp"

namespace vyard::bench {

namespace {

campaign::Setup setup(std::size_t moments) {
    campaign::Setup out;
    out.model = glaze_line().model;
    base::Diagnostics diagnostics;
    out.book = campaign::with_watch(*glaze_line().model, glaze_line().procedures, diagnostics);
    VYARD_CHECK(out.book != nullptr);
    for (std::size_t i = 0; i + 1 < out.book->procedures.size(); ++i) out.procedures.push_back(i);
    out.alarms = campaign::find_alarms(*glaze_line().model);
    out.moments = moments;
    return out;
}

/// Seconds of one undisturbed run, the mean of all procedures.
double undisturbed_s() {
    static const double seconds = [] {
        const campaign::Setup s = setup(1);
        const auto begin = std::chrono::steady_clock::now();
        int runs = 0;
        for (; runs < 20 || std::chrono::steady_clock::now() - begin < std::chrono::milliseconds(500); ++runs) {
            session::Session session(s.model);
            const std::size_t p = s.procedures[static_cast<std::size_t>(runs) % s.procedures.size()];
            procedure::Run run(s.book, p, session);
            while (run.advance(session)) session.step();
        }
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count() / runs;
    }();
    return seconds;
}

void BM_Procedures(benchmark::State& state) {
    const campaign::Setup s = setup(1);
    std::int64_t runs = 0;
    for (auto _ : state) {
        for (const std::size_t p : s.procedures) {
            session::Session session(s.model);
            procedure::Run run(s.book, p, session);
            while (run.advance(session)) session.step();
            ++runs;
        }
    }
    state.SetItemsProcessed(runs);
}
BENCHMARK(BM_Procedures)->Unit(benchmark::kMillisecond);

void carry_out(benchmark::State& state, const campaign::Campaign& campaign, std::size_t each) {
    const double limit_s = undisturbed_s();
    std::int64_t verdicts = 0;
    const auto begin = std::chrono::steady_clock::now();
    for (auto _ : state) {
        for (std::size_t job = 0; job < campaign.jobs(); job += each, ++verdicts)
            benchmark::DoNotOptimize(campaign.run(job, nullptr).sights.size());
    }
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    state.SetItemsProcessed(verdicts);
    state.counters["of_a_run"] = seconds / static_cast<double>(verdicts) / limit_s;
}

void BM_Stops(benchmark::State& state) {
    const auto campaign = campaign::make_stops(setup(20));
    carry_out(state, *campaign, 7);
}
BENCHMARK(BM_Stops)->Unit(benchmark::kMillisecond);

void BM_Faults(benchmark::State& state) {
    const auto campaign = campaign::make_faults(setup(3));
    carry_out(state, *campaign, 13);
}
BENCHMARK(BM_Faults)->Unit(benchmark::kMillisecond);

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
