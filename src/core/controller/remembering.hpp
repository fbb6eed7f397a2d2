// What came from controllers that are executed elsewhere, kept in memory, so that a run can be gone through once more.
#pragma once

#include <map>
#include <vector>

#include "core/controller/link.hpp"

namespace vyard::controller {

class Remembering final : public Partner {
  public:
    explicit Remembering(Partner& partner) : partner_(partner) {}

    /// What came before is of no more use.
    void forget() { kept_.clear(); }
    /// From now on what came is told again, in place of the partner.
    void tell_again() { again_ = true; }
    /// Cost: the bytes of memory, compared; what is kept are those that changed.
    bool exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                  std::span<std::byte> outputs) override;

  private:
    struct Change {
        std::uint32_t offset = 0;
        std::byte value{};
    };
    struct Kept {
        base::Nanoseconds now{};
        bool came = false;
        std::vector<Change> changes;
    };

    Partner& partner_;
    bool again_ = false;
    std::map<int, std::vector<Kept>> kept_;  ///< By controller, rising in time.
    std::vector<std::byte> before_;
};

}  // namespace vyard::controller
