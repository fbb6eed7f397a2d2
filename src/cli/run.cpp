#include <fmt/format.h>

#include "cli/command.hpp"
#include "core/procedure/runner.hpp"
#include "core/trace/trace.hpp"
#include "files/text_file.hpp"
#include "files/trace_files.hpp"
#include "report/verdicts.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

void print_end(const session::Session& session, const trace::Trace& trace) {
    fmt::print("ran {} of simulated time, {} changes of {} signals\n", base::clock_text(session.now()), trace.changes.size(), trace.channels.size());
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& model = session.model().controllers[c];
        const auto& state = session.controller(static_cast<int>(c));
        const std::string fault = controller::fault_text(model, state);
        fmt::print("controller {}: {} scans, {}{}\n", model.name, state.scans, state.running ? "running" : "stopped", fault.empty() ? "" : fmt::format(" at {} by {}", base::clock_text(state.fault.time), fault));
    }
    for (const std::string& text : session::forces_text(session)) fmt::print("force: {}\n", text);
    for (const std::string& text : plant::active_faults(*session.model().plant, session.plant())) fmt::print("fault: {}\n", text);
}

/// Runs orders or a procedure; kWell or kFailed.
int follow(const procedure::Book& book, std::size_t number, session::Session& session, trace::Recorder& recorder) {
    const auto verdict = procedure::run_procedure(book, book.procedures[number], session, [&](const session::Session& s) { recorder.observe(s); });
    if (verdict.verdict == procedure::Verdict::Passed) return kWell;
    fmt::print("{}", report::verdicts_text({verdict}, colour_on_output()));
    return kFailed;
}

}  // namespace

int run_command(const std::vector<std::string>& arguments) {
    CommandLine line("run [YARD] [options]", "Runs a yard unattended and records every change of its tags and points.",
                     "vyard run examples/glaze-line --do \"press panel.start for 200 ms\" --for 30s --out /tmp/glaze");
    line.add_yard_options();
    line.options().add_options()("for", po::value<std::string>()->value_name("TIME"), "how long to run after the orders or the procedure; default 10s when there are none, else 0s")(
        "procedure,p", po::value<std::string>()->value_name("NAME"), "run through this procedure (its name, or its file's)")(
        "do", po::value<std::vector<std::string>>()->composing()->value_name("ORDER"), "an order to carry out first, as in a procedure; may be given again")(
        "watch", po::value<std::string>()->value_name("NAMES"), "record these besides tags and points: gauges, inner variables")(
        "out", po::value<std::string>()->value_name("FOLDER"), "write trace.vcd and trace.csv there");
    if (const auto exit = line.parse(arguments, 1)) return *exit;
    const bool orders_given = line.has("do") || line.has("procedure");
    const auto duration = line.quantity("for", base::Dimension::Time, orders_given ? 0.0 : 10.0, 0.0, 3.6e6);
    if (!duration) return kWrongCall;
    const auto loaded = load(line.word(0), line.substitutes());
    if (!loaded) return kWrongCall;
    const auto extra = channels_for(*loaded->yard.model, split_names(line.text("watch")));
    if (!extra) return kWrongCall;
    const int number = line.has("procedure") ? find_procedure(*loaded, line.text("procedure")) : 0;
    if (number < 0) return kWrongCall;
    std::shared_ptr<const procedure::Book> orders;
    if (line.has("do") && (orders = read_orders(*loaded->yard.model, line.list("do"))) == nullptr) return kWrongCall;

    session::Session session(loaded->yard.model);
    trace::Recorder recorder(session, trace::usual_channels(*loaded->yard.model, *extra));
    int exit = kWell;
    if (orders != nullptr) exit = std::max(exit, follow(*orders, 0, session, recorder));
    if (line.has("procedure")) exit = std::max(exit, follow(*loaded->book, static_cast<std::size_t>(number), session, recorder));
    const base::Nanoseconds end = session.now() + base::from_seconds(*duration);
    while (session.now() < end) {
        session.step();
        recorder.observe(session);
    }
    const trace::Trace trace = recorder.finish(session);
    print_end(session, trace);
    if (line.has("out")) {
        const std::string folder = line.text("out");
        if (!write_result(files::join_path(folder, "trace.vcd"), files::vcd_text(trace)) || !write_result(files::join_path(folder, "trace.csv"), files::csv_text(trace))) return kOurFault;
    }
    return exit;
}

}  // namespace vyard::cli
