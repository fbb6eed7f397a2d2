// The standard function blocks (IEC 61131-3, 6.6.3.5: bistables, edge detection, counters, timers): names, fields,
// memory layout. The machine executes each as one operation on its instance.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/logic/operations.hpp"
#include "core/logic/syntax.hpp"

namespace vyard::logic {

struct StandardField {
    const char* name;
    Elementary type;
    Section section;
    std::uint32_t offset;
};

struct StandardBlock {
    const char* name;
    const char* summary;
    Op op;
    std::uint32_t size;
    std::vector<StandardField> fields;
};

const std::vector<StandardBlock>& standard_blocks();

// Layouts, as the machine reads them. Times in nanoseconds.
struct TimerLayout {
    static constexpr std::uint32_t in = 0, q = 1, active = 2, pt = 8, et = 16, start = 24, size = 32;
};
struct CounterLayout {
    static constexpr std::uint32_t cu = 0, cd = 1, reset = 2, load = 3, qu = 4, qd = 5, last_cu = 6, last_cd = 7,
                                   pv = 8, cv = 10, size = 16;
};
struct TriggerLayout {
    static constexpr std::uint32_t clk = 0, q = 1, memory = 2, size = 4;
};
struct BistableLayout {
    static constexpr std::uint32_t set = 0, reset = 1, q = 2, size = 4;
};

}  // namespace vyard::logic
