#include "cli/linked.hpp"

#include <fmt/format.h>
#include <signal.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>

#include "files/text_file.hpp"
#include "link/server.hpp"

namespace vyard::cli {

namespace po = boost::program_options;
using controller::LinkRole;

void add_linked_options(CommandLine& line, bool done_again) {
    line.options().add_options()("stand-in",
                                 "of a yard whose controller is executed elsewhere: start its stand-in along with it")(
        "wait", po::value<std::string>()->value_name("TIME"),
        "for controllers that are executed elsewhere, before the run begins; default 30 s");
    line.apart({"here"}, {"stand-in", "wait"});
    if (!done_again) return;
    line.options().add_options()("link-record", po::value<std::string>()->value_name("FILE.csv"),
                                 "write down what came from controllers that are executed elsewhere")(
        "link-times", po::value<std::string>()->value_name("FILE.csv"),
        "write down each exchange with controllers that are executed elsewhere: how late it was, how long it took")(
        "link-replay", po::value<std::string>()->value_name("FILE.csv"),
        "in their place what --link-record wrote: the same run, without them");
    line.apart({"link-replay"}, {"stand-in", "wait", "link-record", "link-times", "link"});
    line.apart({"here"}, {"link-record", "link-times", "link-replay"});
}

std::vector<std::string> linked_results(const CommandLine& line) {
    std::vector<std::string> out;
    for (const char* option : {"link-record", "link-times"}) {
        if (line.has(option)) out.push_back(line.text(option));
    }
    return out;
}

namespace {

/// This program once more, as the stand-in of one controller; it ends when this one does. -1 when it cannot start.
int start_stand_in(const std::string& folder, const std::string& controller, const std::vector<std::string>& links) {
    std::vector<std::string> words = {"vyard", "stand-in", folder, controller, "--quiet"};
    for (const std::string& link : links) words.insert(words.end(), {"--link", link});
    const int child = ::fork();
    if (child != 0) return child;
    ::prctl(PR_SET_PDEATHSIG, SIGTERM);
    std::vector<char*> arguments;
    for (std::string& w : words) arguments.push_back(w.data());
    arguments.push_back(nullptr);
    ::execv("/proc/self/exe", arguments.data());
    ::_exit(127);
}

std::string endpoint(const std::string& host, int port) {
    return host.find(':') == std::string::npos ? fmt::format("{}:{}", host, port) : fmt::format("[{}]:{}", host, port);
}

/// Of all links, as --link says them, with the ports as they came to be: stand-ins may ask one another.
std::vector<std::string> ends_of(const session::SessionModel& model, const link::Links& links) {
    std::vector<std::string> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& one = model.controllers[c];
        if (!one.remote()) continue;
        const int port = one.link->role == LinkRole::Server ? links.port(static_cast<int>(c)) : one.link->port;
        out.push_back(
            fmt::format("{}={}@{}", one.name, controller::role_name(one.link->role), endpoint(one.link->host, port)));
    }
    return out;
}

}  // namespace

void warn_of_listening(const controller::ControllerModel& c) {
    if (link::is_loopback(c.link->host)) return;
    fmt::print(stderr, "warning: the link of '{}' listens at {}, where other machines can reach it; {}\n", c.name,
               endpoint(c.link->host, c.link->port),
               c.link->from.empty() ? std::string("none may connect but this one: 'from' names those that may")
                                    : fmt::format("{} may connect, and nothing asks them for a password",
                                                  fmt::join(c.link->from, ", ")));
}

void warn_of_strangers(const session::SessionModel& model) {
    for (const controller::ControllerModel& c : model.controllers) {
        if (c.link && c.link->role != LinkRole::Client) warn_of_listening(c);
    }
}

