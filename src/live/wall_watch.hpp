// Ends a scan by the wall clock.
#pragma once

#include "core/logic/logic.hpp"
#include "live/clock.hpp"

namespace vyard::live {

class WallWatch final : public logic::ScanWatch {
  public:
    explicit WallWatch(Clock& clock) : clock_(clock) {}
    void begin(base::Nanoseconds limit) override { end_ = clock_.now() + limit; }
    bool expired() override { return clock_.now() > end_; }

  private:
    Clock& clock_;
    base::Nanoseconds end_{};
};

}  // namespace vyard::live
