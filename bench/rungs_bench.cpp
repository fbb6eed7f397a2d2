// The machine against the same program as C++, compiled by clang++ -O2: 100, 1,000 and 10,000 rungs. Both run in one
// process in interleaved rounds on the same inputs; what is reported are medians, and both must leave the same memory.
// And the compiler: text to program, which must grow in step with the text.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstring>

#include "core/logic/logic.hpp"
#include "rungs.hpp"

extern "C" void native_rungs_100(void* state, long long now);
extern "C" void native_rungs_1000(void* state, long long now);
extern "C" void native_rungs_10000(void* state, long long now);

namespace {

using namespace vyard;

using Native = void (*)(void*, long long);
using Clock = std::chrono::steady_clock;

struct Compiled {
    std::shared_ptr<const logic::Program> program;
    bench::Rungs rungs;
    std::uint32_t state = 0;  ///< Where the program's variables start.
};

Compiled compile(int count) {
    Compiled out;
    out.rungs = bench::make_rungs(count, "unused");
    base::Diagnostics diagnostics;
    out.program = logic::compile({base::make_source("rungs.st", out.rungs.structured_text)}, diagnostics);
    if (out.program != nullptr) out.state = out.program->find("main.x0")->offset;
    return out;
}

/// Changes a tenth of the inputs, other ones in every scan.
void change_inputs(std::byte* state, int inputs, std::uint64_t& random) {
    for (int i = 0; i < inputs / 10 + 1; ++i) {
        random = random * 6364136223846793005ULL + 1442695040888963407ULL;
        state[(random >> 33) % static_cast<std::uint64_t>(inputs)] ^= std::byte{1};
    }
}

/// Nanoseconds a scan.
template <class Scan>
double timed(int scans, std::byte* state, int inputs, std::uint64_t& random, long long& now, Scan&& scan) {
    Clock::duration spent{};
    for (int i = 0; i < scans; ++i) {
        change_inputs(state, inputs, random);
        now += 10'000'000;
        const auto begin = Clock::now();
        scan(now);
        spent += Clock::now() - begin;
    }
    return std::chrono::duration<double, std::nano>(spent).count() / scans;
}

double median(std::vector<double> values) {
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    return values[values.size() / 2];
}

void interpreted_to_native(benchmark::State& bench, Native native) {
    const int count = static_cast<int>(bench.range(0));
    const Compiled c = compile(count);
    if (c.program == nullptr) return bench.SkipWithError("the rungs do not compile");
    std::vector<std::byte> ours = c.program->initial_memory, theirs = c.program->initial_memory;
    std::byte* const our_state = ours.data() + c.state;
    std::byte* const their_state = theirs.data() + c.state;
    const auto entry = c.program->tasks.front().entry;
    const logic::CodeView code = c.program->view();
    const int scans = std::max(20, 200'000 / count);
    std::vector<double> interpreted, direct, ratios;
    std::uint64_t random_ours = 7, random_theirs = 7;
    long long now_ours = 0, now_theirs = 0;
    for (auto _ : bench) {
        for (int round = 0; round < 11; ++round) {
            interpreted.push_back(timed(scans, our_state, c.rungs.inputs, random_ours, now_ours, [&](long long now) {
                benchmark::DoNotOptimize(logic::execute(code, entry, ours.data(), now, 1'000'000'000));
            }));
            direct.push_back(timed(scans, their_state, c.rungs.inputs, random_theirs, now_theirs,
                                   [&](long long now) { native(their_state, now); }));
            ratios.push_back(interpreted.back() / direct.back());
        }
    }
    const std::size_t bytes = c.program->data_end - c.state;
    if (std::memcmp(our_state, their_state, bytes) != 0) return bench.SkipWithError("the memories differ afterwards");
    bench.counters["ratio"] = median(ratios);
    bench.counters["ns_per_rung"] = median(interpreted) / count;
    bench.counters["native_ns_per_rung"] = median(direct) / count;
    bench.counters["code_bytes_per_rung"] =
        static_cast<double>(c.program->code.size() * sizeof(logic::Instruction)) / count;
    bench.counters["state_bytes_per_rung"] = static_cast<double>(bytes) / count;
    bench.counters["scratch_bytes_per_rung"] =
        static_cast<double>(c.program->initial_memory.size() - c.program->data_end) / count;
}

void rungs_100(benchmark::State& bench) {
    interpreted_to_native(bench, native_rungs_100);
}
void rungs_1000(benchmark::State& bench) {
    interpreted_to_native(bench, native_rungs_1000);
}
void rungs_10000(benchmark::State& bench) {
    interpreted_to_native(bench, native_rungs_10000);
}
BENCHMARK(rungs_100)->Arg(100)->Iterations(3)->Unit(benchmark::kMillisecond);
BENCHMARK(rungs_1000)->Arg(1000)->Iterations(3)->Unit(benchmark::kMillisecond);
BENCHMARK(rungs_10000)->Arg(10000)->Iterations(3)->Unit(benchmark::kMillisecond);

/// The text of `count` rungs, each of its statements on lines of its own as people lay them out.
std::string long_text(int count) {
    std::string text = bench::make_rungs(count, "unused").structured_text;
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        out += text[i];
        const bool then = i + 5 <= text.size() && i >= 4 && text.compare(i - 4, 5, " THEN") == 0;
        const bool and_word = i >= 4 && text.compare(i - 3, 4, " AND") == 0;
        if (then || (and_word && out.size() % 2 == 0) || (text[i] == ';' && i + 1 < text.size() && text[i + 1] == ' '))
            out += "\n       ";
    }
    return out;
}

void compile_rungs(benchmark::State& bench) {
    const int count = static_cast<int>(bench.range(0));
    const std::string text = long_text(count);
    const auto source = base::make_source("rungs.st", text);
    for (auto _ : bench) {
        base::Diagnostics diagnostics;
        benchmark::DoNotOptimize(logic::compile({source}, diagnostics));
    }
    bench.counters["lines"] = static_cast<double>(std::count(text.begin(), text.end(), '\n'));
    bench.counters["seconds"] =
        benchmark::Counter(1.0, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(compile_rungs)->Arg(1000)->Arg(10000)->Arg(12000)->Unit(benchmark::kMillisecond);

}  // namespace
