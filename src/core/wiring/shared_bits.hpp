// Which bits of controllers' memories are joined, and which the logic writes: tags, names of the same address and
// direct addresses alike. Internal to this room.
#pragma once

#include "core/wiring/joins.hpp"

namespace vyard::wiring {

/// Runs of bits, by controller.
class BitRuns {
  public:
    void add(int controller, std::uint32_t first, std::uint32_t end) { runs_.push_back({controller, first, end}); }
    /// To be called once all are there. Cost: sorting them.
    void settle();
    bool touch(int controller, std::uint32_t first, std::uint32_t end) const;

  private:
    struct Run {
        int controller;
        std::uint32_t first, end;
    };
    std::vector<Run> runs_;  ///< Settled: sorted, none touching another.
};

/// The bits [first, end) that a variable, or a bit of it, takes in its controller's memory. Not of texts.
std::pair<std::uint32_t, std::uint32_t> bits_of(const logic::Variable& variable);

/// The bits of a joined tag.
struct JoinedBits {
    int controller = 0;
    std::pair<std::uint32_t, std::uint32_t> bits;
    bool input = false;  ///< Written from outside.
    std::string name;
    base::Place place;
    std::size_t order = 0;  ///< In the map.
};

/// Joined tags that share bits: two that are written from outside take each other's values; of others one may be a part
/// of the other, but not straddle it. Cost: joins x those that reach over one place.
void check_shared_bits(std::vector<JoinedBits> joined, base::Diagnostics& diagnostics);

/// Bits that are joined, for questions about tags; and bits that the logic of the controllers writes at addresses.
BitRuns runs_of(const std::vector<JoinedBits>& joined);
BitRuns written_bits(const std::vector<controller::ControllerModel>& controllers);

}  // namespace vyard::wiring
