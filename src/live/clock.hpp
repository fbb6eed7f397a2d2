// The wall clock, as live running sees it; tests have one of their own.
#pragma once

#include "core/base/base.hpp"

namespace vyard::live {

class Clock {
  public:
    virtual ~Clock() = default;
    /// Goes forward evenly, from any beginning; setting the time of day does not change it.
    virtual base::Nanoseconds now() = 0;
};

}  // namespace vyard::live
