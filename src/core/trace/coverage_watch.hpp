// What the logic of a yard exercised in one run or several, one after the other.
#pragma once

#include <vector>

#include "core/session/session.hpp"

namespace vyard::trace {

class CoverageWatch {
  public:
    explicit CoverageWatch(const session::SessionModel& model);

    /// After each plant step of a session of that model; looks at the memory of each controller that did a scan, and
    /// once at what it began with.
    void observe(const session::Session& session);

    /// By controller.
    const std::vector<logic::Coverage>& coverages() const { return coverages_; }

  private:
    std::vector<logic::Coverage> coverages_;
    std::vector<std::uint64_t> scans_;
};

}  // namespace vyard::trace
