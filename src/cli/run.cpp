#include <fmt/format.h>

#include "cli/drive.hpp"
#include "core/trace/trace.hpp"
#include "core/trace/watch.hpp"
#include "files/text_file.hpp"
#include "files/trace_files.hpp"
#include "report/verdicts.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

void print_end(const session::Session& session, const trace::Trace& trace) {
    fmt::print("ran {} of simulated time, {} changes of {} signals\n", base::clock_text(session.now()),
               trace.changes.size(), trace.channels.size());
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& model = session.model().controllers[c];
        const auto& state = session.controller(static_cast<int>(c));
        const std::string fault = controller::fault_text(model, state);
        fmt::print("controller {}: {} scans, {}{}\n", model.name, state.scans, state.running ? "running" : "stopped",
                   fault.empty() ? "" : fmt::format(" at {} by {}", base::clock_text(state.fault.time), fault));
    }
    for (const std::string& text : session::forces_text(session)) fmt::print("force: {}\n", text);
    for (const std::string& text : session::faults_text(session)) fmt::print("fault: {}\n", text);
}

}  // namespace

int run_command(const std::vector<std::string>& arguments) {
    CommandLine line("run [YARD] [options]", "Runs a yard unattended and records every change of its tags and points.",
                     "vyard run examples/glaze-line --do \"turn panel.mode to automatic\" --do \"press panel.start for "
                     "200 ms\" --for 30s --out /tmp/glaze");
    line.add_yard_options();
    line.add_stimulus_option();
    add_drive_options(line);
    line.options().add_options()("watch", po::value<std::string>()->value_name("NAMES"),
                                 "record these besides tags and points: gauges, inner variables of any block by path")(
        "on-change", "a row of watch.csv only when a watched value changed, not after every scan")(
        "out", po::value<std::string>()->value_name("FOLDER"),
        "write trace.vcd and trace.csv there, and watch.csv of what --watch names");
    if (const auto exit = line.parse(arguments, 1)) return *exit;
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    if (line.has("on-change") && !line.has("watch"))
        return wrong_call("--on-change is for --watch", "--watch NAME,NAME --on-change");
    const std::vector<std::string> watched = split_names(line.text("watch"));
    auto extra = channels_for(*loaded->yard.model, watched);
    auto way = read_drive(line, *loaded, 10.0);
    if (!extra || !way) return kWrongCall;
    std::vector<session::Signal> signals;
    for (const trace::Channel& c : *extra) signals.push_back(c.signal);
    // A trace is of numbers; texts are in the table alone.
    std::erase_if(*extra, [](const trace::Channel& c) { return !logic::is_scalar(c.signal.type); });

    session::Session session(loaded->yard.model);
    trace::Recorder recorder(session, trace::usual_channels(*loaded->yard.model, *extra));
    trace::Watch watch(watched, signals, line.has("on-change"));
    watch.observe(session);
    drive(*way, session, [&](const session::Session& s) {
        recorder.observe(s);
        watch.observe(s);
    });
    const trace::Trace trace = recorder.finish(session);
    print_end(session, trace);
    if (!way->failed.empty()) fmt::print("{}", report::verdicts_text(way->failed, colour_on_output()));
    if (line.has("out")) {
        const std::string folder = line.text("out");
        if (!write_result(files::join_path(folder, "trace.vcd"), files::vcd_text(trace)) ||
            !write_result(files::join_path(folder, "trace.csv"), files::csv_text(trace)))
            return kOurFault;
        if (!watched.empty() && !write_result(files::join_path(folder, "watch.csv"), files::watch_text(watch.finish())))
            return kOurFault;
    }
    return way->failed.empty() ? kWell : kFailed;
}

}  // namespace vyard::cli
