#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/command.hpp"
#include "core/trace/trace.hpp"
#include "figures/histogram.hpp"
#include "files/trace_csv.hpp"
#include "report/table.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// "rises(NAME)", "falls(NAME)"; null after a report.
std::optional<trace::Trace::Edge> read_edge(const trace::Trace& trace, const std::string& text) {
    const std::string word = base::fold(text.substr(0, 6));
    if ((word != "rises(" && word != "falls(") || !text.ends_with(')')) {
        wrong_call(fmt::format("'{}' is not a valid edge", text), "--from 'rises(start_pb)' --to 'falls(lift_top)'");
        return std::nullopt;
    }
    const std::string name = text.substr(6, text.size() - 7);
    const auto channel = trace.find(name);
    if (!channel) {
        std::vector<std::string> known;
        for (const trace::Channel& c : trace.channels()) known.push_back(c.name);
        wrong_call(fmt::format("the trace has no '{}'", name), base::name_hint(name, known));
        return std::nullopt;
    }
    if (trace.channels()[*channel].signal.type != logic::Elementary::Bool) {
        wrong_call(fmt::format("'{}' is not a BOOL, so it has no edges", name));
        return std::nullopt;
    }
    return trace::Trace::Edge{*channel, word == "rises("};
}

std::string span_text(base::Nanoseconds length) {
    return fmt::format("{:g} s", base::to_seconds(length));
}

std::string json_of(const std::vector<trace::Span>& spans) {
    nlohmann::ordered_json out = {{"count", spans.size()}};
    if (!spans.empty()) {
        const trace::SpanFigures figures = trace::figures_of(spans);
        out["minimum_s"] = base::to_seconds(figures.least.length());
        out["mean_s"] = figures.mean_s;
        out["maximum_s"] = base::to_seconds(figures.most.length());
        out["deviation_s"] = figures.deviation_s;
    }
    auto each = nlohmann::ordered_json::array();
    for (const trace::Span& s : spans)
        each.push_back({{"from_s", base::to_seconds(s.from)}, {"to_s", base::to_seconds(s.to)}});
    out["spans"] = std::move(each);
    return out.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

void print_spans(const std::vector<trace::Span>& spans, bool each) {
    if (each) {
        report::Table table;
        table.columns = {"from", "to", "length"};
        for (const trace::Span& s : spans)
            table.rows.push_back({base::clock_text(s.from), base::clock_text(s.to), span_text(s.length())});
        if (!spans.empty()) fmt::print("{}", report::table_text(table));
    }
    fmt::print("{}", number_of(spans.size(), "time"));
    if (spans.empty()) {
        fmt::print("\n");
        return;
    }
    const trace::SpanFigures figures = trace::figures_of(spans);
    fmt::print(": minimum {} (from {}), mean {:.6g} s, maximum {} (from {}), deviation {:.3g} s\n",
               span_text(figures.least.length()), base::clock_text(figures.least.from), figures.mean_s,
               span_text(figures.most.length()), base::clock_text(figures.most.from), figures.deviation_s);
}

}  // namespace

CommandLine measure_line() {
    CommandLine line(
        "measure TRACE --from EDGE --to EDGE [options]",
        "Times from edge to edge in a trace that was kept in a file: how often, minimum, mean, maximum. An edge is "
        "rises(NAME) or falls(NAME).\nExit code 1 when it never came.",
        "vyard run examples/glaze-line --procedure 1_normal_cycle --out /tmp/m && vyard measure /tmp/m/trace.csv "
        "--from 'rises(lift_bottom)' --to 'falls(lift_bottom)'");
    line.options().add_options()("from", po::value<std::string>()->value_name("EDGE"), "where a span begins")(
        "to", po::value<std::string>()->value_name("EDGE"), "where it ends; the same edge for a period")(
        "each", "list them all")("json", "as JSON, all of them")("figure", po::value<std::string>()->value_name("FILE"),
                                                                 "a histogram: .svg, .png or .pdf");
    line.takes_words(1);
    return line;
}

int measure_command(const CommandLine& line) {
    if (line.word(0).empty() || !line.has("from") || !line.has("to"))
        return wrong_call("name a trace, --from and --to",
                          "vyard measure out/trace.csv --from 'rises(a)' --to 'rises(b)'");
    const std::string figure = line.text("figure");
    if (!figure.empty() && !is_figure_file(figure)) return wrong_figure_file(figure);
    if (const auto refused =
            refuse_outputs({line.word(0)}, line.has("figure") ? std::vector{figure} : std::vector<std::string>()))
        return *refused;
    base::Diagnostics diagnostics;
    const auto trace = files::read_trace(line.word(0), diagnostics);
    if (!trace) {
        show_diagnostics(line, diagnostics);
        return kWrongCall;
    }
    const auto from = read_edge(*trace, line.text("from"));
    const auto to = from ? read_edge(*trace, line.text("to")) : std::nullopt;
    if (!to) return kWrongCall;
    const std::vector<trace::Span> spans = trace::spans(*trace, *from, *to);
    if (line.has("json")) {
        fmt::print("{}", json_of(spans));
    } else {
        print_spans(spans, line.has("each"));
    }
    if (!figure.empty() && !spans.empty()) {
        std::vector<double> seconds;
        seconds.reserve(spans.size());
        for (const trace::Span& s : spans) seconds.push_back(base::to_seconds(s.length()));
        const auto canvas =
            figures::draw_histogram(fmt::format("{} to {}", line.text("from"), line.text("to")), seconds, "s");
        if (!write_result(line, figure, canvas->render(figure))) return kOurFault;
    }
    return spans.empty() ? kFailed : kWell;
}

}  // namespace vyard::cli
