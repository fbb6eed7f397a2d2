// The open XML: a project of 500 units (ladder, blocks, text) is written and read, beside reading the same from text.
// The limit stated is "well under a second" for several hundred units.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <string>

#include "core/logic/logic.hpp"
#include "files/exchange/exchange.hpp"

namespace vyard::bench {

namespace {

constexpr int kUnits = 500;

const base::SourcePtr& text() {
    static const base::SourcePtr made = [] {
        std::string out;
        for (int i = 0; i < kUnits; ++i) {
            out += fmt::format(
                "FUNCTION_BLOCK unit_{}\nVAR_INPUT\n    start, stop, ready : BOOL; // wired\n    level : INT;\n"
                "END_VAR\nVAR_OUTPUT\n    run, lamp : BOOL;\nEND_VAR\nVAR\n    delay : TON;\nEND_VAR\n",
                i);
            switch (i % 3) {
                case 0:
                    out +=
                        "LADDER\n// Seal-in.\nrung: (start OR run) AND NOT stop AND ready -> run\n// The lamp "
                        "follows.\n"
                        "rung: run AND level > 80 -> lamp, (S) lamp\nEND_LADDER\n";
                    break;
                case 1:
                    out +=
                        "FBD\n           +-----+\nstart -----| AND |---- run\nready -----|     |\n           "
                        "+-----+\n\n"
                        "            delay\n           +-------+\nrun -------|IN    Q|---- lamp\nT#200ms ---|PT     |\n"
                        "           +-------+\nEND_FBD\n";
                    break;
                default:
                    out +=
                        "    run := (start OR run) AND NOT stop AND ready;\n    delay(IN := run, PT := T#200ms);\n    "
                        "IF "
                        "level > 80 THEN lamp := delay.Q; ELSE lamp := FALSE; END_IF;\n";
            }
            out += "END_FUNCTION_BLOCK\n\n";
        }
        return base::make_source("units.st", out);
    }();
    return made;
}

std::string xml() {
    base::Diagnostics diagnostics;
    return files::write_exchange("units", {text()}, diagnostics);
}

/// The limit of what reading can cost: the same units from text, drawings read.
void BM_Units_Text(benchmark::State& state) {
    for (auto _ : state) {
        base::Diagnostics diagnostics;
        benchmark::DoNotOptimize(logic::parse_file(text(), diagnostics));
        benchmark::DoNotOptimize(logic::drawings_of(text(), diagnostics));
    }
}
BENCHMARK(BM_Units_Text)->Unit(benchmark::kMillisecond);

void BM_Units_Written(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(xml());
}
BENCHMARK(BM_Units_Written)->Unit(benchmark::kMillisecond);

void BM_Units_Read(benchmark::State& state) {
    const base::SourcePtr source = base::make_source("units.xml", xml());
    for (auto _ : state) {
        base::Diagnostics diagnostics;
        const base::SourcePtr read = files::read_exchange(source, diagnostics);
        if (read == nullptr) state.SkipWithError("the project cannot be read");
        benchmark::DoNotOptimize(read);
    }
    state.counters["bytes"] = static_cast<double>(source->text.size());
}
BENCHMARK(BM_Units_Read)->Unit(benchmark::kMillisecond);

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
