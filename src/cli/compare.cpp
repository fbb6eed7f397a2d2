#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/command.hpp"
#include "core/trace/trace.hpp"
#include "figures/timing.hpp"
#include "files/trace_csv.hpp"
#include "report/table.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// "0.5" for all signals, "level_m=0.01" for one.
bool read_tolerances(const CommandLine& line, trace::CompareOptions& options) {
    for (const std::string& text : line.list("tolerance")) {
        const std::size_t sign = text.find('=');
        const std::string number = sign == std::string::npos ? text : text.substr(sign + 1);
        const auto reading = base::read_quantity(number, base::Dimension::Plain);
        if (reading.fault != base::QuantityFault::None || reading.si_value < 0.0) {
            wrong_call(fmt::format("'{}' is not a valid tolerance", text), "--tolerance 0.5, --tolerance level_m=0.01");
            return false;
        }
        if (sign == std::string::npos) {
            options.tolerance = reading.si_value;
        } else {
            options.of_signal[base::fold(text.substr(0, sign))] = reading.si_value;
        }
    }
    return true;
}

std::vector<std::string> names_of(const trace::Trace& trace) {
    std::vector<std::string> out;
    for (const trace::Channel& c : trace.channels()) out.push_back(c.name);
    return out;
}

/// When the signal that both are aligned at has its first event; null after a report.
std::optional<base::Nanoseconds> event_in(const trace::Trace& trace, const std::string& file, const std::string& name) {
    const auto channel = trace.find(name);
    if (!channel) {
        wrong_call(fmt::format("{} has no signal '{}'", file, name), base::name_hint(name, names_of(trace)));
        return std::nullopt;
    }
    const auto event = trace::first_event(trace, *channel);
    if (!event) wrong_call(fmt::format("'{}' never comes in {}", name, file), "align at a signal that comes in both");
    return event;
}

/// The signals that differ, of both traces below one another, by the clock of the first.
trace::Trace side_by_side(const trace::Trace& a, const trace::Trace& b, const trace::Comparison& found,
                          base::Nanoseconds shift) {
    struct Change {
        base::Nanoseconds at;
        std::uint32_t lane;
        logic::Value value;
    };
    std::vector<trace::Channel> channels;
    std::vector<Change> changes;
    for (const trace::Difference& d : found.differences) {
        for (const bool second : {false, true}) {
            const trace::Trace& of = second ? b : a;
            const std::uint32_t c = *of.find(d.name);
            trace::Channel channel = of.channels()[c];
            channel.name = fmt::format("{} ({})", d.name, second ? "B" : "A");
            const auto lane = static_cast<std::uint32_t>(channels.size());
            channels.push_back(std::move(channel));
            for (const trace::Moment& m : of.of(c)) {
                const base::Nanoseconds at = std::max(m.time + (second ? shift : base::Nanoseconds(0)), found.from);
                changes.push_back({at, lane, of.value(c, m)});
            }
        }
    }
    std::stable_sort(changes.begin(), changes.end(), [](const Change& x, const Change& y) { return x.at < y.at; });
    trace::Trace out;
    out.begin(channels, found.from);
    for (const Change& c : changes) out.change(c.at, c.lane, c.value);
    out.end(found.to);
    return out;
}

report::Table table_of(const trace::Comparison& found) {
    report::Table table;
    table.columns = {"signal", "first at", "A", "B", "times", "in all"};
    for (const trace::Difference& d : found.differences)
        table.rows.push_back({d.name, base::clock_text(d.first), d.a, d.b, fmt::format("{}", d.times),
                              fmt::format("{:g} s", base::to_seconds(d.in_all))});
    return table;
}

/// Times in seconds, by the clock of A.
std::string json_of(const trace::Comparison& found, base::Nanoseconds shift) {
    auto differences = nlohmann::ordered_json::array();
    for (const trace::Difference& d : found.differences)
        differences.push_back({{"signal", d.name},
                               {"first_s", base::to_seconds(d.first)},
                               {"a", d.a},
                               {"b", d.b},
                               {"times", d.times},
                               {"in_all_s", base::to_seconds(d.in_all)}});
    const nlohmann::ordered_json out = {{"differences", std::move(differences)},
                                        {"compared", found.compared},
                                        {"only_a", found.only_a},
                                        {"only_b", found.only_b},
                                        {"of_other_kinds", found.unlike},
                                        {"from_s", base::to_seconds(found.from)},
                                        {"to_s", base::to_seconds(found.to)},
                                        {"b_moved_by_s", base::to_seconds(shift)}};
    return out.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

void print_summary(const trace::Comparison& found, base::Nanoseconds shift) {
    for (const auto& [names, what] : {std::pair(&found.only_a, "only in A"), std::pair(&found.only_b, "only in B"),
                                      std::pair(&found.unlike, "of other kinds in A and B")}) {
        if (!names->empty()) fmt::print("{}: {}\n", what, fmt::join(*names, ", "));
    }
    fmt::print("{} of {} signals differ, from {} to {}{}\n", found.differences.size(), found.compared,
               base::clock_text(found.from), base::clock_text(found.to),
               shift == base::Nanoseconds(0) ? "" : fmt::format("; B moved by {:g} s", base::to_seconds(shift)));
}

}  // namespace

