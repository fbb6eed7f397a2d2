#include <fmt/format.h>

#include <algorithm>

#include "cli/drive.hpp"
#include "cli/interrupt.hpp"
#include "cli/linked.hpp"
#include "cli/progress.hpp"
#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"
#include "files/text_file.hpp"
#include "files/trace_chunks.hpp"
#include "files/trace_files.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

void print_end(const session::Session& session, const trace::Recorder& recorder) {
    fmt::print("ran {} of simulated time, {} changes of {} signals\n", base::clock_text(session.now()),
               recorder.change_count(), recorder.channels().size());
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& model = session.model().controllers[c];
        const auto& state = session.controller(static_cast<int>(c));
        const std::string fault = controller::fault_text(model, state.fault);
        fmt::print("controller {}: {} scans, {}{}\n", model.name, state.scans, state.running ? "running" : "stopped",
                   fault.empty() ? "" : fmt::format(" at {} by {}", base::clock_text(state.fault.time), fault));
    }
    for (const std::string& text : session::forces_text(session)) fmt::print("force: {}\n", text);
    for (const std::string& text : session::faults_text(session)) fmt::print("fault: {}\n", text);
    for (const std::string& text : session::hands_text(session)) fmt::print("hand: {}\n", text);
    for (const session::MishapNote& m : session::mishaps_of(session))
        fmt::print("mishap: {}\n", session::mishap_line(m));
    for (const std::string& text : session::odd_outputs_text(session)) fmt::print("remark: {}\n", text);
    for (const session::LinkLossNote& loss : session::link_losses(session)) fmt::print("remark: {}\n", loss.text);
}

/// How often controllers stopped by themselves, now or before they were started again.
std::size_t stops_of(const session::Session& session) {
    std::size_t stops = 0;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c)
        stops += session.controller(static_cast<int>(c)).stops;
    return stops;
}

/// The files of --out, written as the run goes on.
struct OutFiles {
    files::WholeFile vcd, csv;
    std::optional<files::WholeFile> watch;
    files::VcdSink vcd_sink{[this](std::string_view text) { vcd.write(text); }};
    files::CsvSink csv_sink{[this](std::string_view text) { csv.write(text); }};

    OutFiles(const std::string& folder, const std::vector<std::string>& watched)
        : vcd(files::join_path(folder, "trace.vcd")), csv(files::join_path(folder, "trace.csv")) {
        if (watched.empty()) return;
        watch.emplace(files::join_path(folder, "watch.csv"));
        watch->write(files::watch_header(watched));
    }

    bool keep(const CommandLine& line) {
        std::vector<files::WholeFile*> all = {&vcd, &csv};
        if (watch) all.push_back(&*watch);
        for (files::WholeFile* file : all) {
            if (!keep_result(line, *file)) return false;
        }
        return true;
    }
};

}  // namespace

CommandLine run_line() {
    CommandLine line("run [YARD] [options]", "Runs a yard unattended and records every change of its tags and points.",
                     "vyard run examples/glaze-line --do \"turn panel.mode to automatic\" --do \"press panel.start for "
                     "200 ms\" --for 30s --out /tmp/glaze");
    line.add_yard_options();
    line.add_run_options();
    line.add_link_options();
    add_linked_options(line);
    add_drive_options(line, "10 s");
    line.options().add_options()(
        "watch", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
        "record these besides tags and points: actuals, inner variables of any block by path; may be repeated")(
        "on-change", "a row of watch.csv only when a watched value changed, not after every scan")(
        "out", po::value<std::string>()->value_name("FOLDER"),
        "write trace.vcd and trace.csv there, and watch.csv of what --watch names")(
        "chunks", po::value<std::string>()->value_name("FILE"),
        "write the trace in chunks, for long runs: vyard draw timing --trace FILE draws any part of it");
    line.needs("watch", {"out", "chunks"});
    line.needs("on-change", {"watch"});
    line.takes_words(1);
    return line;
}

int run_command(const CommandLine& line) {
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    const std::vector<std::string> watched = line.names("watch");
    auto extra = channels_for(*loaded->yard.model, watched);
    auto way = read_drive(line, *loaded, 10.0);
    if (!extra || !way) return kWrongCall;
    std::vector<std::string> results;
    for (const char* name : {"trace.vcd", "trace.csv", "watch.csv"}) {
        if (line.has("out")) results.push_back(files::join_path(line.text("out"), name));
    }
    if (line.has("chunks")) results.push_back(line.text("chunks"));
    for (const std::string& file : linked_results(line)) results.push_back(file);
    if (const auto refused = refuse_outputs(loaded->yard.read_from, results)) return *refused;
    const Interrupt interrupt;
    way->ended = [&] { return interrupt.come(); };
    int exit = kWell;
    const auto linked = Linked::open(line, *loaded, way->ended, exit);
    if (linked == nullptr) return exit;
    session::Session session(loaded->yard.model, nullptr, linked->partner());
    std::optional<OutFiles> out;
    std::vector<trace::Sink*> sinks;
    if (line.has("out")) {
        out.emplace(line.text("out"), watched);
        sinks = {&out->vcd_sink, &out->csv_sink};
    }
    std::optional<files::WholeFile> chunks;
    files::ChunkSink chunk_sink([&](std::string_view text) { chunks->write(text); });
    if (line.has("chunks")) {
        chunks.emplace(line.text("chunks"));
        sinks.push_back(&chunk_sink);
    }
    trace::Recorder recorder(session, trace::usual_channels(*loaded->yard.model, *extra), sinks);
    trace::Watch watch(*extra, line.has("on-change"),
                       [&](base::Nanoseconds time, const std::vector<std::string>& cells) {
                           if (out && out->watch) out->watch->write(files::watch_row(time, cells));
                       });
    watch.observe(session);
    {
        Progress progress(line);
        const double length_s = base::to_seconds(std::max(way->rest, way->until));
        drive(*way, session, [&](const session::Session& s) {
            recorder.observe(s);
            watch.observe(s);
            progress.show(length_s > 0.0 ? std::min(base::to_seconds(s.now()) / length_s, 1.0) : -1.0, "simulated");
        });
    }
    recorder.finish(session);
    if (!line.quiet()) print_end(session, recorder);
    for (const std::string& note : line.quiet() ? std::vector<std::string>() : way->notes)
        fmt::print("note: {}\n", base::shown(note));
    print_verdicts(line, *way);
    if (!linked->close(line)) return kOurFault;
    if (out && !out->keep(line)) return kOurFault;
    if (chunks && !keep_result(line, *chunks)) return kOurFault;
    const bool well =
        passed(*way) && stops_of(session) == way->expected_stops && !session::link_lost_by_itself(session);
    return interrupt.exit_code(well ? kWell : kFailed);
}

}  // namespace vyard::cli
