// The standard function blocks (IEC 61131-3, 6.6.3.5: bistables, edge detection, counters, timers): names, fields,
// memory layout. The machine executes each as one operation on its instance.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/logic/machine/operations.hpp"
#include "core/logic/text/syntax.hpp"

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
/// PV and CV have the counter's type: CV follows PV.
struct CounterLayout {
    static constexpr std::uint32_t cu = 0, cd = 1, reset = 2, load = 3, qu = 4, qd = 5, last_cu = 6, last_cd = 7,
                                   pv = 8;
    static constexpr std::uint32_t cv(std::uint32_t bytes) { return pv + bytes; }
    static constexpr std::uint32_t size(std::uint32_t bytes) { return bytes == 2 ? 16 : pv + 2 * bytes; }
};
struct TriggerLayout {
    static constexpr std::uint32_t clk = 0, q = 1, memory = 2, size = 4;
};
struct BistableLayout {
    static constexpr std::uint32_t set = 0, reset = 1, q = 2, size = 4;
};
/// A step of a chart: X is TRUE while it is active, T for how long.
struct StepLayout {
    static constexpr std::uint32_t enter = 0, leave = 1, x = 2, timing = 3, t = 8, start = 16, size = 24;
};
/// The ACTION_CONTROL of IEC 61131-3 figure 22: one input for each qualifier.
struct ActionLayout {
    static constexpr std::uint32_t n = 0, r = 1, s = 2, l = 3, d = 4, p = 5, p0 = 6, p1 = 7, sd = 8, ds = 9, sl = 10,
                                   q = 11, stored = 12, last_p = 13, last_p0 = 14, last_p1 = 15, sd_stored = 16,
                                   ds_stored = 17, sl_last = 18, sl_active = 19, timing = 20, t = 24, l_start = 32,
                                   d_start = 40, sd_start = 48, ds_start = 56, sl_start = 64, size = 72;
};

}  // namespace vyard::logic
