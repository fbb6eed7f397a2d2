#include "live/live.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "live/record.hpp"

namespace vyard::live {

using base::Nanoseconds;

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
    "and here: watch NAMES   unwatch NAMES|all   show NAMES   why TAG   status   help   quit\n"
    "  pace FACTOR|max   pause   go   scan [N]   step [N]\n"
    "  rewind T   rewind until COND   forward T   snapshot NAME   restore NAME\n"
    "  reload [anyway|undo] (the logic, values kept)   keep FILE (what was ordered, as a procedure)\n";

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
          desk_(session, options.watches, options.expectations),
          lines_(lines),
          clock_(clock),
          watch_(clock),
          options_(options),
          print_(print),
          pace_(options.pace) {}

    LiveOutcome run() {
        pace_from_here();
        desk_.look_at_table();
        show();
        keep_moment();
        while (!quit_) {
            obey();
            if (quit_ || finished()) break;
            if (moves()) step();
        }
        if (!desk_.table().empty()) print_(desk_.table().text());
        session_ = desk_.session();
        return outcome_;
    }

  private:
    // --- what is said ---

    void show() {
        for (const Reply& reply : desk_.take_replies()) {
            print_(reply.at ? fmt::format("{:>11}  {}\n", base::clock_text(*reply.at), reply.text)
                            : fmt::format("{}\n", reply.text));
            if (reply.changed) record_.reaction(*reply.at, reply.text);
        }
        outcome_.wrong_lines += desk_.wrong_lines() - wrong_seen_;
        outcome_.failed_expectations += desk_.failed_expectations() - failed_seen_;
        count_from_here();
    }
    void count_from_here() {
        wrong_seen_ = desk_.wrong_lines();
        failed_seen_ = desk_.failed_expectations();
    }

    // --- time ---

    void pace_from_here() {
        wall_begin_ = clock_.now();
        run_begin_ = desk_.now();
    }

    /// Time passes: always, or while something that takes time was asked for.
    bool busy() const { return desk_.waits() || scans_left_ > 0 || steps_left_ > 0; }
    bool moves() const { return !paused_ || busy(); }

    bool finished() const {
        if (options_.limit && desk_.now() >= *options_.limit) return true;
        return !busy() && lines_.ended() && (!options_.limit || paused_);
    }

    void step() {
        go_on_from_here();
        const Nanoseconds width = desk_.session().model().step;
        if (pace_ > 0.0) {
            const Nanoseconds due =
                wall_begin_ + base::from_seconds(base::to_seconds(desk_.now() + width - run_begin_) / pace_);
            const Nanoseconds now = clock_.now();
            if (now > due + width) ++outcome_.late_steps;
            if (now < due) clock_.sleep_until(due);
        }
        const bool waited = desk_.waits();
        desk_.step(&watch_);
        show();
        if (waited && !desk_.waits()) record_.done(desk_.now());
        if (scans_left_ > 0 && desk_.session().scanned() && --scans_left_ == 0) desk_.say("scanned");
        if (steps_left_ > 0 && --steps_left_ == 0) desk_.say("stepped");
        show();
        keep_moment();
    }

    // --- lines ---

    /// Takes lines until one takes time, or none is there. At pace 0, and while time stands, waits for the next line.
    void obey() {
        while (!quit_ && !busy()) {
            const auto line = lines_.next((pace_ == 0.0 && !options_.limit) || paused_);
            if (!line) return;
            ++line_number_;
            obey(*line);
            show();
        }
    }

    void obey(const std::string& line) {
        const std::size_t begin = line.find_first_not_of(" \t\r");
        if (begin == std::string::npos || line.compare(begin, 2, "//") == 0) return;
        const std::size_t space = std::min(line.find_first_of(" \t\r", begin), line.size());
        const std::string word = base::fold(line.substr(begin, space - begin));
        std::string rest = line.substr(space);
        while (!rest.empty() && std::string_view(" \t\r").find(rest.back()) != std::string_view::npos) rest.pop_back();
        rest.erase(0, std::min(rest.find_first_not_of(" \t"), rest.size()));
        const auto own = own_words().find(word);
        if (own != own_words().end()) return (this->*own->second)(rest);
        const std::uint64_t acts = desk_.acts();
        const int wrong = desk_.wrong_lines();
        desk_.obey(line, line_number_);
        if (desk_.acts() == acts) return;
        go_on_from_here();
        if (desk_.wrong_lines() == wrong) record_.order(desk_.now(), line);
        show();
        keep_moment();
    }

