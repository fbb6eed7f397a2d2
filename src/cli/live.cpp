#include <fmt/format.h>
#include <fmt/ranges.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <set>

#include "cli/command.hpp"
#include "cli/linked.hpp"
#include "files/text_file.hpp"
#include "link/screens.hpp"
#include "live/plain_front.hpp"
#include "live/screen/screen_front.hpp"
#include "live/socket_front.hpp"
#include "live/wall_watch.hpp"
#include "live/watch_fronts.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// Askers: the person's lines, and from there on those of other terminals.
constexpr live::Asker kPerson = 1, kOthers = 2;

std::string fingerprint_of(const std::vector<base::SourcePtr>& sources) {
    std::vector<std::string> texts;
    for (const base::SourcePtr& s : sources) {
        texts.push_back(s->path);
        texts.push_back(s->text);
    }
    return live::fingerprint_of(texts);
}

std::vector<base::SourcePtr> all_sources(const files::Yard& yard) {
    std::vector<base::SourcePtr> out = yard.frame;
    for (const auto* list : {&yard.logic, &yard.procedures}) out.insert(out.end(), list->begin(), list->end());
    return out;
}

/// Folders of all that was read.
std::vector<std::string> folders_of(const files::Yard& yard) {
    std::set<std::string> out;
    for (const base::SourcePtr& s : all_sources(yard))
        out.insert(std::filesystem::path(s->path).parent_path().string());
    return {out.begin(), out.end()};
}

/// A table of stimuli decides what happens, as the files of the yard do.
live::YardVersion version_of(const CommandLine& line, const Loaded& loaded) {
    std::vector<base::SourcePtr> frame = loaded.yard.frame, all = all_sources(loaded.yard);
    base::Diagnostics ignored;  // it was read
    if (line.has("stimulus")) {
        if (const auto table = files::read_source(line.text("stimulus"), {}, ignored)) {
            frame.push_back(table);
            all.push_back(table);
        }
    }
    return {loaded.yard.model, loaded.book, fingerprint_of(all), fingerprint_of(frame)};
}

/// The yard as its files are now.
live::Reloaded reloaded(const CommandLine& line) {
    live::Reloaded out;
    std::optional<Loaded> again;
    try {
        again = read_all(line);
    } catch (const std::exception& failure) {  // a folder that may not be looked into any more
        return {failure.what(), {}};
    }
    if (!again) return {"the yard cannot be read", {}};
    for (const base::Diagnostic& d : again->diagnostics) {
        if (d.severity == base::Severity::Error) out.mistakes += base::Diagnostics::render(d);
    }
    if (!out.mistakes.empty()) return out;
    out.version = version_of(line, *again);
    return out;
}

/// What a person did is kept in a new file; none that is there is lost.
std::string written_anew(const std::string& path, const std::string& text) {
    std::error_code failure;
    if (std::filesystem::exists(path, failure)) return fmt::format("{} is there already; name another file", path);
    std::string why;
    return files::write_text(path, text, why) ? "" : why;
}

void print_line(const std::string& text) {
    fmt::print("{}", text);
    std::fflush(stdout);
}

/// Whether this session keeps what happens beside the yard.
bool keeps_state(const CommandLine& line) {
    if (line.has("state")) return line.text("state") == "on";
    return isatty(STDIN_FILENO) != 0;
}

bool has_screen(const CommandLine& line) {
    return isatty(STDIN_FILENO) != 0 && isatty(STDOUT_FILENO) != 0 && !line.has("plain");
}

/// Asks a person at the terminal; false for anything but yes.
bool asked(const std::string& question) {
    print_line(question + " [y/n] ");
    char answer[64] = {};
    return ::read(STDIN_FILENO, answer, sizeof answer - 1) > 0 && (answer[0] == 'y' || answer[0] == 'Y');
}

/// Whether to go on with what a killed session left.
bool goes_on(const CommandLine& line, const live::LeftSession& left) {
    if (line.has("fresh")) return false;
    if (line.has("go-on")) return true;
    const std::string what = fmt::format("a session of this yard was cut off at {}, after {} orders, with {} forces",
                                         base::clock_text(left.time), left.orders.size(), left.forces.size());
    if (isatty(STDIN_FILENO) != 0) return asked(what + ". Go on with it?");
    fmt::print("{}; --go-on goes on with it\n", what);
    return false;
}

