// What a campaign comes to: a row for each run, and findings, which are what rows have in common that should not be.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::campaign {

/// What one run has seen that should not be.
struct Sight {
    std::string key;   ///< What it is, without when and during which procedure: accept lists name it.
    std::string text;  ///< What was seen, with times.
    base::Nanoseconds time{};
};

/// One run.
struct RunRow {
    std::uint32_t number = 0;                   ///< Of the job: the same in every run of the same campaign.
    std::string disturbance;                    ///< "press panel.estop", "fault lift jammed"; "" for none.
    std::string procedure;                      ///< During which; "" for none.
    base::Nanoseconds at{};                     ///< When.
    std::string outcome;                        ///< "shown", "silent", "comes to rest", ...
    std::string detail;                         ///< Which tag showed it, what was found.
    std::optional<base::Nanoseconds> reaction;  ///< Until it was shown.
    std::vector<Sight> sights;
};

struct Finding {
    std::string key;
    std::string text;  ///< Of the first run.
    std::uint32_t first_run = 0;
    std::string disturbance, procedure;  ///< Of the first run.
    base::Nanoseconds at{};
    std::size_t times = 0;  ///< In how many runs.
};

/// By key, in the order of the runs that first saw them. Cost: rows x log findings.
std::vector<Finding> findings_of(const std::vector<RunRow>& rows);

/// A run told as orders up to one thing that it has seen, so that a procedure file can repeat it.
struct Story {
    std::string key;  ///< Of the sight that it leads to.
    struct Line {
        base::Nanoseconds time{};
        std::string order;
        bool ours = false;  ///< Of the campaign, not of the procedure.
    };
    std::vector<Line> lines;
    base::Nanoseconds end{};
    std::string check;  ///< An order at the end that fails as long as it is so; "" where a rule of the yard does.
    std::string rule;   ///< A rule of the procedure that breaks as long as it is so; "" for none.
    bool found = false;
};

}  // namespace vyard::campaign