    using Obey = void (LiveRun::*)(const std::string&);
    static const std::map<std::string, Obey>& own_words() {
        static const std::map<std::string, Obey> words = {
            {"quit", &LiveRun::quit},       {"exit", &LiveRun::quit},       {"help", &LiveRun::help},
            {"status", &LiveRun::status},   {"pace", &LiveRun::set_pace},   {"pause", &LiveRun::pause},
            {"go", &LiveRun::go},           {"scan", &LiveRun::scan},       {"step", &LiveRun::steps},
            {"rewind", &LiveRun::rewind},   {"forward", &LiveRun::forward}, {"snapshot", &LiveRun::snapshot},
            {"restore", &LiveRun::restore}, {"reload", &LiveRun::reload},   {"why", &LiveRun::why},
            {"keep", &LiveRun::keep_record}};
        return words;
    }

    void quit(const std::string&) { quit_ = true; }
    void help(const std::string&) { print_(kHelp); }
    void status(const std::string&) {
        desk_.obey("status", line_number_);
        desk_.say(fmt::format("late steps: {}; kept to go back to: {} from {} on, {:.1f} MB", outcome_.late_steps,
                              history_.size(), base::clock_text(history_.at(0)),
                              static_cast<double>(history_.bytes()) / 1e6));
    }

    void set_pace(const std::string& text) {
        const auto reading = base::read_quantity(text, base::Dimension::Plain);
        if (text != "max" &&
            (reading.fault != base::QuantityFault::None || reading.si_value <= 0.0 || reading.si_value > 1e6)) {
            return desk_.wrong(fmt::format("'{}' is no pace", text),
                               "pace 0.1 is slow motion, 1 real time, max as fast as it can");
        }
        pace_ = text == "max" ? 0.0 : reading.si_value;
        pace_from_here();
        desk_.say(fmt::format("pace {}", text));
    }

    void pause(const std::string&) {
        paused_ = true;
        desk_.say("time stands; go, scan, step, or an order that takes time");
    }
    void go(const std::string&) {
        paused_ = false;
        pace_from_here();
        desk_.say("time goes on");
    }

    void scan(const std::string& text) { count("scan", text, scans_left_); }
    void steps(const std::string& text) { count("step", text, steps_left_); }
    void count(const char* word, const std::string& text, int& left) {
        const auto reading = base::read_quantity(text.empty() ? "1" : text, base::Dimension::Plain);
        const bool whole =
            reading.fault == base::QuantityFault::None && reading.si_value == std::floor(reading.si_value);
        if (!whole || reading.si_value < 1 || reading.si_value > 1e6)
            return desk_.wrong(fmt::format("'{}' is no number of {}s", text, word), fmt::format("{} 10", word));
        paused_ = true;
        left = static_cast<int>(reading.si_value);
        pace_from_here();
    }

    // --- what was ---

    void keep_moment() {
        if (future_end_ > desk_.now()) return;  // it is kept already
        if (!history_.due(desk_.now()) && desk_.acts() == acts_kept_) return;
        acts_kept_ = desk_.acts();
        history_.keep(desk_.now(), desk_, desk_.bytes());
    }

    void cut_future() {
        desk_.say(fmt::format("what came after {} is forgotten", base::clock_text(desk_.now())));
        history_.forget_after(desk_.now());
        record_.forget_after(desk_.now());
        for (auto& [name, kept] : snapshots_) kept.shared = std::min(kept.shared, desk_.now());
        future_end_ = Nanoseconds(0);
    }
    /// Time passes or an order acts: what was looked back from does not come any more.
    void go_on_from_here() {
        if (future_end_ > desk_.now()) cut_future();
    }

    std::optional<Nanoseconds> time_of(const std::string& word, const std::string& text) {
        const auto reading = base::read_quantity(text, base::Dimension::Time);
        if (reading.fault == base::QuantityFault::None && reading.si_value >= 0.0)
            return base::from_seconds(reading.si_value);
        desk_.wrong(base::quantity_message(text, reading, base::Dimension::Time), fmt::format("{} 10 s", word));
        return std::nullopt;
    }

    void rewind(const std::string& text) {
        if (base::fold(text).starts_with("until")) return rewind_until(text);
        const auto by = time_of("rewind", text);
        if (by) travel(std::max(desk_.now() - *by, Nanoseconds(0)));
    }
    void forward(const std::string& text) {
        const auto by = time_of("forward", text);
        if (!by) return;
        if (future_end_ <= desk_.now())
            return desk_.wrong("nothing was kept after this time", "go on with go, or with an order");
        travel(std::min(desk_.now() + *by, future_end_));
    }

