// What nobody looks at in a procedure: wires whose tag the logic never reads, lamps and displays that no condition asks
// for. What is wrong there changes nothing else, whatever the machine does, so it need not be tried.
#pragma once

#include <vector>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

class Unnoticed {
  public:
    /// Cost: joins x variables, and conditions.
    Unnoticed(const Setup& setup, const procedure::ProcedureModel& procedure);

    /// A defect of its wire changes what the wire shows, and nothing else; where it leads to a device, that too.
    bool point(int number) const { return !base::at(point_seen_, number); }
    /// A fault of it changes itself and its wires, and nothing else.
    bool device(int number) const { return !base::at(device_seen_, number); }

  private:
    std::vector<bool> point_seen_, device_seen_;
};

}  // namespace vyard::campaign
