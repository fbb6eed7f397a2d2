// A plain operator's day at a machine: all contacts healthy, automatic, reset, start, a minute of work, stop; and what
// such a person would wonder about.
#pragma once

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

struct DayOptions {
    std::string prefix;           ///< Of the keys: "smoke".
    std::set<std::string> known;  ///< What is no finding, by what stands behind the prefix.
    bool fresh = true;            ///< Nobody has touched it yet: what moves at once moves by itself.
};

class OperatorDay {
  public:
    /// `at`: where the day begins; its run is one that watches the rules alone.
    OperatorDay(const Setup& setup, const Panel& panel, Branch at, DayOptions options, RunRow& row, Story* story);

    /// The whole day; what is wondered about goes to the row.
    void run();
    const Branch& end() const { return now_; }
    /// What was wondered about, without the prefix.
    const std::set<std::string>& noted() const { return noted_; }

  private:
    template <class Moving>
    void wait(base::Nanoseconds length, Moving moving);
    void press(const std::vector<int>& buttons);
    void make_ready();
    void work();
    void stop();
    void look_at_alarms();
    void see_device(int device, const char* what);
    void note(const std::string& what, const std::string& text, const std::string& check = {});

    const Setup& setup_;
    const session::SessionModel& model_;
    const Panel& panel_;
    DayOptions options_;
    RunRow& row_;
    Story* story_;
    Branch now_;
    std::set<std::pair<int, int>> happened_;  ///< Mishaps before the day.
    TroubleWatch trouble_;
    int devices_;
    std::vector<std::uint8_t> moved_;
    base::Nanoseconds last_moved_{};
    std::set<std::string> noted_;
};

}  // namespace vyard::campaign