    /// Shows another moment of what was; time stands there.
    void travel(Nanoseconds target) {
        const auto number = history_.before(target);
        if (!number)
            return desk_.wrong(fmt::format("{} is no longer kept", base::clock_text(target)),
                               fmt::format("the first moment kept is {}", base::clock_text(history_.at(0))));
        // The present is kept too, so that it can be come back to.
        if (future_end_ <= desk_.now()) {
            future_end_ = desk_.now();
            history_.keep(desk_.now(), desk_, desk_.bytes());
        }
        desk_ = history_.moment(*number);
        while (desk_.now() < target) desk_.step();
        arrived();
    }
    void arrived() {
        desk_.take_replies();
        desk_.drop_order();
        count_from_here();
        acts_kept_ = desk_.acts();
        paused_ = true;
        scans_left_ = steps_left_ = 0;
        desk_.say("here; time stands. forward, go, or an order");
        desk_.show_watched();
    }

    /// To the last time before now that a condition came or held.
    void rewind_until(const std::string& text) {
        base::Diagnostics diagnostics;
        const auto book = procedure::read_order(desk_.session().model(),
                                                base::make_source("input", fmt::format("wait {}", text)), diagnostics);
        if (diagnostics.has_errors() || book == nullptr) {
            return desk_.wrong(fmt::format("'{}' is no condition to go back to", text),
                               "rewind until rises(alarm_lamp)");
        }
        const Nanoseconds now = desk_.now();
        for (auto number = history_.before(now - Nanoseconds(1)); number;
             number = *number == 0 ? std::nullopt : std::optional(*number - 1)) {
            const Nanoseconds end = *number + 1 < history_.size() ? std::min(history_.at(*number + 1), now) : now;
            if (const auto found = last_time(book, history_.moment(*number), end, now)) return travel(*found);
        }
        desk_.wrong(fmt::format("since {} that was not so", base::clock_text(history_.at(0))));
    }

    static std::optional<Nanoseconds> last_time(const std::shared_ptr<const procedure::Book>& book, Desk from,
                                                Nanoseconds end, Nanoseconds now) {
        std::optional<Nanoseconds> out;
        session::Session look = from.session();
        std::optional<procedure::Run> run;
        run.emplace(book, 0, look);
        while (true) {
            look = from.session();
            if (!run->advance(look)) {
                if (from.now() < now) out = from.now();
                run.emplace(book, 0, look);
                run->advance(look);  // an edge is told against this scan
            }
            if (from.now() >= end) return out;
            from.step();
        }
    }

    void snapshot(const std::string& name) {
        if (name.empty()) return desk_.wrong("a snapshot needs a name", "snapshot before_fault");
        snapshots_.insert_or_assign(base::fold(name), Snapshot{desk_, record_, desk_.now()});
        desk_.say(fmt::format("snapshot {}", name));
    }
    void restore(const std::string& name) {
        const auto found = snapshots_.find(base::fold(name));
        if (found == snapshots_.end()) {
            std::vector<std::string> known;
            for (const auto& [n, kept] : snapshots_) known.push_back(n);
            return desk_.wrong(fmt::format("no snapshot is named '{}'", name), base::name_hint(name, known));
        }
        Snapshot& kept = found->second;
        desk_ = kept.desk;
        record_ = kept.record;
        // What is kept of another course of events is not this one's past.
        history_.forget_after(kept.shared < desk_.now() ? Nanoseconds(-1) : desk_.now());
        for (auto& [n, other] : snapshots_) {
            if (&other != &kept)
                other.shared = std::min(other.shared, kept.shared < desk_.now() ? Nanoseconds(-1) : desk_.now());
        }
        kept.shared = desk_.now();
        future_end_ = Nanoseconds(0);
        history_.keep(desk_.now(), desk_, desk_.bytes());
        arrived();
    }

    // --- logic ---

    void reload(const std::string& text) {
        const std::string how = base::fold(text);
        if (!how.empty() && how != "anyway" && how != "undo")
            return desk_.wrong(fmt::format("'{}' is no way to reload", text),
                               base::name_hint(text, {"anyway", "undo"}));
        if (how == "undo") {
            if (programs_before_.empty()) return desk_.wrong("no logic was reloaded that could be undone");
            return take_programs(std::exchange(programs_before_, {}), true);
        }
        if (!options_.reload) return desk_.wrong("there is no logic to read again");
        const Reloaded loaded = options_.reload();
        if (!loaded.mistakes.empty()) {
            std::string said = loaded.mistakes;
            while (said.ends_with('\n')) said.pop_back();
            return desk_.wrong(fmt::format("the logic was not taken, what ran goes on\n{}", said));
        }
        take_programs(loaded.programs, how == "anyway");
    }

