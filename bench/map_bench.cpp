// The map of a large yard: 3,000 points on 40 modules, 5,000 tags. The limits: proposing 2 s, an applied join 15 ns a
// scan; `vyard check` on such a yard 1 s (compile, plant and map are measured here one by one, and together).
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include "core/session/session_state.hpp"
#include "core/wiring/proposal.hpp"

namespace {

using namespace vyard;

constexpr int kStations = 500;  ///< Of six points each.

std::string logic_text() {
    std::string text = "VAR_GLOBAL\n";
    for (int s = 0; s < kStations; ++s) {
        text += fmt::format(
            "    St{0}_StartPB AT %IX{1}.0 : BOOL;\n    St{0}_MtrFbk AT %IX{1}.1 : BOOL;\n    St{0}_MtrOvl AT %IX{1}.2 "
            ": "
            "BOOL;\n    St{0}_Eye AT %IX{1}.3 : BOOL;\n    St{0}_MtrRun AT %QX{1}.0 : BOOL;\n    St{0}_RunLamp AT "
            "%QX{1}.1 : BOOL;\n    st{0}_step : INT;\n    st{0}_count : DINT;\n    st{0}_busy : BOOL;\n    st{0}_alarm "
            ": BOOL;\n",
            s, s);
    }
    text += "END_VAR\nPROGRAM main\n";
    for (int s = 0; s < kStations; ++s)
        text += fmt::format(
            "    St{0}_MtrRun := (St{0}_MtrRun OR St{0}_StartPB) AND St{0}_MtrOvl AND NOT st{0}_alarm;\n"
            "    St{0}_RunLamp := St{0}_MtrFbk;\n    IF St{0}_Eye THEN st{0}_count := st{0}_count + 1; END_IF;\n"
            "    st{0}_busy := st{0}_step > 0;\n    st{0}_step := st{0}_step;\n    st{0}_alarm := FALSE;\n",
            s);
    return text + "END_PROGRAM\n";
}

plant::PlantDefinition plant_of() {
    plant::PlantDefinition definition;
    const auto text = [](const std::string& t) {
        plant::DefinitionValue v;
        v.form = plant::DefinitionValue::Form::Text;
        v.text = t;
        return v;
    };
    const auto list = [&](const std::string& x, const std::string& y) {
        plant::DefinitionValue v;
        v.form = plant::DefinitionValue::Form::List;
        v.list = {text(x), text(y)};
        return v;
    };
    for (int s = 0; s < kStations; ++s) {
        const std::string station = fmt::format("station_{}", s);
        const auto add = [&](const char* kind, const std::string& name, std::vector<plant::DefinitionKey> keys) {
            plant::DeviceDefinition d;
            d.kind = kind;
            d.name = station + "." + name;
            d.keys = std::move(keys);
            definition.devices.push_back(std::move(d));
        };
        add("button", "start", {});
        add("motor", "motor", {});
        add("lamp", "running", {});
        add("belt", "belt",
            {{"at", {}, list(fmt::format("{} m", s % 100 * 3), fmt::format("{} m", s / 100 * 2))},
             {"length", {}, text("2 m")},
             {"speed", {}, text("0.3 m/s")},
             {"driven_by", {}, text(station + ".motor")}});
        add("photoeye", "eye", {{"on", {}, text(station + ".belt")}, {"at", {}, text("1 m")}});
    }
    return definition;
}

struct Hall {
    std::vector<controller::ControllerModel> controllers;
    std::shared_ptr<const plant::PlantModel> plant;
    std::vector<wiring::MapRow> rows;
    std::vector<wiring::Module> rack;
};

Hall make_hall() {
    Hall hall;
    base::Diagnostics diagnostics;
    controller::ControllerModel c;
    c.name = "line";
    c.program = logic::compile({base::make_source("hall.st", logic_text())}, diagnostics);
    hall.plant = plant::build_plant(plant_of(), diagnostics);
    VYARD_CHECK(c.program != nullptr && hall.plant != nullptr);
    hall.controllers.push_back(std::move(c));
    const auto join = [&](int s, const char* tag, const char* point) {
        hall.rows.push_back(
            {fmt::format("St{}_{}", s, tag), {}, fmt::format("station_{}.{}", s, point), {}, "", {}, ""});
    };
    for (int s = 0; s < kStations; ++s) {
        join(s, "StartPB", "start.contact");
        join(s, "MtrFbk", "motor.running");
        join(s, "MtrOvl", "motor.overload_contact");
        join(s, "Eye", "eye.signal");
        join(s, "MtrRun", "motor.run");
        join(s, "RunLamp", "running.on");
    }
    for (int m = 0; m < 40; ++m) {
        wiring::Module module;
        module.name = fmt::format("M{}", m);
        const bool input = m < 20;
        module.kind = input ? wiring::ModuleKind::DigitalInput : wiring::ModuleKind::DigitalOutput;
        module.area = input ? logic::Area::Input : logic::Area::Output;
        module.channels = 32;
        module.first_byte = static_cast<std::uint32_t>(m % 20) * 4;
        hall.rack.push_back(std::move(module));
    }
    return hall;
}

const Hall& hall() {
    static const Hall all = make_hall();
    return all;
}

wiring::Wiring wired(bool racked) {
    base::Diagnostics diagnostics;
    auto out = wiring::build_wiring(hall().rows, hall().controllers, *hall().plant, {}, diagnostics, {},
                                    racked ? hall().rack : std::vector<wiring::Module>{});
    VYARD_CHECK(!diagnostics.has_errors());
    VYARD_CHECK(out.inputs.size() + out.outputs.size() == static_cast<std::size_t>(kStations) * 6);
    return out;
}

void BM_LoadLargeYard(benchmark::State& state) {
    for (auto _ : state) {
        Hall h = make_hall();
        base::Diagnostics diagnostics;
        benchmark::DoNotOptimize(
            wiring::build_wiring(h.rows, h.controllers, *h.plant, {}, diagnostics, {}, h.rack).inputs.size());
    }
    state.counters["tags"] = static_cast<double>(kStations) * 10;
    state.counters["points"] = static_cast<double>(hall().plant->points.size());
}
BENCHMARK(BM_LoadLargeYard)->Unit(benchmark::kMillisecond);

void BM_BuildMap(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(wired(true).inputs.size());
}
BENCHMARK(BM_BuildMap)->Unit(benchmark::kMillisecond);

void BM_Propose(benchmark::State& state) {
    std::size_t right = 0;
    for (auto _ : state) {
        const auto proposals = wiring::propose(hall().controllers, *hall().plant, {});
        right = 0;
        const wiring::Wiring truth = wired(false);
        for (const wiring::Proposal& p : proposals) {
            const wiring::Join* join = truth.of_point(p.point);
            right += join != nullptr && join->variable == p.variable ? 1U : 0U;
        }
    }
    state.counters["right_share"] = static_cast<double>(right) / static_cast<double>(hall().rows.size());
    VYARD_CHECK(right * 10 > hall().rows.size() * 9);
}
BENCHMARK(BM_Propose)->Unit(benchmark::kMillisecond);

/// Nanoseconds a join, sampled and published once: argument 1 with the rack.
void BM_ApplyMap(benchmark::State& state) {
    const wiring::Wiring w = wired(state.range(0) != 0);
    wiring::RackState rack = wiring::power_up(w);
    plant::PlantState plant = hall().plant->initial;
    controller::ControllerModel model = hall().controllers[0];
    model.outputs = wiring::lay_out_outputs(w, 0, model);
    std::vector<controller::ControllerState> states = {controller::power_up(model)};
    std::vector<wiring::OddOutput> odd;
    controller::solve(model, states[0], {});
    base::Nanoseconds now{};
    for (auto _ : state) {
        now += base::Nanoseconds(10'000'000);
        wiring::sample(w, 0, plant, now, rack, states[0]);
        wiring::put_outputs(w, states, now, rack, plant, odd);
        benchmark::ClobberMemory();
    }
    state.counters["ns_per_join"] =
        benchmark::Counter(static_cast<double>(hall().rows.size()) * 1e-9,
                           benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(BM_ApplyMap)->Arg(0)->Arg(1);

}  // namespace

BENCHMARK_MAIN();
