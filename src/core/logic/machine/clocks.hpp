// What keeps time in a program's memory: timers, the steps of charts, actions whose qualifier has a time. Where two
// memories differ in nothing but how late it is, the same follows from both.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "core/logic/machine/operations.hpp"

namespace vyard::logic {

/// A timer, a step of a chart or an action's control, at its place in memory.
struct Clock {
    Op kind = Op::TimerOn;
    std::uint32_t offset = 0;
};
/// Whether an operation works on one.
bool keeps_time(Op op);

/// What of clocks is told.
struct ClockTelling {
    bool step_times = true;  ///< How long the steps of charts have been active.
    bool over = true;        ///< For how long what is over has lasted. Only a longer PT could begin that anew.
};
/// A program's state, with each instant told as how long ago it was, and left out where nothing depends on it: of what
/// does not run. What is equal goes on alike; without `over` while what is over stays over. Cost: its bytes, and
/// clocks.
std::vector<std::byte> told_from_now(std::span<const std::byte> state, const std::vector<Clock>& clocks,
                                     std::int64_t now_ns, const ClockTelling& telling);

/// A clock that may be over: of an action one of five.
struct ClockPart {
    Clock clock;
    int part = 0;
};
/// Those that are: Q of a TON has come, of a TP has gone while IN holds on, the time of an action has passed.
std::vector<ClockPart> clocks_over(const std::vector<std::byte>& memory, const std::vector<Clock>& clocks,
                                   std::int64_t now_ns);
bool all_over(const std::vector<ClockPart>& parts, const std::vector<std::byte>& memory, std::int64_t now_ns);

/// Whether a place in memory tells how long a step of a chart has been active.
bool is_step_time(const std::vector<Clock>& clocks, std::uint32_t offset);

}  // namespace vyard::logic
