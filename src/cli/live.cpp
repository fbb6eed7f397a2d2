#include "live/live.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <filesystem>

#include "cli/command.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// The logic as its files are now, by controller of the model that runs.
live::Reloaded reloaded(const CommandLine& line, const session::SessionModel& running) {
    live::Reloaded out;
    const auto again = read_all(line);
    if (!again) return {"the yard cannot be read", {}};
    for (const base::Diagnostic& d : again->diagnostics) {
        if (d.severity == base::Severity::Error) out.mistakes += base::Diagnostics::render(d);
    }
    if (!out.mistakes.empty()) return out;
    const auto& now = again->yard.model->controllers;
    for (const auto& controller : running.controllers) {
        const auto found =
            std::find_if(now.begin(), now.end(), [&](const auto& c) { return c.name == controller.name; });
        if (found == now.end()) return {fmt::format("there is no controller '{}' any more", controller.name), {}};
        out.programs.push_back(found->program);
    }
    return out;
}

/// What a person did is kept in a new file; none that is there is lost.
std::string written_anew(const std::string& path, const std::string& text) {
    std::error_code failure;
    if (std::filesystem::exists(path, failure)) return fmt::format("{} is there already; name another file", path);
    std::string why;
    return files::write_text(path, text, why) ? "" : why;
}

}  // namespace

int live_command(const std::vector<std::string>& arguments) {
    CommandLine line("live [YARD] [options]",
                     "Runs a yard with a person. Orders come as lines on standard input, in the words of procedures; "
                     "watched values\n"
                     "are printed when they change. The line 'help' lists the orders, 'quit' ends the run. At pace "
                     "max, time passes\n"
                     "only while an order waits. Exit code 1 when an expectation failed.",
                     "printf 'turn panel.mode to automatic\\npress panel.start for 200 ms\\nwait 15 s\\n' | vyard live "
                     "examples/glaze-line --pace max --watch line_run,dip_step");
    line.add_yard_options();
    line.add_stimulus_option();
    line.options().add_options()("pace", po::value<std::string>()->value_name("FACTOR"),
                                 "1 is real time (the default), 0.1 slow motion, 10 fast, max as fast as it can")(
        "watch", po::value<std::string>()->value_name("NAMES"), "print these when they change")(
        "for", po::value<std::string>()->value_name("TIME"), "end at this simulated time");
    if (const auto exit = line.parse(arguments, 1)) return *exit;
    live::LiveOptions options;
    if (line.text("pace") == "max") {
        options.pace = 0.0;
    } else {
        const auto pace = line.quantity("pace", base::Dimension::Plain, 1.0, 1e-3, 1e6);
        if (!pace) return kWrongCall;
        options.pace = *pace;
    }
    const auto limit = line.quantity("for", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    if (!limit) return kWrongCall;
    if (line.has("for")) options.limit = base::from_seconds(*limit);
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    auto watches = channels_for(*loaded->yard.model, session::split_names(line.text("watch")));
    if (!watches) return kWrongCall;
    options.watches = std::move(*watches);
    options.expectations = loaded->yard.expectations;
    options.reload = [&] { return reloaded(line, *loaded->yard.model); };
    options.write = written_anew;

    session::Session session(loaded->yard.model);
    const auto lines = live::lines_from_descriptor(STDIN_FILENO);
    const auto clock = live::wall_clock();
    fmt::print("{}: live, {}; 'help' lists the orders\n", loaded->yard.name,
               options.pace > 0 ? fmt::format("pace {:g}", options.pace) : "as fast as it can");
    const live::LiveOutcome outcome = live::run_live(session, *lines, *clock, options, [](const std::string& text) {
        fmt::print("{}", text);
        std::fflush(stdout);
    });
    fmt::print("ended at {}", base::clock_text(session.now()));
    if (outcome.late_steps > 0) fmt::print("; steps that came late: {}", outcome.late_steps);
    if (outcome.wrong_lines > 0) fmt::print("; lines not obeyed: {}", outcome.wrong_lines);
    if (outcome.failed_expectations > 0) fmt::print("; expectations failed: {}", outcome.failed_expectations);
    fmt::print("\n");
    for (const std::string& text : session::forces_text(session)) fmt::print("force left: {}\n", text);
    const bool script = isatty(STDIN_FILENO) == 0;  // a person's slip of the finger is no wrong call
    if (outcome.wrong_lines > 0 && script) return kWrongCall;
    return outcome.failed_expectations > 0 ? kFailed : kWell;
}

}  // namespace vyard::cli