CommandLine compare_line() {
    CommandLine line(
        "compare A B [options]",
        "Compares two traces that were kept in files (run --out FOLDER: FOLDER/trace.csv; run --chunks FILE): "
        "which signals differ, when first,\nfor how long. Exit code 1 when any does, or when one has signals "
        "that the other has not.",
        "vyard run examples/glaze-line --procedure 1_normal_cycle --out /tmp/one && vyard compare "
        "/tmp/one/trace.csv /tmp/one/trace.csv");
    line.options().add_options()("watch", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
                                 "compare these signals; default all")(
        "align", po::value<std::string>()->value_name("NAME"),
        "move B in time so that this signal comes for the first time when it does in A")(
        "tolerance", po::value<std::vector<std::string>>()->composing()->value_name("[NAME=]NUMBER"),
        "numbers no further apart are the same; of one signal, or of all; may be repeated")(
        "brief", po::value<std::string>()->value_name("TIME"), "differences that last no longer do not count")(
        "json", "all of it as JSON")("figure", po::value<std::string>()->value_name("FILE"),
                                     "draw what differs as a timing chart: .svg, .png or .pdf");
    line.takes_words(2);
    return line;
}

int compare_command(const CommandLine& line) {
    if (line.words().size() != 2) return wrong_call("name two traces", "vyard compare one/trace.csv two/trace.csv");
    trace::CompareOptions options;
    const auto brief = line.quantity("brief", base::Dimension::Time, 0.0, 0.0, 3600.0);
    if (!brief || !read_tolerances(line, options)) return kWrongCall;
    options.brief = base::from_seconds(*brief);
    const std::string figure = line.text("figure");
    if (!figure.empty() && !is_figure_file(figure)) return wrong_figure_file(figure);
    if (const auto refused = refuse_outputs({line.word(0), line.word(1)},
                                            line.has("figure") ? std::vector{figure} : std::vector<std::string>()))
        return *refused;
    base::Diagnostics diagnostics;
    const auto a = files::read_trace(line.word(0), diagnostics), b = files::read_trace(line.word(1), diagnostics);
    if (!a || !b) {
        show_diagnostics(line, diagnostics);
        return kWrongCall;
    }
    options.names = line.names("watch");
    for (const std::string& name : options.names) {
        if (!a->find(name) && !b->find(name))
            return wrong_call(fmt::format("no trace has a signal '{}'", name), base::name_hint(name, names_of(*a)));
    }
    if (line.has("align")) {
        const auto in_a = event_in(*a, line.word(0), line.text("align"));
        const auto in_b = in_a ? event_in(*b, line.word(1), line.text("align")) : std::nullopt;
        if (!in_b) return kWrongCall;
        options.shift = *in_a - *in_b;
    }
    const trace::Comparison found = trace::compare(*a, *b, options);
    if (found.to < found.from)
        return wrong_call("the two traces have no time in common", "--align NAME moves B in time");
    if (line.has("json")) {
        fmt::print("{}", json_of(found, options.shift));
    } else {
        const report::Table table = table_of(found);
        if (!table.rows.empty()) fmt::print("{}", report::table_text(table));
        print_summary(found, options.shift);
    }
    if (!figure.empty() && !found.differences.empty()) {
        const trace::Trace both = side_by_side(*a, *b, found, options.shift);
        figures::TimingView view{fmt::format("A {}   B {}", line.word(0), line.word(1)), {}, found.from, found.to};
        for (std::uint32_t c = 0; c < both.channels().size(); ++c) view.channels.push_back(c);
        if (!write_result(line, figure, figures::draw_timing(both, view)->render(figure))) return kOurFault;
    }
    return found.same() ? kWell : kFailed;
}

}  // namespace vyard::cli
