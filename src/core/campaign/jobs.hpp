// Campaigns: many runs, forked from the runs of procedures, that look for what nobody wrote down.
//
//   const Stops stops(setup);                          // runs every procedure once, picks moments
//   const Outcome outcome = carry_out(stops, setup);   // every job once, on all threads
//
// A job is a pure function of the yard, the options and its number, so results are the same whatever the number of
// threads, and one job can be run again alone, to be told as a story.
#pragma once

#include <cstdint>
#include <memory>

#include "core/campaign/nominal.hpp"
#include "core/campaign/panel.hpp"
#include "core/campaign/parallel.hpp"
#include "core/campaign/results.hpp"

namespace vyard::campaign {

inline constexpr base::Nanoseconds kPress{500'000'000};  ///< From a press of a button to its release, and to the next.

struct Setup {
    session::SessionModelPtr model;
    std::shared_ptr<const procedure::Book>
        book;                             ///< With a procedure "watch" of the yard's rules last; see watching().
    std::vector<std::size_t> procedures;  ///< That runs are forked from.
    Alarms alarms;
    Work work;
    std::size_t moments = 20;                    ///< At most, of each procedure (stops) or fault (faults).
    std::uint32_t limit = 0;                     ///< At most so many jobs, spread evenly; 0 for all.
    std::uint32_t shard = 1, shards = 1;         ///< Jobs whose number leaves shard - 1 when divided by shards.
    base::Nanoseconds allowed{1'000'000'000};    ///< For coming to rest.
    base::Nanoseconds patience{20'000'000'000};  ///< For an alarm to come, for the machine to go on.
    bool pairs = false;                          ///< Faults: two at once.
    bool plain = false;                          ///< Faults: no run is cut short, whatever can be told beforehand.
};

/// The jobs of one campaign.
class Campaign {
  public:
    Campaign() = default;
    Campaign(const Campaign&) = delete;
    Campaign& operator=(const Campaign&) = delete;
    virtual ~Campaign() = default;

    virtual const char* kind() const = 0;
    virtual std::size_t jobs() const = 0;
    /// Called by several threads at once. `story`: where it is not null, the run is told there.
    virtual RunRow run(std::size_t job, Story* story) const = 0;
    /// What kept it from looking at all it should: procedures that fail by themselves, no start button.
    virtual const std::vector<std::string>& remarks() const = 0;
};

struct Outcome {
    std::vector<RunRow> rows;  ///< Of the jobs that were run, by number.
    std::size_t jobs = 0;      ///< Of the whole campaign.
    bool whole = true;         ///< All jobs of the shard were run.
};
/// How many of all jobs are run, by all shards together.
std::size_t runs_of(std::size_t jobs, const Setup& setup);
Outcome carry_out(const Campaign& campaign, const Setup& setup);

/// A session with a run beside it that watches the rules of the yard, and carries out nothing.
Branch watching(const Setup& setup, const session::Session& session);

/// The chosen procedures, each run once without a disturbance; those that do not pass by themselves are left out, with
/// a remark.
std::vector<Nominal> nominals_of(const Setup& setup, std::vector<std::string>& remarks);

/// What a run has seen of mishaps, broken rules and stopped controllers, against the undisturbed run.
class TroubleWatch {
  public:
    TroubleWatch(const std::set<std::pair<int, int>>& known, const Branch& at);
    /// Whether there was something new; it is seen, its key behind `prefix`.
    bool look(const Branch& now, const std::string& prefix, RunRow& row, Story* story);
    /// The run goes on from somewhere else: what has happened there is not new.
    void go_on_from(const Branch& at);

  private:
    const std::set<std::pair<int, int>>& known_;
    std::set<std::pair<int, int>> told_;  ///< Mishaps.
    std::size_t mishaps_ = 0;
    std::vector<int> broken_;
    std::size_t stops_ = 0;
};

/// Something is seen: it goes to the row, and is what a story leads to when that asks for it.
void see(RunRow& row, Story* story, const Branch& now, Sight sight, const std::string& check = {},
         const std::string& rule = {});
/// An order of ours, carried out now; what kept it from being done goes to the row's detail.
void obey(Branch& now, const std::string& line, RunRow& row, Story* story);
/// The orders of the run's procedure among those of the story, by time; those after its end are left out.
void tell(Story* story, const Branch& now);

/// Every fault of wires that are joined and of devices, as orders: "fault lift jammed".
std::vector<std::string> fault_orders(const session::SessionModel& model);

/// What a plain operator does, without any procedure: see campaign/smoke.cpp.
std::unique_ptr<const Campaign> make_smoke(const Setup& setup);
/// Stopping it, and what moves then: see campaign/stops.cpp.
std::unique_ptr<const Campaign> make_stops(const Setup& setup);
/// The machine again, from every state in which it was left: see campaign/again.cpp.
std::unique_ptr<const Campaign> make_again(const Setup& setup);
/// What is wrong with wires and devices, and who notices: see campaign/faults.cpp.
std::unique_ptr<const Campaign> make_faults(const Setup& setup);

}  // namespace vyard::campaign
