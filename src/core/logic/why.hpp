// Why is this FALSE? From the checked tree that a program keeps: where a BOOL is assigned, in programs and in every
// instance of a block, under which conditions, and which parts of all that do not hold in a given memory. Nothing is
// read again from source text; parts are computed by the generator's own code, on a copy of the memory.
#pragma once

#include <string>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

/// One place that could have made a variable TRUE and does not, or makes it FALSE.
struct KeptOff {
    std::string unit;                  ///< "main", "main.pump_1": whose body it is; "rung 3 of main" when drawn.
    bool drawn = false;                ///< In a network.
    base::Place place;                 ///< Of the assignment.
    std::vector<std::string> missing;  ///< The parts that do not hold, as the language writes them.
};

class Why {
  public:
    /// `memory` is of a state of `program`. Cost: the program's statements, once.
    Why(const Program& program, const std::vector<std::byte>& memory, std::int64_t now_ns);
    ~Why();
    Why(const Why&) = delete;
    Why& operator=(const Why&) = delete;

    /// What keeps the BOOL at a place of memory off: parts between ANDs that are FALSE, groups of ORs of which none
    /// holds, conditions of IF and CASE around the assignment, what resets it, inputs of latches and timers behind it,
    /// and assignments within instances of blocks. Parts that cannot be computed from outside (calls of functions of
    /// one's own, variables that live for one call) are passed over.
    std::vector<KeptOff> kept_off(std::uint32_t offset, int bit);

  private:
    struct Work;
    std::unique_ptr<Work> work_;
};

}  // namespace vyard::logic
