// Real time: what is due at a time of the run waits for it, and how late it was is counted.
#pragma once

#include <algorithm>
#include <chrono>
#include <cmath>
#include <thread>

#include "core/base/base.hpp"

namespace vyard::link {

class Pace {
  public:
    /// Until `now`, a time of the run, has come. A run that begins, goes back or was paused for a second is not late.
    void wait(base::Nanoseconds now) {
        using Clock = std::chrono::steady_clock;
        const auto ahead = std::chrono::nanoseconds(now.count());
        const auto wall = Clock::now();
        if (!begun_ || now < last_ || wall - (origin_ + ahead) > std::chrono::seconds(1)) {
            begun_ = true;
            origin_ = wall - ahead;
        }
        last_ = now;
        std::this_thread::sleep_until(origin_ + ahead);
        const double late_ms = std::chrono::duration<double, std::milli>(Clock::now() - (origin_ + ahead)).count();
        late_ms_ = late_ms;
        ++count_;
        sum_ms_ += late_ms;
        squares_ += late_ms * late_ms;
        latest_ms_ = std::max(latest_ms_, late_ms);
    }
    double late_ms() const { return late_ms_; }  ///< The last time.
    double latest_ms() const { return latest_ms_; }
    /// Standard deviation.
    double jitter_ms() const {
        if (count_ < 2) return 0.0;
        const double n = static_cast<double>(count_), mean = sum_ms_ / n;
        return std::sqrt(std::max(0.0, squares_ / n - mean * mean));
    }

  private:
    bool begun_ = false;
    std::chrono::steady_clock::time_point origin_;
    base::Nanoseconds last_{};
    std::uint64_t count_ = 0;
    double late_ms_ = 0.0, sum_ms_ = 0.0, squares_ = 0.0, latest_ms_ = 0.0;
};

}  // namespace vyard::link