std::unique_ptr<Linked> Linked::open(const CommandLine& line, const Loaded& loaded, const std::function<bool()>& ended,
                                     int& exit) {
    if (const auto refused = refuse_outputs(loaded.yard.read_from, linked_results(line))) {
        exit = *refused;
        return nullptr;
    }
    exit = kWrongCall;
    const session::SessionModel& model = *loaded.yard.model;
    auto out = std::make_unique<Linked>();
    if (!session::any_elsewhere(model)) {
        for (const char* option : {"stand-in", "wait", "link-record", "link-times", "link-replay"}) {
            if (!line.has(option)) continue;
            wrong_call(fmt::format("--{}: no controller of this yard is executed elsewhere", option),
                       "[controller.NAME.link] role = \"server\" or \"client\"");
            return nullptr;
        }
        return out;
    }
    if (line.has("link-replay")) {
        base::Diagnostics diagnostics;
        if (const auto source = files::read_source(line.text("link-replay"), {}, diagnostics))
            out->replay_ = link::LinkReplay::read(source, model, diagnostics);
        show_diagnostics(line, diagnostics);
        line.remember(diagnostics.list());
        out->partner_ = out->replay_.get();
        return out->replay_ == nullptr ? nullptr : std::move(out);
    }
    const auto wait = line.quantity("wait", base::Dimension::Time, 30.0, 0.0, 3600.0);
    if (!wait) return nullptr;
    exit = kOurFault;
    warn_of_strangers(model);
    std::string problem;
    out->links_ = link::Links::open(model, problem);
    if (out->links_ == nullptr) {
        fmt::print(stderr, "error: {}\n", problem);
        return nullptr;
    }
    const std::vector<std::string> ends = ends_of(model, *out->links_);
    for (std::size_t c = 0; c < model.controllers.size() && line.has("stand-in"); ++c) {
        const controller::ControllerModel& one = model.controllers[c];
        if (!one.remote()) continue;
        const int child = start_stand_in(loaded.yard.folder, one.name, ends);
        if (child < 0) fmt::print(stderr, "error: the stand-in of '{}' cannot be started\n", one.name);
        if (child < 0) return nullptr;
        out->children_.push_back(child);
    }
    if (!line.quiet() && !line.has("stand-in")) {
        for (const link::LinkFigures& f : out->links_->figures())
            fmt::print(stderr, "waiting for '{}', {} ...\n", f.name, f.where);
    }
    if (!out->links_->wait_for_all(base::from_seconds(*wait), ended)) {
        for (const link::LinkFigures& f : out->links_->figures()) {
            if (!f.problem.empty())
                fmt::print(stderr, "warning: nothing came from '{}' within {:g} s: {}; the run begins without it\n",
                           f.name, *wait, f.problem);
        }
    }
    out->partner_ = out->links_.get();
    if (line.has("link-record")) {
        out->recorder_ = std::make_unique<link::LinkRecorder>(*out->links_, model);
        out->partner_ = out->recorder_.get();
    }
    if (line.has("link-times")) out->keep_times(line.text("link-times"), model);
    return out;
}

void Linked::keep_times(const std::string& path, const session::SessionModel& model) {
    times_.emplace(path);
    times_->write("time_s,controller,late_ms,took_ms,came\n");
    links_->on_exchange([&](const link::Exchanged& e) {
        times_->write(fmt::format("{:.9g},{},{},{:.3f},{}\n", base::to_seconds(e.now),
                                  base::at(model.controllers, e.controller).name,
                                  e.late_ms ? fmt::format("{:.3f}", *e.late_ms) : "", e.took_ms, e.came ? 1 : 0));
    });
}

Linked::~Linked() {
    for (const int child : children_) ::kill(child, SIGTERM);
    for (const int child : children_) ::waitpid(child, nullptr, 0);
}

std::string figures_text(const link::LinkFigures& f, bool in_real_time) {
    std::string out = fmt::format("link {}: {}: {} scans, {} answered, {} requests", f.name, f.where, f.exchanges,
                                  f.came, f.requests);
    if (in_real_time) out += fmt::format("; late by {:.2f} ms at most, jitter {:.2f} ms", f.latest_ms, f.jitter_ms);
    return out;
}

bool Linked::close(const CommandLine& line) {
    if (recorder_ != nullptr && !write_result(line, line.text("link-record"), recorder_->text())) return false;
    if (times_ && !keep_result(line, *times_)) return false;
    if (links_ == nullptr || line.quiet() || line.has("json")) return true;
    for (const link::LinkFigures& f : links_->figures()) fmt::print("{}\n", figures_text(f, !f.locked));
    return true;
}

}  // namespace vyard::cli