std::vector<live::RetainedRow> stored_retained(const CommandLine& line, const std::string& folder) {
    std::error_code ignored;
    const std::string path = live::retained_path(folder);
    if (!std::filesystem::exists(path, ignored)) return {};
    base::Diagnostics diagnostics;
    std::vector<live::RetainedRow> rows;
    if (const auto source = files::read_source(path, {}, diagnostics)) rows = live::read_retained(source, diagnostics);
    if (diagnostics.has_errors()) show_diagnostics(line, diagnostics);
    return rows;
}

int ended(const live::Sitting& sitting, bool script) {
    fmt::print("ended at {}", base::clock_text(sitting.desk().now()));
    if (sitting.lateness().overruns() > 0) fmt::print("; time steps that came late: {}", sitting.lateness().overruns());
    if (sitting.wrong_lines() > 0) fmt::print("; orders rejected: {}", sitting.wrong_lines());
    if (sitting.failed_expectations() > 0) fmt::print("; expectations failed: {}", sitting.failed_expectations());
    fmt::print("\n");
    for (const std::string& text : session::forces_text(sitting.desk().session())) fmt::print("force left: {}\n", text);
    if (sitting.ended_by() != 0) return 128 + sitting.ended_by();  // as a shell says it
    if (sitting.wrong_lines() > 0 && script) return kWrongCall;    // a person's slip of the finger is no wrong call
    return sitting.failed_expectations() > 0 ? kFailed : kWell;
}

void add_live_options(CommandLine& line) {
    line.add_yard_options();
    line.add_run_options();
    line.options().add_options()("pace", po::value<std::string>()->value_name("FACTOR"),
                                 "1 is real time (the default), 0.1 slow motion, 10 fast, max as fast as it can")(
        "watch", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
        "watch these from the start: names, lift_*, or a condition; may be repeated; see 'help'")(
        "for", po::value<std::string>()->value_name("TIME"), "end after this simulated time")(
        "plain", "lines in and out at a terminal too, no screen")(
        "ascii", "a screen without box-drawing characters and without colours")(
        "state", po::value<std::string>()->value_name("on|off"),
        "keep what happens in .vyard/ of the yard (retained values, a journal, a socket for `vyard tell`); on at a "
        "terminal, else off")("go-on", "go on with a session that was cut off, without asking")("fresh",
                                                                                                "do not go on with it");
}

/// What the line says of pace and limit; an exit code when it is wrong.
std::optional<int> read_times(const CommandLine& line, live::SittingOptions& options) {
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
    if (line.has("state") && line.text("state") != "on" && line.text("state") != "off")
        return wrong_call(fmt::format("--state: '{}' is neither on nor off", line.text("state")));
    for (const char* option : {"go-on", "fresh"}) {
        if (line.has(option) && !keeps_state(line))
            return wrong_call(fmt::format("--{} is for a session that keeps a state", option), "--state on");
    }
    if (line.has("ascii") && !has_screen(line))
        return wrong_call("--ascii is for the screen, which is at a terminal and without --plain");
    return std::nullopt;
}

/// The folder beside the yard, unless it is not wanted or cannot be had; the latter is said.
std::unique_ptr<live::YardState> open_state(const CommandLine& line, const files::Yard& yard) {
    if (!keeps_state(line)) return nullptr;
    std::string why;
    auto state = live::YardState::open(yard.folder, why);
    if (state == nullptr) fmt::print(stderr, "warning: {}; this session keeps nothing and cannot be told\n", why);
    return state;
}

}  // namespace

CommandLine live_line() {
    CommandLine line("live [YARD] [options]",
                     "Runs a yard with a person: a screen at a terminal, else lines on standard input, in the words of "
                     "procedures;\nwatched values are printed when they change. The line 'help' lists the orders, "
                     "'quit' ends the run. At pace max,\ntime passes only while an order waits. Exit code 1 when an "
                     "expectation failed, 128 and more when a signal ended it.",
                     "printf 'turn panel.mode to automatic\\npress panel.start for 200 ms\\nwait 15 s\\n' | vyard live "
                     "examples/glaze-line --pace max --watch line_run,dip_step");
    add_live_options(line);
    line.add_link_options();
    add_linked_options(line);
    line.one_of({"go-on", "fresh"});
    line.one_of({"plain", "ascii"});
    line.takes_words(1);
    return line;
}

