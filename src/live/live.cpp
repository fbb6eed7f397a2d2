#include "live/live.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::live {

using base::Nanoseconds;
using procedure::Action;
using procedure::Order;

namespace {

constexpr const char* kHelp =
    "orders, as in procedures:\n"
    "  press D [for T]   release D   turn D to POSITION   set D to VALUE   reset D   pull D   open D   tilt D to X\n"
    "  force TAG = VALUE (at once)   unforce TAG|all   forces off|on   write TAG = VALUE (once)\n"
    "  fault POINT stuck on|off|at X   fault POINT open_wire|short|chatter|delay|noise|drift|offset|gain [AMOUNT]\n"
    "  fault D NAME [AMOUNT]   ... [for T | every N | at random every T for T]   heal D|all\n"
    "  take from BELT [at X]   place ITEM on BELT at X [colour C]   shift item on BELT [at X] by X\n"
    "  turn item on BELT [at X] by A   swap item on BELT [at X] for ITEM   stop   start [warm]\n"
    "  wait T   wait until COND [within T]   expect COND [within T [not before T]] [for T]\n"
    "  measure [\"NAME\"] from COND to COND [within T]   expect stopped [CONTROLLER] [within T]\n"
    "  T is a time, or N scans; TAG also an element, a field, a part (status.%X3), an address (%QB0)\n"
    "  COND compares with units: level > 200 mm; logic.TAG is what the logic worked out, plant.D.NAME the plant's\n"
    "and here: watch NAMES   unwatch NAMES|all   show NAMES   status   pace FACTOR|max   help   quit\n";

/// Ends a scan by the wall clock.
class WallWatch final : public logic::ScanWatch {
  public:
    explicit WallWatch(Clock& clock) : clock_(clock) {}
    void begin(Nanoseconds limit) override { end_ = clock_.now() + limit; }
    bool expired() override { return clock_.now() > end_; }

  private:
    Clock& clock_;
    Nanoseconds end_{};
};

class LiveRun {
  public:
    LiveRun(session::Session& session, LineSource& lines, Clock& clock, const LiveOptions& options,
            const std::function<void(const std::string&)>& print)
        : session_(session),
          lines_(lines),
          clock_(clock),
          watch_(clock),
          options_(options),
          print_(print),
          table_(options.expectations),
          pace_(options.pace) {
        for (const trace::Channel& c : options.watches) watch(c);
    }

    LiveOutcome run() {
        pace_from_here();
        show_misses();
        while (!quit_) {
            obey();
            if (quit_ || finished()) break;
            step();
        }
        if (!table_.empty()) print_(table_.text());
        return outcome_;
    }

  private:
    struct Watched {
        trace::Channel channel;
        std::string last;  ///< As it was said.
    };

    void say(const std::string& text) { print_(fmt::format("{:>11}  {}\n", base::clock_text(session_.now()), text)); }

    // --- time ---
    void pace_from_here() {
        wall_begin_ = clock_.now();
        run_begin_ = session_.now();
    }

    bool finished() const {
        if (options_.limit && session_.now() >= *options_.limit) return true;
        return !waiting_ && lines_.ended() && !options_.limit;
    }

    void step() {
        if (pace_ > 0.0) {
            const Nanoseconds due =
                wall_begin_ +
                base::from_seconds(base::to_seconds(session_.now() + session_.model().step - run_begin_) / pace_);
            const Nanoseconds now = clock_.now();
            if (now > due + session_.model().step) ++outcome_.late_steps;
            if (now < due) clock_.sleep_until(due);
        }
        session_.step(&watch_);
        show_changes();
        show_stops();
        show_odd_outputs();
        show_misses();
        if (waiting_) go_on();
    }

    // --- orders ---
    /// Takes lines until one takes time, or none is there. At pace 0 an idle run waits for the next line.
    void obey() {
        while (!quit_ && !waiting_) {
            const auto line = lines_.next(pace_ == 0.0 && !options_.limit);
            if (!line) return;
            ++line_number_;
            obey(*line);
        }
    }

    void obey(const std::string& line) {
        const std::size_t begin = line.find_first_not_of(" \t\r");
        if (begin == std::string::npos || line.compare(begin, 2, "//") == 0) return;
        const std::size_t space = std::min(line.find_first_of(" \t\r", begin), line.size());
        const std::string word = base::fold(line.substr(begin, space - begin));
        const std::string rest = line.substr(space);
        if (word == "quit" || word == "exit") {
            quit_ = true;
        } else if (word == "help") {
            print_(kHelp);
        } else if (word == "status") {
            status();
        } else if (word == "watch" || word == "show" || word == "unwatch") {
            names(word, rest);
        } else if (word == "pace") {
            set_pace(rest);
        } else {
            order(line);
        }
    }

    void order(const std::string& line) {
        base::Diagnostics diagnostics;
        const std::string padding(static_cast<std::size_t>(line_number_ - 1),
                                  '\n');  // so that messages show the line's number
        const auto book =
            procedure::read_order(session_.model(), base::make_source("input", padding + line), diagnostics);
        if (diagnostics.has_errors()) {
            ++outcome_.wrong_lines;
            print_(diagnostics.render());
        }
        if (book == nullptr) return;
        waiting_.emplace(book, 0, session_);
        if (waiting_->order()->waits()) say(waiting_->order()->text);
        go_on();
    }

