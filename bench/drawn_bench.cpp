// Ladder against the same logic written as statements: reading and checking a file of 2,000 rungs (the limit stated is
// 0.5 s), a scan of it (within 1.05 of its twin), a scan that counts what it covers (wanted within 1.1 of one that
// does not), and writing all of it in canonical layout.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <string>
#include <vector>

#include "core/controller/controller.hpp"

namespace vyard::bench {

namespace {

constexpr int kRungs = 2000;

std::string declarations() {
    std::string out = "VAR_GLOBAL\n";
    for (int i = 0; i < kRungs; ++i)
        out += fmt::format("start_{0}, stop_{0}, ready_{0}, run_{0}, lamp_{0} : BOOL;\n", i);
    return out + "END_VAR\nPROGRAM p\n";
}

/// One row of a rung, with texts over the middle of its columns.
std::string row(char fill, char rail, const std::vector<std::pair<std::size_t, std::string>>& texts) {
    std::string out(62, fill);
    out.front() = out.back() = rail;
    for (const auto& [middle, text] : texts) out.replace(middle - text.size() / 2, text.size(), text);
    return out + "\n";
}

/// A seal-in each, and every fourth rung splits to two coils.
std::string ladder() {
    std::string out = declarations() + "LADDER\n";
    for (int i = 0; i < kRungs; ++i) {
        const bool two = i % 4 == 0;
        const auto name = [&](const char* text) { return fmt::format("{}_{}", text, i); };
        out += row(' ', '|', {{8, name("start")}, {25, name("stop")}, {38, name("ready")}, {54, name("run")}});
        out += row('-', '+', {{8, "| |"}, {16, "+"}, {25, "|/|"}, {38, "| |"}, {46, two ? "+" : "-"}, {54, "( )"}});
        out += row(' ', '|', {{8, name("run")}, {16, "|"}, {46, two ? "|" : " "}, {54, two ? name("lamp") : ""}});
        std::string last = row(' ', '|', {{53, two ? "+------(/)-----" : ""}});
        out += "+------| |------+" + last.substr(17) + "\n";
    }
    return out + "END_LADDER\nEND_PROGRAM\n";
}

std::string statements() {
    std::string out = declarations();
    for (int i = 0; i < kRungs; ++i) {
        out += fmt::format("run_{0} := (start_{0} OR run_{0}) AND NOT stop_{0} AND ready_{0};\n", i);
        if (i % 4 == 0) out += fmt::format("lamp_{0} := NOT run_{0};\n", i);
    }
    return out + "END_PROGRAM\n";
}

/// Statements with a branch for every second rung, each of which is taken now and then.
std::string branches() {
    std::string out = declarations();
    for (int i = 0; i < kRungs; ++i) {
        out += fmt::format("run_{0} := (start_{0} OR run_{0}) AND NOT stop_{0} AND ready_{0};\n", i);
        if (i % 2 == 0)
            out += fmt::format("IF run_{0} THEN lamp_{0} := TRUE; ELSE lamp_{0} := ready_{0}; END_IF;\n", i);
    }
    return out + "END_PROGRAM\n";
}

std::shared_ptr<const logic::Program> compiled(const std::string& text, bool coverage = false) {
    base::Diagnostics diagnostics;
    auto program = logic::check_program({base::make_source("rungs.st", text)}, diagnostics, coverage).program;
    if (diagnostics.has_errors()) fmt::print(stderr, "{}", diagnostics.render(diagnostics.list().front()));
    VYARD_CHECK(!diagnostics.has_errors());
    return program;
}

void compile(benchmark::State& state, const std::string& text) {
    for (auto _ : state) benchmark::DoNotOptimize(compiled(text).get());
}
BENCHMARK_CAPTURE(compile, ladder, ladder())->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(compile, statements, statements())->Unit(benchmark::kMillisecond);

void scan(benchmark::State& state, const std::string& text) {
    controller::ControllerModel model;
    model.name = "rungs";
    model.program = compiled(text);
    controller::ControllerState now = controller::power_up(model);
    base::Nanoseconds time{};
    for (auto _ : state) controller::solve(model, now, time += base::Nanoseconds(10'000'000));
    VYARD_CHECK(now.running);
}
BENCHMARK_CAPTURE(scan, ladder, ladder())->Unit(benchmark::kMicrosecond);
BENCHMARK_CAPTURE(scan, statements, statements())->Unit(benchmark::kMicrosecond);

BENCHMARK_CAPTURE(scan, branches, branches())->Unit(benchmark::kMicrosecond);

void covered_scan(benchmark::State& state, const std::string& text) {
    controller::ControllerModel model;
    model.name = "rungs";
    model.program = compiled(text, true);
    logic::Coverage coverage(*model.program);
    controller::ControllerState now = controller::power_up(model);
    base::Nanoseconds time{};
    for (auto _ : state) {
        controller::solve(model, now, time += base::Nanoseconds(10'000'000));
        coverage.look(now.memory);
    }
    VYARD_CHECK(now.running);
}
BENCHMARK_CAPTURE(covered_scan, ladder, ladder())->Unit(benchmark::kMicrosecond);
BENCHMARK_CAPTURE(covered_scan, branches, branches())->Unit(benchmark::kMicrosecond);

void format(benchmark::State& state) {
    const base::SourcePtr source = base::make_source("rungs.st", ladder());
    for (auto _ : state) {
        base::Diagnostics diagnostics;
        benchmark::DoNotOptimize(logic::with_drawings_formatted(source, diagnostics));
        VYARD_CHECK(!diagnostics.has_errors());
    }
}
BENCHMARK(format)->Unit(benchmark::kMillisecond);

}  // namespace

}  // namespace vyard::bench

BENCHMARK_MAIN();
