// Trends: axes by unit, what is no number as lanes, no peak lost however long the trace is, traces from files.
#include "figures/trend.hpp"

#include "files/trace_files.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

/// One channel of numbers, as a trace that was kept has it.
trace::Trace trace_of(const std::vector<std::pair<std::int64_t, double>>& values) {
    trace::Channel channel;
    channel.name = "level";
    channel.signal.controller = 0;
    channel.signal.type = logic::Elementary::Lreal;
    trace::Trace out;
    out.begin({channel}, Nanoseconds(0));
    for (const auto& [at_us, value] : values)
        out.change(Nanoseconds(at_us * 1000), 0, logic::value_of(logic::Elementary::Lreal, value));
    out.end(Nanoseconds(values.back().first * 1000));
    return out;
}

/// The heights that a figure's curves reach, from all numbers of its paths.
std::pair<double, double> reach(const std::string& svg) {
    double top = 1e9, bottom = -1e9;
    for (std::size_t at = svg.find(" points=\""); at != std::string::npos; at = svg.find(" points=\"", at + 1)) {
        std::string points = svg.substr(at + 9, svg.find('"', at + 9) - at - 9);
        std::replace(points.begin(), points.end(), ',', ' ');
        std::istringstream in(points);
        std::vector<double> numbers;
        for (std::string word; in >> word;) {
            char* last = nullptr;
            const double v = std::strtod(word.c_str(), &last);
            if (last != word.c_str()) numbers.push_back(v);
        }
        if (numbers.size() < 1000) continue;  // axes and ticks are short
        for (std::size_t i = 1; i < numbers.size(); i += 2) {
            top = std::min(top, numbers[i]);
            bottom = std::max(bottom, numbers[i]);
        }
    }
    return {top, bottom};
}

}  // namespace

TEST_CASE("a trend loses no peak: one sample in half a million still reaches the top") {
    std::vector<std::pair<std::int64_t, double>> values;
    for (std::int64_t k = 0; k < 500'000; ++k)
        values.emplace_back(k * 1000, k == 277'003 ? 10.0 : k == 100'001 ? -10.0 : 0.001 * static_cast<double>(k % 7));
    const trace::Trace trace = trace_of(values);
    figures::TimingView view{"Long", {0}, Nanoseconds(0), trace.end_time()};
    const std::string svg = figures::draw_trend(trace, view)->render("x.svg");
    const auto [top, bottom] = reach(svg);
    CHECK(top == doctest::Approx(86).epsilon(0.01));           // the upper end of the axis
    CHECK(bottom == doctest::Approx(480 - 44).epsilon(0.01));  // and the lower
    CHECK(svg.size() < 400'000);                               // as many points as there are pixels, not samples
    // Zoomed in beside the peaks there is none.
    view.from = Nanoseconds(300'000'000'000);
    const std::string part = figures::draw_trend(trace, view)->render("x.svg");
    CHECK(reach(part).first == doctest::Approx(86).epsilon(0.01));  // 0.006, of an axis of its own
}

TEST_CASE(
    "a trend of a run: an axis for each unit, lanes for the rest; of a kept trace likewise; what cannot be is said") {
    Folder f;
    write_small_yard(f);
    const std::string way = " --do \"place tile on a at 0.2 m\" --do \"press start for 100 ms\" --for 5s";
    const Result r = f.run("draw trend . --watch a.speed,run,see --out t.svg" + way);
    CHECK(r.exit == 0);
    const std::string svg = f.read("t.svg");
    CHECK(svg.starts_with("<?xml"));
    CHECK(f.run("run . --out traces" + way).exit == 0);
    CHECK(f.run("draw trend --trace traces/trace.csv --watch run,see_tile --out u.png").err ==
          "error: a trend needs a number among --watch\n    hint: a timing chart shows BOOLs: draw timing\n");
    CHECK(f.run("run . --watch a.speed --chunks c.vyt" + way).exit == 0);
    CHECK(f.run("draw trend --trace c.vyt --watch a.speed,run --from 1s --to 2s --out u.png").exit == 0);
    CHECK(f.has("u.png"));
    CHECK(f.run("draw timing --trace traces/trace.csv --watch run --out v.png").exit == 0);
    CHECK(contains(f.run("draw trend . --out t.svg").err, "error: a trend needs --watch\n"));
    CHECK(contains(f.run("draw trend --trace traces/trace.csv --watch rum --out v.png").err, "did you mean 'run'?"));
    CHECK(contains(f.run("draw trend --trace none.csv --watch run --out v.png").err, "cannot read none.csv"));
    CHECK(contains(f.run("draw trend . --watch a.speed --from 9s --out t.svg" + way).err, "the trace ends at 5.000 s"));
    f.write("many.csv", "time_s,a,b,c,d,e\n0,1,2,3,4,5\n1,2,3,4,5,6\n");
    CHECK(f.run("draw trend --trace many.csv --watch a,b,c,d --out w.svg").exit == 0);
    CHECK(contains(f.run("draw trend --trace many.csv --watch a,b,c,d,e --out w.svg").err,
                   "these need 5 axes; a trend has 4"));
}
