// Executes code over a memory block. No allocation, no look-up by name, no call through a pointer: one switch over
// fixed-size instructions. Cost per scan: linear in the instructions executed.
#pragma once

#include <cstddef>
#include <cstdint>

#include "core/logic/operations.hpp"

namespace vyard::logic {

enum class Outcome : std::uint8_t { Done, DivisionByZero, TooManyTurns };

/// "division by zero", "the scan took more than its loop turns" ...
const char* outcome_text(Outcome outcome);

struct Execution {
    Outcome outcome = Outcome::Done;
    std::uint32_t instruction = 0;  ///< Where it stopped, when not Done.
};

/// Runs from `entry` to End or Return at depth 0. `now_ns` is the time that timers see; `turns` bounds the loop turns.
/// `code` must come from this library's generators: it is not checked again.
Execution execute(const Instruction* code, std::uint32_t entry, std::byte* memory, std::int64_t now_ns,
                  std::int64_t turns);

}  // namespace vyard::logic
