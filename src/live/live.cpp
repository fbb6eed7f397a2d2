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
    "  force TAG = VALUE   unforce TAG|all   forces on|off\n"
    "  fault POINT stuck on|off|at X   fault POINT open_wire|short|chatter|delay|noise|drift|offset|gain [AMOUNT]\n"
    "  fault D NAME [AMOUNT]   ... [for T | every N | at random every T for T]   heal D|all\n"
    "  take from BELT [at X]   place ITEM on BELT at X [colour C]   shift item on BELT [at X] by X\n"
    "  turn item on BELT [at X] by A   swap item on BELT [at X] for ITEM   stop   start [warm]\n"
    "  wait T   wait until COND [within T]   expect COND [within T | for T]\n"
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
          pace_(options.pace) {
        for (const trace::Channel& c : options.watches) watch(c);
    }

    LiveOutcome run() {
        pace_from_here();
        while (!quit_) {
            obey();
            if (quit_ || finished()) break;
            step();
        }
        return outcome_;
    }

  private:
    struct Watched {
        trace::Channel channel;
        double last;
        std::string last_text;  ///< Of a text.
    };
    /// An order that takes time, with the conditions it was read with.
    struct Waiting {
        Order order;
        logic::ConditionSet conditions;
        std::vector<session::Signal> signals;
        std::unique_ptr<procedure::Evaluator> evaluator;
        Nanoseconds begin{};
    };

    void say(const std::string& text) { print_(fmt::format("{:>11}  {}\n", base::clock_text(session_.now()), text)); }

    // --- time ---
    void pace_from_here() {
        wall_begin_ = clock_.now();
        run_begin_ = session_.now();
    }

    bool finished() const {
        if (options_.limit && session_.now() >= *options_.limit) return true;
        return waiting_ == nullptr && lines_.ended() && !options_.limit;
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
        const bool running = session_.model().controllers.empty() || session_.controller(0).running;
        session_.step(&watch_);
        show_changes();
        if (running && !session_.model().controllers.empty() && !session_.controller(0).running) {
            say(fmt::format("controller {} stopped: {}", session_.model().controllers[0].name,
                            controller::fault_text(session_.model().controllers[0], session_.controller(0))));
        }
        if (waiting_ != nullptr) look();
    }

    // --- orders ---
    /// Takes lines until one takes time, or none is there. At pace 0 an idle run waits for the next line.
    void obey() {
        while (!quit_ && waiting_ == nullptr) {
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
        auto waiting = std::make_unique<Waiting>();
        const std::string padding(static_cast<std::size_t>(line_number_ - 1),
                                  '\n');  // so that messages show the line's number
        const base::SourcePtr source = base::make_source("input", padding + line);
        const auto tokens = procedure::split_lines(logic::tokenize(source, diagnostics));
        logic::ConditionCompiler compiler(procedure::signal_resolver(session_.model(), waiting->signals, diagnostics));
        std::optional<Order> order;
        if (!tokens.empty())
            order = procedure::OrderReader(session_.model(), compiler, diagnostics).read(source, tokens[0]);
        if (diagnostics.has_errors() || !order) {
            ++outcome_.wrong_lines;
            print_(diagnostics.render());
            return;
        }
        if (order->action < Action::Wait) {
            const std::string problem = procedure::perform(session_, *order);
            say(problem.empty() ? order->text : fmt::format("{}: {}", order->text, problem));
            if (!problem.empty()) ++outcome_.wrong_lines;
            return;
        }
        say(order->text);
        waiting->order = std::move(*order);
        waiting->conditions = compiler.finish();
        waiting->evaluator = std::make_unique<procedure::Evaluator>(waiting->conditions, waiting->signals);
        waiting->begin = session_.now();
        waiting_ = std::move(waiting);
        look();
    }

    /// Whether the waiting order has come to its end.
    void look() {
        const Order& o = waiting_->order;
        const Nanoseconds waited = session_.now() - waiting_->begin;
        if (o.action == Action::Wait) {
            if (waited >= o.time) waiting_.reset();
            return;
        }
        if (waited.count() > 0 && !session_.scanned() && !session_.model().controllers.empty()) return;
        const bool holds = waiting_->evaluator->evaluate(o.condition, session_);
        if (o.action == Action::ExpectFor) {
            if (!holds) return conclude("failed", true);
            if (waited >= o.time) conclude("held", false);
            return;
        }
        if (holds) return conclude(o.action == Action::WaitUntil ? "now TRUE" : "as expected", false);
        if (o.action == Action::Expect || waited >= o.time) conclude("failed", true);
    }

    void conclude(const char* how, bool failed) {
        std::string text = fmt::format("{}: {}", how, waiting_->order.text);
        if (failed) {
            for (const auto& [name, value] : waiting_->evaluator->values(waiting_->order.condition, session_))
                text += fmt::format("; {} = {}", name, value);
            ++outcome_.failed_expectations;
        }
        say(text);
        waiting_.reset();
    }

    // --- looking ---
    void names(const std::string& verb, const std::string& rest) {
        std::string name;
        std::string text = rest + " ";
        for (const char c : text) {
            if (c != ' ' && c != ',' && c != '\t' && c != '\r') {
                name += c;
                continue;
            }
            if (!name.empty()) one_name(verb, name);
            name.clear();
        }
    }

    void one_name(const std::string& verb, const std::string& name) {
        if (verb == "unwatch") {
            std::erase_if(watched_, [&](const Watched& w) {
                return name == "all" || base::fold(w.channel.name) == base::fold(name);
            });
            return;
        }
        const auto signal = session::find_signal(session_.model(), name);
        if (!signal) {
            ++outcome_.wrong_lines;
            const std::string hint = base::name_hint(name, session::signal_names(session_.model()));
            print_(fmt::format("error: no tag, point or gauge is named '{}'\n{}", name,
                               hint.empty() ? "" : "    hint: " + hint + "\n"));
            return;
        }
        if (verb == "watch") {
            watch({name, *signal});
        } else {
            say(fmt::format("{} = {}", name, session::value_text(session_, *signal)));
        }
    }

    void watch(const trace::Channel& channel) {
        Watched watched{channel, 0.0, {}};
        changed(watched);
        watched_.push_back(std::move(watched));
        say(fmt::format("{} = {}", channel.name, session::value_text(session_, channel.signal)));
    }

    bool changed(Watched& w) const {
        if (logic::is_text(w.channel.signal.type)) {
            std::string text = session::read_text(session_, w.channel.signal);
            const bool other = text != w.last_text;
            w.last_text = std::move(text);
            return other;
        }
        const double value = session::read(session_, w.channel.signal);
        const bool other = value != w.last;
        w.last = value;
        return other;
    }

    void show_changes() {
        for (Watched& w : watched_) {
            if (!changed(w)) continue;
            say(fmt::format("{} = {}", w.channel.name, session::value_text(session_, w.channel.signal)));
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
    std::unique_ptr<Waiting> waiting_;
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
