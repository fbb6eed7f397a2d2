#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "cli/drive.hpp"
#include "cli/logic_units.hpp"
#include "core/trace/trace.hpp"
#include "figures/logic_figure.hpp"
#include "figures/plan.hpp"
#include "figures/trend.hpp"
#include "figures/wiring_figures.hpp"
#include "files/trace_chunks.hpp"
#include "files/trace_csv.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// A figure of a run whose orders or procedure failed is drawn all the same; that they failed is said.
int written(const CommandLine& line, const std::string& path, const std::string& figure, const Drive& way) {
    if (!write_result(line, path, figure)) return kOurFault;
    print_verdicts(line, way);
    return passed(way) ? kWell : kFailed;
}

int draw_plan_of(const CommandLine& line, const Loaded& loaded, Drive& way, const std::string& path) {
    const auto at = line.quantity("at", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    if (!at) return kWrongCall;
    const session::Session session =
        session_at(way, loaded.yard.model, line.has("at") ? std::optional(base::from_seconds(*at)) : std::nullopt);
    return written(line, path, figures::draw_plan(session, {.title = title_of(line, loaded)})->render(path), way);
}

int draw_logic_of(const CommandLine& line, const Loaded& loaded, Drive& way, const std::string& path) {
    const auto units = units_for(*loaded.yard.model, fmt::format("{}", fmt::join(line.list("unit"), ",")), false);
    if (!units) return kWrongCall;
    std::optional<trace::CoverageWatch> watch;
    if (line.has("coverage")) watch.emplace(*loaded.yard.model);
    const auto seen = moments(line, way, loaded.yard.model, [&](const session::Session& s) {
        if (watch) watch->observe(s);
    });
    if (!seen) return kWrongCall;
    figures::LogicFigure what;
    what.title = title_of(line, loaded);
    what.state = line.has("at") || line.has("do") || line.has("procedure") || line.has("for") || line.has("until");
    what.addresses = line.has("addresses");
    what.descriptions = line.has("descriptions");
    what.before = seen->before ? &*seen->before : nullptr;
    what.coverage = watch ? &watch->coverages() : nullptr;
    return written(line, path, figures::draw_logic(seen->now, *units, what)->render(path), way);
}

/// A timing chart or a trend of a trace; a report when it cannot be one.
int draw_trace(const CommandLine& line, const std::string& what, const trace::Trace& trace,
               const figures::TimingView& view, const std::string& path, const Drive* way) {
    if (view.to <= view.from)
        return wrong_call(fmt::format("the trace ends at {}; there is nothing between --from and --to",
                                      base::clock_text(trace.end_time())),
                          way != nullptr ? "give --for, --procedure or --do" : "choose --from before that");
    if (what == "trend") {
        const std::size_t axes = figures::axes_of(trace, view);
        if (axes == 0)
            return wrong_call("a trend needs a number among --watch", "a timing chart shows BOOLs: draw timing");
        if (axes > figures::kMostAxes)
            return wrong_call(fmt::format("these need {} axes; a trend has {}", axes, figures::kMostAxes),
                              "draw those of a unit together, and the others apart");
    }
    const std::string figure = what == "trend" ? figures::draw_trend(trace, view)->render(path)
                                               : figures::draw_timing(trace, view)->render(path);
    if (way != nullptr) return written(line, path, figure, *way);
    return write_result(line, path, figure) ? kWell : kOurFault;
}

/// The times of --mark, in the view; FALSE after a report.
bool read_cursors(const CommandLine& line, figures::TimingView& view) {
    for (const std::string& text : line.names("mark")) {
        const auto reading = base::read_quantity(text, base::Dimension::Time);
        if (reading.fault != base::QuantityFault::None) {
            wrong_call(fmt::format("--mark: {}", base::quantity_message(text, reading, base::Dimension::Time)),
                       "--mark 1.2s,2.05s");
            return false;
        }
        const base::Nanoseconds at = base::from_seconds(reading.si_value);
        if (at < view.from || at > view.to) {
            wrong_call(fmt::format("--mark: {} is not in the figure, which shows {}", text, figures::span_text(view)));
            return false;
        }
        view.cursors.push_back(at);
    }
    if (view.cursors.size() <= 26) return true;
    wrong_call("--mark takes up to 26 times");
    return false;
}

/// What orders did, which rules broke and what mishaps there were, by time.
std::vector<figures::TimeMark> marks_of(const Drive& way) {
    using Kind = figures::TimeMark::Kind;
    std::vector<figures::TimeMark> out;
    for (const procedure::Deed& d : way.deeds) out.push_back({d.time, d.text, d.fault ? Kind::Fault : Kind::Hand});
    for (const procedure::RuleVerdict& r : way.broken) out.push_back({r.first_broken, r.name, Kind::BrokenRule});
    for (const session::MishapNote& m : way.mishaps)
        out.push_back({m.first, fmt::format("{}: {}", m.name, m.text), Kind::Mishap});
    std::stable_sort(out.begin(), out.end(),
                     [](const figures::TimeMark& a, const figures::TimeMark& b) { return a.time < b.time; });
    return out;
}

int draw_timing_of(const CommandLine& line, const Loaded& loaded, Drive& way, const std::string& what,
                   const std::string& path) {
    const auto from = line.quantity("from", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    const auto to = line.quantity("to", base::Dimension::Time, 3.6e6, 0.0, 3.6e6);
    const std::vector<std::string> names = line.names("watch");
    if (!from || !to) return kWrongCall;
    if (names.empty())
        return wrong_call(fmt::format("a {} needs --watch", what == "trend" ? "trend" : "timing chart"),
                          "--watch start_pb,line_run,dip_step");
    const auto chosen = channels_for(*loaded.yard.model, names);
    if (!chosen) return kWrongCall;
    session::Session session(loaded.yard.model);
    trace::Trace trace;
    trace::Recorder recorder(session, *chosen, {&trace});
    drive(way, session, [&](const session::Session& s) { recorder.observe(s); });
    recorder.finish(session);
    figures::TimingView view{
        title_of(line, loaded), {}, base::from_seconds(*from), std::min(base::from_seconds(*to), trace.end_time())};
    if (!read_cursors(line, view)) return kWrongCall;
    view.marks = marks_of(way);
    for (std::uint32_t c = 0; c < trace.channels().size(); ++c) view.channels.push_back(c);
    return draw_trace(line, what, trace, view, path, &way);
}

/// A trace that was kept in a file, chunks or CSV; null after a report.
std::optional<trace::Trace> kept_trace(const CommandLine& line, const std::string& file, base::Nanoseconds from,
                                       base::Nanoseconds to) {
    if (base::fold(file).ends_with(".csv")) {
        base::Diagnostics diagnostics;
        auto trace = files::read_trace(file, diagnostics);
        show_diagnostics(line, diagnostics);
        return trace;
    }
    auto read = files::read_chunks(file, from, to);
    if (!read.trace) wrong_call(fmt::format("cannot read {}: {}", file, read.why));
    return std::move(read.trace);
}

/// The figure of a trace that was kept in a file; no yard is read.
int draw_kept_trace(const CommandLine& line, const std::string& what, const std::string& path) {
    const auto from = line.quantity("from", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    const auto to = line.quantity("to", base::Dimension::Time, 3.6e6, 0.0, 3.6e6);
    const std::vector<std::string> names = line.names("watch");
    if (!from || !to) return kWrongCall;
    if (names.empty())
        return wrong_call(fmt::format("a {} needs --watch", what == "trend" ? "trend" : "timing chart"),
                          "--watch start_pb,line_run,dip_step");
    const std::string file = line.text("trace");
    const auto trace = kept_trace(line, file, base::from_seconds(*from), base::from_seconds(*to));
    if (!trace) return kWrongCall;
    figures::TimingView view{file,
                             {},
                             std::max(base::from_seconds(*from), trace->begin_time()),
                             std::min(base::from_seconds(*to), trace->end_time())};
    if (!read_cursors(line, view)) return kWrongCall;
    for (const std::string& name : names) {
        std::vector<std::string> known;
        for (const trace::Channel& c : trace->channels()) known.push_back(c.name);
        const auto channel = trace->find(name);
        if (!channel) return wrong_call(fmt::format("the trace has no '{}'", name), base::name_hint(name, known));
        view.channels.push_back(*channel);
    }
    return draw_trace(line, what, *trace, view, path, nullptr);
}

int draw_wiring_of(const CommandLine& line, const session::SessionModel& model, const std::string& what,
                   const std::string& path) {
    if (what == "rack" && model.wiring.modules.empty())
        return wrong_call("this yard has no rack", "[[controller.line.module]] in yard.toml");
    const bool any_link = std::any_of(model.controllers.begin(), model.controllers.end(),
                                      [](const auto& c) { return c.link.has_value(); });
    if (what == "registers" && !any_link)
        return wrong_call("no controller of this yard has a link", "[controller.NAME.link] in yard.toml, or --link");
    const auto figure = what == "rack"        ? figures::draw_rack(model)
                        : what == "registers" ? figures::draw_registers(model)
                                              : figures::draw_addresses(model, 0);
    return write_result(line, path, figure->render(path)) ? kWell : kOurFault;
}

}  // namespace

CommandLine draw_line() {
    CommandLine line(
        "draw plan|logic|timing|trend|addresses|rack|registers [YARD] [options]",
        "Draws the plan of the plant or the logic at one time of a run, a timing chart or trends of chosen tags, "
        "points and actuals,\nthe areas of addresses bit by bit, the terminals of the rack, or the registers of links. "
        "The "
        "format follows the ending of --out: .svg, .png or .pdf.\nLogic is drawn with its power flow and values when a "
        "run is asked for "
        "(--at, --for, --do, --procedure).",
        "vyard draw plan examples/glaze-line --procedure 1_normal_cycle --at 12.5s --out /tmp/plan.png");
    line.add_yard_options();
    line.add_run_options();
    line.add_link_options();
    add_drive_options(line, "10 s of a timing chart or trend, else 0 s");
    add_moment_options(line, "plan, logic: when; default the end of the run");
    line.options().add_options()("unit", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
                                 "logic: programs, or instances of blocks in them: panel.pump_1,main; default all")(
        "addresses", "logic: with the addresses of tags above their names")(
        "descriptions", "logic: with what tags are described as below their symbols")(
        "coverage", "logic: mark what the run never exercised")(
        "watch", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
        "timing: the lanes, top to bottom; trend: numbers as curves, an axis for each unit, others as "
        "lanes")("from", po::value<std::string>()->value_name("TIME"), "timing, trend: where it begins")(
        "to", po::value<std::string>()->value_name("TIME"), "timing, trend: where it ends; default the end of the run")(
        "mark", po::value<std::vector<std::string>>()->composing()->value_name("TIMES"),
        "timing, trend: cursors at these times, with the distance between them: 1.2s,2.05s")(
        "trace", po::value<std::string>()->value_name("FILE"),
        "timing, trend: of this trace in place of a run: CSV, or chunks (vyard run --chunks FILE)")(
        "out", po::value<std::string>()->value_name("FILE"),
        "the figure; - for SVG on standard output; default plan.svg, timing.svg ...");
    line.only_for({"at"}, {"plan", "logic"});
    line.only_for({"link"}, {"registers"});
    line.only_for({"watch", "from", "to", "mark", "trace"}, {"timing", "trend"});
    line.only_for({"unit", "addresses", "descriptions", "coverage", "changes"}, {"logic"});
    line.only_for({"do", "for", "until", "procedure", "stimulus", "set", "seed"}, {"plan", "logic", "timing", "trend"});
    line.apart({"trace"}, {"do", "for", "until", "procedure", "stimulus", "set", "seed"});
    line.takes_words(2);
    return line;
}

int draw_command(const CommandLine& line) {
    const std::string what = line.word(0);
    const std::vector<std::string> known = {"plan", "logic", "timing", "trend", "addresses", "rack", "registers"};
    if (std::find(known.begin(), known.end(), what) == known.end())
        return wrong_call(what.empty() ? "name what to draw: plan, logic, timing, trend, addresses, rack or registers"
                                       : fmt::format("'{}' cannot be drawn", what),
                          base::name_hint(what, known));
    const std::string path = line.has("out") ? line.text("out") : what + ".svg";
    if (!is_standard_output(path) && !is_figure_file(path)) return wrong_figure_file(path);
    if (line.has("trace")) {
        if (!line.word(1).empty()) return wrong_call("--trace stands in place of a yard and a run");
        if (const auto refused = refuse_outputs({line.text("trace")}, {path})) return *refused;
        return draw_kept_trace(line, what, path);
    }
    const auto loaded = load(line, false, 1);
    if (!loaded) return kWrongCall;
    if (const auto refused = refuse_outputs(loaded->yard.read_from, {path})) return *refused;
    if (what == "addresses" || what == "rack" || what == "registers")
        return draw_wiring_of(line, *loaded->yard.model, what, path);
    const bool over_time = what == "timing" || what == "trend";
    auto way = read_drive(line, *loaded, over_time ? 10.0 : 0.0);
    if (!way) return kWrongCall;
    if (what == "logic") return draw_logic_of(line, *loaded, *way, path);
    return what == "plan" ? draw_plan_of(line, *loaded, *way, path) : draw_timing_of(line, *loaded, *way, what, path);
}

}  // namespace vyard::cli
