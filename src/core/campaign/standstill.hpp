// Whether a run has come to where nothing new follows any more, so that nobody needs to wait for it: a machine at rest,
// or one that only goes on blinking.
#pragma once

#include <optional>
#include <vector>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

/// What a yard's scans and conditions have to do with time.
struct Rhythm {
    std::vector<base::Nanoseconds> intervals;  ///< Of all scans and tasks.
    bool step_times = false;                   ///< A condition or an alarm looks at T of a step of a chart.
};
Rhythm rhythm_of(const Setup& setup);

class Standstill {
  public:
    explicit Standstill(const Rhythm& rhythm) : rhythm_(rhythm) {}

    /// Called after every step, once the run has advanced or watched. TRUE once the run waits for something in vain,
    /// and is where it was a while ago: what came in between comes again and again. Cost: little while anything moves;
    /// at a standstill the state. Found after three times as long as it takes to come round, and a second at least.
    bool look(const Branch& now);
    /// Since when it has been looking at what comes again.
    base::Nanoseconds since() const { return anchor_ ? anchor_->now() : base::Nanoseconds{}; }

  private:
    void keep(const Branch& now);

    const Rhythm& rhythm_;
    std::optional<session::Session> anchor_;  ///< What it is held against, for rising spans (Brent, 1980).
    std::pair<std::size_t, std::size_t> position_;
    std::vector<std::vector<logic::ClockPart>> over_;  ///< By controller, when the anchor was kept.
    base::Nanoseconds span_{};
};

}  // namespace vyard::campaign
