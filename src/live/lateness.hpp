// How late steps began by the wall clock: how many, and how the times are spread. Readings beside the run, no part of
// it.
#pragma once

#include <array>
#include <cstdint>

#include "core/base/base.hpp"

namespace vyard::live {

class Lateness {
  public:
    /// A step began so much after it was due; `overrun`: by more than a whole step, so that one or more came late.
    void count(base::Nanoseconds late, bool overrun);

    std::uint64_t steps() const { return steps_; }
    std::uint64_t overruns() const { return overruns_; }
    base::Nanoseconds most() const { return most_; }
    /// The share `part` (0 to 1) of steps was no later than this, to 5 us up to 20 ms. 0 without any step.
    base::Nanoseconds within(double part) const;

  private:
    static constexpr std::int64_t kWidth_ns = 5'000;
    static constexpr std::size_t kClasses = 4'001;  // the last has all that is later
    std::array<std::uint64_t, kClasses> counts_{};
    std::uint64_t steps_ = 0, overruns_ = 0;
    base::Nanoseconds most_{};
};

}  // namespace vyard::live