int live_command(const CommandLine& line) {
    live::SittingOptions options;
    if (const auto exit = read_times(line, options)) return *exit;
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    const auto state = open_state(line, loaded->yard);
    options.expectations = loaded->yard.expectations;
    options.version = version_of(line, *loaded);
    options.folder = loaded->yard.folder;
    options.outside = line.has("outside");
    options.reload = [&] { return reloaded(line); };
    options.write = written_anew;
    options.state = state.get();
    const bool script = isatty(STDIN_FILENO) == 0;
    const bool screen = has_screen(line);
    options.attended = !script;

    int exit = kWell;
    const auto linked = Linked::open(line, *loaded, {}, exit);
    if (linked == nullptr) return exit;
    if (linked->links() != nullptr) linked->links()->keep_real_time(false);
    std::string problem;
    const auto screens = link::Screens::open(loaded->yard.model, problem);
    if (screens == nullptr) {
        fmt::print(stderr, "error: {}\n", problem);
        return kOurFault;
    }
    if (!screens->none()) {
        warn_of_strangers(*loaded->yard.model);
        fmt::print(stderr, "offered to screens at {}\n", fmt::join(screens->places(), ", "));
        options.from_outside = [&] {
            std::vector<std::string> orders;
            for (const link::ScreenWrite& w : screens->take_written())
                orders.push_back(fmt::format("write {} = {}", w.tag, w.text));
            return orders;
        };
        options.after_step = [&](const session::Session& now) { screens->publish(now); };
    }
    const auto world = live::real_world();
    live::WallWatch first_scan(*world);
    session::Session session(loaded->yard.model, &first_scan, linked->partner());
    if (line.has("watch")) {
        live::WatchRequest wanted = live::read_watch(session, fmt::format("{}", fmt::join(line.list("watch"), ",")));
        if (!wanted.problem.empty()) return wrong_call(wanted.problem, wanted.hint);
        options.watches = std::move(wanted.watched);
    }
    std::optional<live::LeftSession> left;
    if (state != nullptr) {
        left = state->left();
        if (left && linked->links() != nullptr) {
            fmt::print(
                stderr,
                "warning: a controller is executed elsewhere, so the session that was cut off is not gone on with\n");
            left.reset();
        }
        if (!left && line.has("go-on") && linked->links() == nullptr)
            fmt::print(stderr, "warning: no session was cut off; this one begins anew\n");
        if (left && !goes_on(line, *left)) left.reset();
        const bool again = left && left->not_again.empty() && left->fingerprint == options.version.fingerprint;
        options.retained = again ? left->retained : stored_retained(line, loaded->yard.folder);
        for (const std::string& problem : live::put_retained(session, options.retained))
            fmt::print(stderr, "warning: not retained: {}\n", problem);
    }
    live::Sitting sitting(std::move(session), *world, std::move(options));
    const std::string title =
        fmt::format("{}: live, {}; 'help' lists the orders", loaded->yard.name,
                    sitting.pace() > 0 ? fmt::format("pace {:g}", sitting.pace()) : "as fast as it can");

    live::SignalFront signals;
    std::optional<live::FileFront> files_front;
    std::unique_ptr<live::SocketFront> socket;
    std::vector<live::Front*> fronts = {&signals};
    if (state != nullptr) {
        files_front.emplace(folders_of(loaded->yard), *world);
        fronts.push_back(&*files_front);
        std::string why;
        socket = live::SocketFront::open(state->socket_path(), kOthers, VYARD_VERSION, why);
        if (socket == nullptr) fmt::print(stderr, "warning: {}\n", why);
        if (socket != nullptr) fronts.push_back(socket.get());
    }
    if (left) print_line("going on with it ...\n");
    if (screen) {
        std::string why;
        const auto front = live::ScreenFront::open(kPerson, loaded->yard.folder, line.has("ascii"), why);
        if (front == nullptr) return wrong_call(why, "--plain takes lines without a screen");
        fronts.push_back(front.get());
        live::run(sitting, fronts, *world, left ? &*left : nullptr);
    } else {
        live::PlainFront front(STDIN_FILENO, kPerson, print_line);
        fronts.push_back(&front);
        if (!line.quiet()) print_line(title + "\n");
        live::run(sitting, fronts, *world, left ? &*left : nullptr);
    }
    if (!sitting.desk().table().empty()) fmt::print("{}", sitting.desk().table().text());
    return ended(sitting, script);
}

}  // namespace vyard::cli
