// A run as a person at it has it: the session, the orders that take time, what is watched, the rules that are looked
// at. It obeys lines in the words of procedures and gives replies, without printing or waiting. A value: a copy is a
// snapshot, and two copies that get the same lines give the same replies. Time, pace and history are the sitting's.
#pragma once

#include <concepts>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "live/watching.hpp"

namespace vyard::live {

/// Who handed a line in: 0 is the run itself, fronts have numbers of their own.
using Asker = int;

/// What was said, with the time of the run where that belongs to it.
struct Reply {
    enum class Kind : std::uint8_t {
        Answer,  ///< To a line.
        Wrong,   ///< The line could not be obeyed.
        Change,  ///< A watched value changed.
        Event,   ///< Something happened: a stop, a broken rule, an item on the floor, an expectation that failed.
    };
    std::optional<base::Nanoseconds> at;  ///< Null for a message about a line.
    std::string text;                     ///< Without a final line break.
    Kind kind = Kind::Answer;
    Asker asker = 0;  ///< Whose line it answers; 0 concerns all.
};

/// What the files of a yard were when they were read. A moment that is gone back to has its own.
struct YardVersion {
    session::SessionModelPtr model;
    std::shared_ptr<const procedure::Book> book;  ///< Procedures and rules; null without. Of that model.
    std::string fingerprint;                      ///< Of all files.
    std::string frame_fingerprint;                ///< Of those that are no logic and no procedures.
};

class Desk {
  public:
    /// The rules of `version`'s book are looked at.
    Desk(session::Session session, std::vector<Watched> watches, std::vector<session::Expectation> expectations,
         YardVersion version = {});

    const session::Session& session() const { return session_; }
    base::Nanoseconds now() const { return session_.now(); }
    /// Orders take time: any, or one of this asker's.
    bool waits() const { return !pending_.empty(); }
    bool waits(Asker asker) const;
    /// What is waited for, a line each.
    std::vector<std::string> waiting_for() const;

    /// A line with an order, or watch, unwatch, show, status, rules. `number`: of the line, for messages.
    void obey(const std::string& line, int number, Asker asker);
    /// Whether that line acted on the run, and was obeyed.
    bool acted() const { return acted_; }
    /// A procedure of `book` from here; what it says is said to `asker`.
    void follow_procedure(const std::shared_ptr<const procedure::Book>& book, std::size_t number, Asker asker);
    /// A plant step, and what is due then.
    void step(logic::ScanWatch* watch = nullptr);
    /// At the very beginning: what the table expects of it.
    void look_at_table();

    const YardVersion& version() const { return version_; }
    /// The logic of a controller, changed between two scans; what is watched and waited for follows its names.
    controller::ChangeReport change_logic(int controller, const std::shared_ptr<const logic::Program>& program);
    /// The whole yard as it was read anew.
    session::Session::Moved move_to(const YardVersion& version);
    /// The logic of all controllers is that of this version now; so are its procedures and rules.
    void take_version(const YardVersion& version);
    void start_cold(int controller);
    /// Everything as at power-up, time 0; what is watched stays.
    void reset(logic::ScanWatch* watch = nullptr);

    /// Orders that procedures carried out since the last time, which act on the run; empties it.
    std::vector<std::string> take_acts() { return std::exchange(procedure_acts_, {}); }

    const std::vector<Watched>& watched() const { return watched_; }
    void watch(Watched watched);

    /// What was said since the last time; empties it.
    std::vector<Reply> take_replies();
    void say(std::string text) { replies_.push_back({session_.now(), std::move(text), Reply::Kind::Answer, asker_}); }
    void tell(Reply reply) { replies_.push_back(std::move(reply)); }
    void show_watched();
    /// The orders that take time are given up, and who gave them is told.
    void give_up_orders();
    /// The same of a moment that was gone back to, where they were given and have been answered.
    void drop_orders() { pending_.clear(); }
    /// A line that could not be obeyed.
    void wrong(std::string message, const std::string& hint = {});
    /// Whose line is obeyed now.
    void answer_to(Asker asker) { asker_ = asker; }

    int wrong_lines() const { return wrong_lines_; }
    int failed_expectations() const { return failed_expectations_; }
    /// How many rules are broken, or were, since they were last armed.
    int broken_rules() const;
    /// How many lines acted on the run from outside, so that it may go on differently than before.
    std::uint64_t acts() const { return acts_; }
    const procedure::TableCheck& table() const { return table_; }
    /// What a copy takes, about.
    std::size_t bytes() const;

  private:
    /// An order, or a procedure, while it takes its time.
    struct Pending {
        procedure::Run run;
        Asker asker = 0;
        bool whole = false;  ///< A procedure, not a line.
        std::size_t steps_said = 0;
    };

    void order(const std::string& line, int number);
    bool go_on(Pending& pending);
    bool go_on_procedure(Pending& pending);
    void arm_rules();
    void look_at_rules();
    void show_stops();
    void show_links();
    void show_odd_outputs();
    void show_mishaps();
    void unwatch(const std::string& rest);
    void show_names(const std::string& rest);
    void show_changes();
    void status();
    void show_rules();
    void event(std::string text) { replies_.push_back({session_.now(), std::move(text), Reply::Kind::Event, 0}); }
    void follow_names(int controller, controller::ChangeReport& report);

    session::Session session_;
    std::vector<Pending> pending_;
    YardVersion version_;
    std::optional<procedure::Run> rules_;  ///< Does nothing but look at the yard's rules.
    std::vector<int> broken_said_;
    procedure::TableCheck table_;  ///< Of --stimulus.
    std::vector<Watched> watched_;
    std::vector<std::uint32_t> stops_;         ///< By controller, those that were said.
    std::vector<bool> links_;                  ///< Of linked controllers: there when last said.
    std::size_t odd_outputs_ = 0;              ///< How many were said.
    std::vector<std::uint32_t> mishaps_said_;  ///< By mishap: the times that were said.
    std::uint32_t mishaps_counted_ = 0;
    std::vector<Reply> replies_;
    std::vector<std::string> procedure_acts_;
    int wrong_lines_ = 0, failed_expectations_ = 0;
    std::uint64_t acts_ = 0;
    Asker asker_ = 0;
    bool acted_ = false;
};

static_assert(std::copyable<Desk>);

/// Without the line breaks at its end, as replies are.
std::string without_breaks(std::string text);
/// "press panel.start": the first word, folded, and the rest without blanks around it.
std::pair<std::string, std::string> first_word(const std::string& line);

}  // namespace vyard::live
