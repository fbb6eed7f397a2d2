// A run with a person: orders come as lines, watched values go out when they change, time is paced by a clock.
#pragma once

#include <deque>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "live/desk.hpp"

namespace vyard::live {

/// Where lines come from. One real form (a file descriptor), one in memory for tests.
class LineSource {
  public:
    virtual ~LineSource() = default;
    /// The next line if there is one now. With `wait`, waits for one; null then means the end.
    virtual std::optional<std::string> next(bool wait) = 0;
    virtual bool ended() const = 0;
};

/// The wall clock, as the pacing sees it.
class Clock {
  public:
    virtual ~Clock() = default;
    virtual base::Nanoseconds now() = 0;
    virtual void sleep_until(base::Nanoseconds time) = 0;
};

std::unique_ptr<LineSource> lines_from_descriptor(int descriptor);
std::unique_ptr<Clock> wall_clock();

/// The logic of the yard, read again.
struct Reloaded {
    std::string mistakes;                                         ///< Why it was not; "" when all is well.
    std::vector<std::shared_ptr<const logic::Program>> programs;  ///< By controller of the session's model.
};

/// Memory of what was, so that it can be gone back to.
constexpr std::size_t kMostHistoryBytes = 64U << 20;  ///< The oldest moments go first.
constexpr base::Nanoseconds kHistorySpacing{
    1'000'000'000};  ///< Between kept moments; what is between is computed anew.

struct LiveOptions {
    double pace = 1.0;                       ///< Simulated seconds per second; 0 for as fast as it can.
    std::optional<base::Nanoseconds> limit;  ///< Ends the run at this simulated time.
    std::vector<trace::Channel> watches;
    std::vector<session::Expectation> expectations;  ///< Of a table, by time; what is not so is said as it comes.
    std::function<Reloaded()> reload;                ///< Null: there is nothing to read again.
    /// Writes a file; what went wrong, or "". Null: files cannot be written.
    std::function<std::string(const std::string& path, const std::string& text)> write;
};

/// What a live run came to.
struct LiveOutcome {
    int wrong_lines = 0;  ///< Lines that could not be read or carried out.
    int failed_expectations = 0;
    std::uint64_t late_steps = 0;  ///< Steps that began later than the pace asked for, by more than a step.
};

/// Runs until `quit`, the end of the lines, or the limit. At pace 0 time passes only while an order waits, so that a
/// script gives the same run every time.
LiveOutcome run_live(session::Session& session, LineSource& lines, Clock& clock, const LiveOptions& options,
                     const std::function<void(const std::string&)>& print);

}  // namespace vyard::live
