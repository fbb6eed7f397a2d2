// A run as a person at it has it: the session, the order that takes time, what is watched. It obeys lines in the words
// of procedures and gives replies, without printing or waiting. A value: a copy is a snapshot, and two copies that get
// the same lines give the same replies. Time, pace and history are the front's.
#pragma once

#include <concepts>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"

namespace vyard::live {

/// What was said, with the time of the run where that belongs to it.
struct Reply {
    std::optional<base::Nanoseconds> at;  ///< Null for a message about a line.
    std::string text;                     ///< Without a final line break.
    bool changed = false;                 ///< A watched value did.
};

class Desk {
  public:
    Desk(session::Session session, const std::vector<trace::Channel>& watches,
         std::vector<session::Expectation> expectations);

    const session::Session& session() const { return session_; }
    base::Nanoseconds now() const { return session_.now(); }
    /// An order takes time; no other is obeyed until it is done.
    bool waits() const { return waiting_.has_value(); }

    /// A line with an order, or watch, unwatch, show, status. `number`: of the line, for messages.
    void obey(const std::string& line, int number);
    /// A plant step, and what is due then.
    void step(logic::ScanWatch* watch = nullptr);
    /// At the very beginning: what the table expects of it.
    void look_at_table();

    /// The logic of a controller, changed between two scans; what is watched and waited for follows its names.
    controller::ChangeReport change_logic(int controller, const std::shared_ptr<const logic::Program>& program);

    /// What was said since the last time; empties it.
    std::vector<Reply> take_replies();
    void say(std::string text) { replies_.push_back({session_.now(), std::move(text), false}); }
    void show_watched();
    /// The order that takes time is given up.
    void drop_order() { waiting_.reset(); }
    /// A line that could not be obeyed.
    void wrong(std::string message, const std::string& hint = {});

    int wrong_lines() const { return wrong_lines_; }
    int failed_expectations() const { return failed_expectations_; }
    /// How many lines acted on the run from outside, so that it may go on differently than before.
    std::uint64_t acts() const { return acts_; }
    const procedure::TableCheck& table() const { return table_; }
    /// What a copy takes, about.
    std::size_t bytes() const;

  private:
    struct Watched {
        trace::Channel channel;
        std::string last;  ///< As it was said.
    };

    void order(const std::string& line, int number);
    void go_on();
    void show_stops();
    void show_odd_outputs();
    void names(const std::string& verb, const std::string& rest);
    void one_name(const std::string& verb, const std::string& name);
    void watch(const trace::Channel& channel);
    void show_changes();
    void status();

    session::Session session_;
    std::optional<procedure::Run> waiting_;  ///< The order given last, while it takes time.
    procedure::TableCheck table_;            ///< Of --stimulus.
    std::vector<Watched> watched_;
    std::vector<std::uint32_t> stops_;  ///< By controller, those that were said.
    std::size_t odd_outputs_ = 0;       ///< How many were said.
    std::vector<Reply> replies_;
    int wrong_lines_ = 0, failed_expectations_ = 0;
    std::uint64_t acts_ = 0;
};

static_assert(std::copyable<Desk>);

}  // namespace vyard::live