    /// Tried on a copy first: what would be lost is not lost unasked.
    void take_programs(const std::vector<std::shared_ptr<const logic::Program>>& programs, bool anyway) {
        Desk trial = desk_;
        trial.take_replies();
        std::vector<std::string> lost;
        std::vector<std::shared_ptr<const logic::Program>> before;
        const auto& controllers = desk_.session().model().controllers;
        for (std::size_t c = 0; c < controllers.size() && c < programs.size(); ++c) {
            before.push_back(controllers[c].program);
            const controller::ChangeReport report = trial.change_logic(static_cast<int>(c), programs[c]);
            lost.insert(lost.end(), report.unjoined.begin(), report.unjoined.end());
            trial.say(fmt::format("controller {}: {} kept, {} new, {} gone", controllers[c].name, report.kept.size(),
                                  report.fresh.size(), report.dropped.size()));
            for (const std::string& name : report.fresh) trial.say(fmt::format("new   {}", name));
            for (const std::string& name : report.dropped) trial.say(fmt::format("gone  {}", name));
        }
        if (!lost.empty() && !anyway)
            return desk_.wrong(
                fmt::format("the logic was not taken: {} would be joined to nothing", fmt::join(lost, ", ")),
                "reload anyway takes it all the same");
        go_on_from_here();
        for (const Reply& r : desk_.take_replies()) trial.say(r.text);
        desk_ = std::move(trial);
        programs_before_ = std::move(before);
        record_.remark(desk_.now(), "here the logic was reloaded");
        for (const std::string& name : lost) desk_.say(fmt::format("joined to nothing now: {}", name));
        keep_moment();
    }

    void why(const std::string& name) {
        const session::Search found = session::search(desk_.session().model(), name);
        if (!found.signal) return desk_.wrong(found.problem, found.hint);
        desk_.say(fmt::format("{} = {}", name, session::explained_text(desk_.session(), *found.signal)));
        for (const procedure::HeldOff& held : procedure::held_off(desk_.session())) {
            if (base::fold(held.tag) != base::fold(name)) continue;
            desk_.say(
                fmt::format("  kept off by {}   ({})", fmt::join(held.missing, "; "), procedure::where_text(held)));
        }
    }

    void keep_record(const std::string& path) {
        if (path.empty()) return desk_.wrong("keep needs the name of a file", "keep procedures/as_done.proc");
        if (!options_.write) return desk_.wrong("files cannot be written here");
        const std::string failure = options_.write(path, record_.procedure(name_of(path)));
        if (!failure.empty()) return desk_.wrong(failure);
        desk_.say(fmt::format("kept {}", path));
    }
    /// "as done" of "procedures/as_done.proc".
    static std::string name_of(const std::string& path) {
        std::string out = path.substr(path.find_last_of('/') == std::string::npos ? 0 : path.find_last_of('/') + 1);
        out = out.substr(0, out.find('.'));
        std::replace(out.begin(), out.end(), '_', ' ');
        std::erase(out, '"');
        return out.empty() ? "kept" : out;
    }

    session::Session& session_;  ///< Of the caller: becomes the desk's at the end.
    Desk desk_;
    LineSource& lines_;
    Clock& clock_;
    WallWatch watch_;
    const LiveOptions& options_;
    const std::function<void(const std::string&)>& print_;
    LiveOutcome outcome_;
    session::History<Desk> history_{kMostHistoryBytes, kHistorySpacing};
    Nanoseconds future_end_{};  ///< What was looked back from; not after now when nothing is.
    struct Snapshot {
        Desk desk;
        Record record;
        Nanoseconds shared{};  ///< Up to here the history is its past too.
    };
    std::map<std::string, Snapshot> snapshots_;
    std::vector<std::shared_ptr<const logic::Program>> programs_before_;
    Record record_;
    double pace_;
    Nanoseconds wall_begin_{}, run_begin_{};
    std::uint64_t acts_kept_ = 0;
    int line_number_ = 0, wrong_seen_ = 0, failed_seen_ = 0;
    int scans_left_ = 0, steps_left_ = 0;
    bool paused_ = false, quit_ = false;
};

}  // namespace

LiveOutcome run_live(session::Session& session, LineSource& lines, Clock& clock, const LiveOptions& options,
                     const std::function<void(const std::string&)>& print) {
    return LiveRun(session, lines, clock, options, print).run();
}

}  // namespace vyard::live
