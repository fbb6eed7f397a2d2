// The run of a procedure without any disturbance, that others fork from: what happened when, and the run itself at
// chosen moments.
#pragma once

#include <set>
#include <utility>
#include <vector>

#include "core/procedure/procedure.hpp"

namespace vyard::campaign {

/// A run in mid-step, before the orders of that instant; a copy goes on as the original would.
struct Branch {
    session::Session session;
    procedure::Run run;
};

/// Tags that tell people that something is wrong.
struct Alarms {
    std::vector<std::string> names;
    std::vector<session::Signal> signals;
    std::vector<std::uint64_t> quiet;  ///< Bits of each while all is well: FALSE, 0.
};
/// Those of the names; without names, the tags that the logic writes and that are called so by name, point or
/// description: alarm, fault, horn, warning ...
Alarms find_alarms(const session::SessionModel& model);
/// By name; what is wrong with a name goes to `problem`.
Alarms alarms_named(const session::SessionModel& model, const std::vector<std::string>& names, std::string& problem);

struct Nominal {
    std::size_t procedure = 0;
    procedure::ProcedureVerdict verdict;
    base::Nanoseconds end{};
    /// By point: the instants at which what it shows changed. Analog ones are left out.
    std::vector<std::vector<base::Nanoseconds>> edges;
    std::vector<base::Nanoseconds> moments;   ///< At which any of them did.
    std::vector<std::vector<double>> values;  ///< By point: what it shows before the first edge, and after each.
    std::set<std::pair<int, int>> mishaps;    ///< Device and number of each that happened.
    std::vector<std::vector<std::pair<base::Nanoseconds, std::uint64_t>>> alarms;  ///< By alarm: its bits from when on.

    /// By device: in which parts of the run, each kPart long, it moved.
    std::vector<std::vector<bool>> moved;
    static constexpr base::Nanoseconds kPart{500'000'000};
    /// Whether a device moved within a time, by whole parts.
    bool moved_within(int device, base::Nanoseconds from, base::Nanoseconds to) const;

    bool passed() const { return verdict.verdict == procedure::Verdict::Passed; }
    /// The bits of an alarm at an instant; after the end as at the end.
    std::uint64_t alarm_at(std::size_t alarm, base::Nanoseconds time) const;
};

/// Cost: a run, and its points once a step.
Nominal look_at(const std::shared_ptr<const procedure::Book>& book, std::size_t procedure,
                const session::Session& fresh, const Alarms& alarms);

/// Forks of that run at rising instants.
std::vector<Branch> branches_at(const std::shared_ptr<const procedure::Book>& book, std::size_t procedure,
                                const session::Session& fresh, const std::vector<base::Nanoseconds>& times);

/// At most `most` of a rising list, the first and the last among them, evenly by number.
std::vector<base::Nanoseconds> thinned(const std::vector<base::Nanoseconds>& all, std::size_t most);

/// Orders without conditions that take no time, read from their lines. They are ours, so a mistake in them throws.
std::vector<procedure::Order> read_lines(const session::SessionModel& model, const std::vector<std::string>& lines);

}  // namespace vyard::campaign