    /// Lets the order that was given last do what is due now.
    void go_on() {
        if (waiting_->advance(session_)) return;
        const Order o = waiting_->procedure().steps[0].orders[0];
        const procedure::StepVerdict verdict = waiting_->verdict(session_).steps[0];
        waiting_.reset();
        if (!o.waits()) {
            say(verdict.failure ? fmt::format("{}: {}", o.text, verdict.failure->found) : o.text);
            if (verdict.failure) ++outcome_.wrong_lines;
            if (o.action != Action::Note) {
                for (const std::string& note : verdict.notes) say(note);
            }
            return;
        }
        if (o.action == Action::Wait) return;
        for (const std::string& note : verdict.notes) say(note);
        std::string text = fmt::format("{}: {}",
                                       verdict.failure                 ? "failed"
                                       : o.action == Action::WaitUntil ? "now TRUE"
                                       : o.hold                        ? "held"
                                                                       : "as expected",
                                       o.text);
        if (verdict.failure) {
            text += "; " + verdict.failure->found;
            for (const auto& [name, value] : verdict.failure->values) text += fmt::format("; {} = {}", name, value);
            ++outcome_.failed_expectations;
        }
        say(text);
    }

    void show_stops() {
        const auto& controllers = session_.model().controllers;
        stops_.resize(controllers.size());
        for (std::size_t c = 0; c < controllers.size(); ++c) {
            const controller::ControllerState& state = session_.controller(static_cast<int>(c));
            if (state.stops == stops_[c]) continue;
            stops_[c] = state.stops;
            say(fmt::format("controller {} stopped: {}", controllers[c].name,
                            controller::fault_text(controllers[c], state.fault)));
        }
    }

    /// Numbers of the logic that no wire can carry, each wire's once.
    void show_odd_outputs() {
        const std::size_t known = odd_outputs_;
        odd_outputs_ = session_.odd_outputs().size();
        if (odd_outputs_ == known) return;
        const std::vector<std::string> all = session::odd_outputs_text(session_);
        for (std::size_t i = known; i < all.size(); ++i) say(all[i]);
    }

    /// What the table expected and was not so, as it comes.
    void show_misses() {
        const std::size_t known = table_.misses().size();
        table_.observe(session_);
        for (std::size_t i = known; i < table_.misses().size(); ++i) {
            const procedure::Failure& miss = table_.misses()[i];
            say(fmt::format("not as expected: {}, but {}", miss.expected, miss.found));
            ++outcome_.failed_expectations;
        }
    }

    // --- looking ---
    void names(const std::string& verb, const std::string& rest) {
        for (const std::string& name : session::split_names(rest)) one_name(verb, name);
    }

    void one_name(const std::string& verb, const std::string& name) {
        if (verb == "unwatch") {
            std::erase_if(watched_, [&](const Watched& w) {
                return name == "all" || base::fold(w.channel.name) == base::fold(name);
            });
            return;
        }
        const session::Search found = session::search(session_.model(), name);
        if (!found.signal) {
            ++outcome_.wrong_lines;
            print_(fmt::format("error: {}\n{}", found.problem,
                               found.hint.empty() ? "" : "    hint: " + found.hint + "\n"));
            return;
        }
        if (verb == "watch") {
            watch(trace::make_channel(session_.model(), name, *found.signal));
        } else {
            say(fmt::format("{} = {}", name, session::explained_text(session_, *found.signal)));
        }
    }

    void watch(const trace::Channel& channel) {
        watched_.push_back({channel, session::explained_text(session_, channel.signal)});
        say(fmt::format("{} = {}", channel.name, watched_.back().last));
    }

    void show_changes() {
        for (Watched& w : watched_) {
            std::string now = session::explained_text(session_, w.channel.signal);
            if (now == w.last) continue;
            w.last = std::move(now);
            say(fmt::format("{} = {}", w.channel.name, w.last));
        }
    }

    void status() {
        for (std::size_t c = 0; c < session_.model().controllers.size(); ++c) {
            const auto& state = session_.controller(static_cast<int>(c));
            say(fmt::format("controller {} {}, {} scans, forces {}", session_.model().controllers[c].name,
                            state.running ? "runs" : "is stopped", state.scans, state.forces_on ? "on" : "off"));
        }
        for (const std::string& text : session::forces_text(session_)) say(text);
        for (const std::string& text : session::faults_text(session_)) say("fault " + text);
        say(fmt::format("items on the plant: {}; late steps: {}", session_.plant().items.size(), outcome_.late_steps));
    }

    void set_pace(const std::string& rest) {
        std::string text = rest;
        std::erase_if(text, [](char c) { return c == ' ' || c == '\r'; });
        const auto reading = base::read_quantity(text, base::Dimension::Plain);
        if (text != "max" &&
            (reading.fault != base::QuantityFault::None || reading.si_value <= 0.0 || reading.si_value > 1e6)) {
            ++outcome_.wrong_lines;
            print_(fmt::format(
                "error: '{}' is no pace\n    hint: pace 0.1 is slow motion, 1 real time, max as fast as it can\n",
                text));
            return;
        }
        pace_ = text == "max" ? 0.0 : reading.si_value;
        pace_from_here();
        say("pace " + text);
    }

    session::Session& session_;
    LineSource& lines_;
    Clock& clock_;
    WallWatch watch_;
    const LiveOptions& options_;
    const std::function<void(const std::string&)>& print_;
    LiveOutcome outcome_;
    std::optional<procedure::Run> waiting_;  ///< The order given last, while it takes time.
    std::vector<std::uint32_t> stops_;       ///< By controller, those that were said.
    std::size_t odd_outputs_ = 0;            ///< How many were said.
    procedure::TableCheck table_;            ///< Of --stimulus.
    std::vector<Watched> watched_;
    double pace_;
    Nanoseconds wall_begin_{}, run_begin_{};
    int line_number_ = 0;
    bool quit_ = false;
};

}  // namespace

LiveOutcome run_live(session::Session& session, LineSource& lines, Clock& clock, const LiveOptions& options,
                     const std::function<void(const std::string&)>& print) {
    return LiveRun(session, lines, clock, options, print).run();
}

}  // namespace vyard::live
