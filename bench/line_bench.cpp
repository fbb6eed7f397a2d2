// What a step of the glaze line costs, and where it goes. Each figure stands beside its limit in the same run:
// simulated time against real time, the scan against the same logic as native C++, a session copy against memcpy.
#include <benchmark/benchmark.h>

#include <cstring>

#include "core/procedure/run.hpp"
#include "core/trace/recorder.hpp"
#include "native_line.hpp"
#include "yards.hpp"

namespace vyard::bench {

namespace {

/// Started and warm: several bricks on the line.
session::Session running_line() {
    session::Session s(glaze_line().model);
    const auto& plant = *glaze_line().model->plant;
    const auto control = [&](const char* device, const char* verb, double value) {
        const int d = plant.find_device(device);
        s.use_control(d, *base::at(plant.devices, d).kind->find_control(verb), value);
    };
    control("panel.mode", "turn", 1);
    for (int i = 0; i < 4; ++i) s.step();
    control("panel.start", "press", 0);
    for (int i = 0; i < 40; ++i) s.step();
    control("panel.start", "release", 0);
    while (s.now() < base::Nanoseconds(40'000'000'000)) s.step();
    VYARD_CHECK(s.plant().items.size() >= 2);
    return s;
}

void report_real_time(benchmark::State& state, double simulated_s) {
    state.counters["times_real_time"] = benchmark::Counter(simulated_s, benchmark::Counter::kIsRate);
}

/// The measure: unattended, tracing on, 60 s of the running line each turn.
void BM_LineTraced(benchmark::State& state) {
    const session::Session warm = running_line();
    double simulated_s = 0;
    for (auto _ : state) {
        session::Session s = warm;
        trace::Trace trace;
        trace::Recorder recorder(s, trace::usual_channels(*glaze_line().model), {&trace});
        for (int i = 0; i < 12'000; ++i) {
            s.step();
            recorder.observe(s);
        }
        recorder.finish(s);
        VYARD_CHECK(s.controller(0).running && trace.change_count() > 100);
        simulated_s += 60.0;
    }
    report_real_time(state, simulated_s);
}
BENCHMARK(BM_LineTraced)->Unit(benchmark::kMillisecond);

void BM_LineUntraced(benchmark::State& state) {
    const session::Session warm = running_line();
    double simulated_s = 0;
    for (auto _ : state) {
        session::Session s = warm;
        for (int i = 0; i < 12'000; ++i) s.step();
        benchmark::DoNotOptimize(s.now());
        simulated_s += 60.0;
    }
    report_real_time(state, simulated_s);
}
BENCHMARK(BM_LineUntraced)->Unit(benchmark::kMillisecond);

/// A whole proof: procedure, seven rules watched in every scan.
void BM_Prove(benchmark::State& state) {
    base::Diagnostics diagnostics;
    const auto book = procedure::read_book(*glaze_line().model, glaze_line().procedures, diagnostics);
    VYARD_CHECK(book != nullptr);
    double simulated_s = 0;
    for (auto _ : state) {
        session::Session s(glaze_line().model);
        const auto verdict = procedure::run_procedure(book, 0, s, {});
        VYARD_CHECK(verdict.verdict == procedure::Verdict::Passed);
        simulated_s += base::to_seconds(verdict.duration);
    }
    report_real_time(state, simulated_s);
}
BENCHMARK(BM_Prove)->Unit(benchmark::kMillisecond);

void BM_PlantStep(benchmark::State& state) {
    const session::Session warm = running_line();
    plant::PlantState plant = warm.plant();
    int n = 0;
    for (auto _ : state) {
        plant::step(*glaze_line().model->plant, plant);
        if (++n % 1000 == 0) plant = warm.plant();  // no controller is here to empty the line
    }
}
BENCHMARK(BM_PlantStep);

void BM_TransportOnly(benchmark::State& state) {
    const session::Session warm = running_line();
    plant::PlantState plant = warm.plant();
    for (auto _ : state) plant::advance_transport(*glaze_line().model->plant, plant, 0.005);
}
BENCHMARK(BM_TransportOnly);

void BM_Scan(benchmark::State& state) {
    const session::Session warm = running_line();
    controller::ControllerState c = warm.controller(0);
    base::Nanoseconds now = warm.now();
    for (auto _ : state) controller::solve(glaze_line().model->controllers[0], c, now += base::Nanoseconds(10'000'000));
}
BENCHMARK(BM_Scan);

void BM_ScanNative(benchmark::State& state) {
    NativeLine line;
    line.start_pb = true;
    std::int64_t now = 0;
    for (auto _ : state) {
        line.scan(now += 10'000'000);
        benchmark::ClobberMemory();
    }
    VYARD_CHECK(line.line_run);
}
BENCHMARK(BM_ScanNative);

void BM_Wiring(benchmark::State& state) {
    const session::Session warm = running_line();
    std::vector<controller::ControllerState> states = {warm.controller(0)};
    std::vector<wiring::OddOutput> odd;
    plant::PlantState plant = warm.plant();
    wiring::RackState rack = wiring::power_up(glaze_line().model->wiring);
    for (auto _ : state) {
        wiring::sample(glaze_line().model->wiring, 0, plant, {}, rack, states[0]);
        wiring::put_outputs(glaze_line().model->wiring, states, {}, rack, plant, odd);
    }
}
BENCHMARK(BM_Wiring);

void BM_SessionCopy(benchmark::State& state) {
    const session::Session warm = running_line();
    for (auto _ : state) {
        session::Session copy = warm;
        benchmark::DoNotOptimize(copy);
    }
}
BENCHMARK(BM_SessionCopy);

/// The limit of a copy: the same bytes in one block.
void BM_SessionCopyLimit(benchmark::State& state) {
    const session::Session warm = running_line();
    const auto& p = warm.plant();
    const std::size_t bytes = warm.controller(0).memory.size() + p.devices.size() + p.wires.size() * sizeof(double) +
                              p.extension_m.size() * sizeof(double) + p.items.size() * sizeof(plant::Item);
    const std::vector<std::byte> from(bytes);
    for (auto _ : state) {
        std::vector<std::byte> copy = from;
        benchmark::DoNotOptimize(copy.data());
    }
    state.counters["bytes"] = static_cast<double>(bytes);
}
BENCHMARK(BM_SessionCopyLimit);

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
