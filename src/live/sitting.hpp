// A person's hour at the machine: the desk, its pace, its history, what is recorded and read anew. Fronts (a screen,
// lines, a socket) hand lines in and take replies; a loop asks when the next step is due and makes it. A sitting
// neither waits nor prints.
#pragma once

#include <functional>
#include <future>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"
#include "live/clock.hpp"
#include "live/desk.hpp"
#include "live/lateness.hpp"
#include "live/record.hpp"
#include "live/recording.hpp"
#include "live/yard_state.hpp"

namespace vyard::live {

/// Memory of what was, so that it can be gone back to.
constexpr std::size_t kMostHistoryBytes = 40U << 20;  ///< The oldest moments go first; 10 min of the demo take 13 MB.
/// Between kept moments; what is between is computed anew.
constexpr base::Nanoseconds kHistorySpacing{1'000'000'000};
constexpr std::size_t kMostUndo = 20;  ///< Reloads that can be undone.

/// The yard, read again.
struct Reloaded {
    std::string mistakes;  ///< Why it was not; "" when all is well.
    YardVersion version;
};

struct SittingOptions {
    double pace = 1.0;                       ///< Simulated seconds per second; 0 for as fast as it can.
    std::optional<base::Nanoseconds> limit;  ///< Ends the run at this simulated time.
    std::vector<Watched> watches;
    std::vector<session::Expectation> expectations;  ///< Of a table, by time; what is not so is said as it comes.
    YardVersion version;                             ///< Of the session that is handed in.
    std::string folder;                              ///< Of the yard.
    bool outside = false;  ///< Lists, tables and procedures elsewhere than there and in the current folder are meant.
    std::function<Reloaded()> reload;  ///< Null: there is nothing to read again.
    /// Writes a new file; what went wrong, or "". Null: files cannot be written.
    std::function<std::string(const std::string& path, const std::string& text)> write;
    /// Orders that came from outside since the last step, such as what a screen wrote. Null: none come.
    std::function<std::vector<std::string>()> from_outside;
    std::function<void(const session::Session&)> after_step;  ///< Shows others what is now. Null: nobody looks.
    bool attended = false;              ///< A person is at it: what would lose forces is asked for twice.
    YardState* state = nullptr;         ///< Null: nothing is kept beside the yard.
    std::vector<RetainedRow> retained;  ///< What was put back into the session before it was handed in.
};

class Sitting {
  public:
    Sitting(session::Session session, Clock& clock, SittingOptions options);

    /// To be called once, before anything else.
    void begin();
    /// Goes on where a session that was killed had come to: its orders again at their times, or where that does not
    /// lead there, its forces and what it watched.
    void go_on(const LeftSession& left);

    /// A line of a front. `number`: of the line, for messages.
    void obey(const std::string& line, int number, Asker asker);
    /// Something that this asker asked for takes time, of the run or of the clock.
    bool busy(Asker asker) const {
        return desk_.waits(asker) || (counting_for_ == asker && counting()) || works(asker);
    }
    /// Something takes time of the run.
    bool busy() const { return desk_.waits() || counting(); }

    /// When the next step is to begin, by the clock; null: time stands until something is asked for.
    std::optional<base::Nanoseconds> due() const;
    /// A step of the plant and what comes with it.
    void tick();
    /// Files of the yard changed.
    void files_changed();
    /// Once a second: what is kept beside the yard, what is recorded.
    void keep();
    /// Something is done beside the run, in threads of its own: files that are read anew, pictures.
    bool works() const { return !jobs_.empty(); }
    /// Takes what of it is done.
    void take_work() { take_work(false); }
    bool over() const { return over_; }
    /// Time passes by itself, without an order that asks for it.
    bool runs() const { return !paused_; }
    bool at_limit() const { return options_.limit && desk_.now() >= *options_.limit; }
    /// `signal`: what ended it from outside; 0 for none.
    void end(const std::string& why, int signal = 0);
    int ended_by() const { return ended_by_; }
    /// After the last step: what is open is closed.
    void finish();

    std::vector<Reply> take_replies();
    const Desk& desk() const { return desk_; }
    const Recording& recording() const { return recording_; }
    const Lateness& lateness() const { return lateness_; }
    const SittingOptions& options() const { return options_; }
    double pace() const { return pace_; }
    bool paused() const { return paused_; }
    /// What was looked back from; not after now when nothing is.
    base::Nanoseconds future_end() const { return future_end_; }
    int wrong_lines() const { return wrong_lines_; }
    int failed_expectations() const { return failed_expectations_; }
    /// The list of tags that was opened last, "" for none, and what it would write to a tag; null for nothing.
    const std::string& open_list() const { return list_; }
    const std::string* list_value(const std::string& tag) const {
        const auto found = list_values_.find(base::fold(tag));
        return found == list_values_.end() ? nullptr : &found->second;
    }
    /// Words that stand first in a line, for completion and hints.
    static const std::vector<std::string>& words();

  private:
    using Obey = void (Sitting::*)(const std::string&);
    static const std::map<std::string, Obey>& own_words();

    // --- words ---
    void quit(const std::string& rest);
    void help(const std::string& rest);
    void status(const std::string& rest);
    void why(const std::string& name);
    void run_controller(const std::string& rest);
    void restart(const std::string& rest);
    void everything(const std::string& rest);
    void keep_record(const std::string& path);
    void mark(const std::string& name);
    void measure(const std::string& rest);
    void record(const std::string& rest);
    void when(const std::string& rest);
    void list(const std::string& rest);
    bool meant(const std::string& path);
    void lists(const std::string& rest);
    void procedure(const std::string& text);
    void table(const std::string& path);
    void follow(const std::shared_ptr<const procedure::Book>& book, std::size_t number);
    void picture(const std::string& path);
    void order(const std::string& line);

    // --- time (sitting_time.cpp) ---
    void set_pace(const std::string& text);
    void pause(const std::string& rest);
    void go(const std::string& rest);
    void scan(const std::string& text);
    void steps(const std::string& text);
    void rewind(const std::string& text);
    void rewind_until(const std::string& text);
    void forward(const std::string& text);
    void snapshot(const std::string& name);
    void restore(const std::string& name);
    void travel(base::Nanoseconds target);
    void leave_desk();
    void keep_replies();
    void arrived();
    void pace_from_here();
    std::optional<int> count_of(const std::string& text, const char* what);
    std::optional<base::Nanoseconds> time_of(const std::string& word, const std::string& text);
    void keep_moment();
    void cut_future();
    void take_record(Record record);
    void go_on_from_here();
    bool counting() const { return scans_left_ > 0 || steps_left_ > 0; }

    // --- the yard read anew (sitting_reload.cpp) ---
    void reload(const std::string& text);
    /// Why it was not taken, or "".
    std::string take(const YardVersion& loaded, bool anyway, bool undo);
    struct Taken;
    void change_logic_in(Desk& trial, const session::SessionModelPtr& model, Taken& taken) const;
    void move_in(Desk& trial, const YardVersion& loaded, Taken& taken) const;

    // --- beside the run ---
    using Done = std::function<void()>;  ///< What is left to do in the run, when a job is done.
    struct Job {
        std::future<Done> done;
        Asker asker = 0;
    };
    void work(std::function<Done()> job);
    void take_work(bool wait);
    bool works(Asker asker) const;

    void say_all(const std::vector<std::string>& lines);
    void wrong(std::string message, const std::string& hint = {}) { desk_.wrong(std::move(message), hint); }
    void obey_inner(const std::string& line);
    std::vector<std::string> watch_lines() const;
    void count_from_here();

    SittingOptions options_;
    Clock& clock_;
    Desk desk_;
    session::History<Desk> history_{kMostHistoryBytes, kHistorySpacing};
    base::Nanoseconds future_end_{};
    struct Snapshot {
        Desk desk;
        Record record;
        base::Nanoseconds shared{};  ///< Up to here the history is its past too.
    };
    std::map<std::string, Snapshot> snapshots_;
    std::map<std::string, base::Nanoseconds> marks_;
    std::vector<YardVersion> before_;  ///< What can be gone back to by `reload undo`, the last at the end.
    Record record_;
    std::uint64_t last_revision_ = 0;  ///< Of all that `record_` was.
    Recording recording_;
    Lateness lateness_;
    std::vector<Reply> replies_;
    double pace_;
    base::Nanoseconds wall_begin_{}, run_begin_{};
    std::uint64_t acts_kept_ = 0;
    int line_number_ = 1, wrong_seen_ = 0, failed_seen_ = 0, wrong_lines_ = 0, failed_expectations_ = 0;
    int scans_left_ = 0, steps_left_ = 0, ended_by_ = 0;
    std::uint64_t overruns_said_ = 0;
    std::string list_;                                ///< Opened last.
    std::map<std::string, std::string> list_values_;  ///< Of it, by folded tag: what would be written.
    Asker asker_ = 0, counting_for_ = 0;
    std::vector<Asker> waited_for_;  ///< Whose last order in the record takes time.
    bool paused_ = false, over_ = false, reload_by_itself_ = true;
    std::vector<Job> jobs_;  ///< Last, so that they end before what they use.
};

}  // namespace vyard::live
