#include "core/logic/machine/clocks.hpp"

#include <algorithm>

#include "core/logic/library/standard_blocks.hpp"
#include "core/logic/machine/memory_access.hpp"

namespace vyard::logic {

namespace {

enum class Phase : std::uint8_t { Idle, Running, Over };

/// The start of a clock's part, from its own place, and how far it is.
struct Part {
    std::uint32_t start = 0;
    Phase phase = Phase::Idle;
};

int parts_of(Op kind) {
    return kind == Op::ActionControl ? 5 : 1;
}

/// The five delays within an ACTION_CONTROL, in the order of their bits.
Part part_of_action(const std::byte* a, int part, std::int64_t now) {
    using A = ActionLayout;
    static constexpr std::uint32_t kStarts[] = {A::l_start, A::d_start, A::sd_start, A::ds_start, A::sl_start};
    const std::uint32_t start = kStarts[part];
    if (((std::to_integer<unsigned>(a[A::timing]) >> static_cast<unsigned>(part)) & 1U) == 0)
        return {start, Phase::Idle};
    const bool over = now - load<std::int64_t>(a + start) >= load<std::int64_t>(a + A::t);
    return {start, over ? Phase::Over : Phase::Running};
}

/// See the operations of the timers and steps in machine/block_operations.cpp.
Part part_at(Op kind, const std::byte* at, int part, std::int64_t now) {
    using T = TimerLayout;
    using S = StepLayout;
    switch (kind) {
        case Op::TimerOn:
            if (!flag(at + T::active)) return {T::start, Phase::Idle};
            return {T::start, flag(at + T::q) ? Phase::Over : Phase::Running};
        case Op::TimerOff: return {T::start, flag(at + T::q) && flag(at + T::active) ? Phase::Running : Phase::Idle};
        case Op::TimerPulse:
            if (!flag(at + T::active)) return {T::start, Phase::Idle};
            return {T::start, flag(at + T::q) ? Phase::Running : Phase::Over};
        case Op::ActionControl: return part_of_action(at, part, now);
        default: return {S::start, flag(at + S::x) && flag(at + S::timing) ? Phase::Running : Phase::Idle};
    }
}

}  // namespace

bool keeps_time(Op op) {
    return op == Op::TimerOn || op == Op::TimerOff || op == Op::TimerPulse || op == Op::ChartStep ||
           op == Op::ActionControl;
}

std::vector<std::byte> told_from_now(std::span<const std::byte> state, const std::vector<Clock>& clocks,
                                     std::int64_t now_ns, const ClockTelling& telling) {
    std::vector<std::byte> out(state.begin(), state.end());
    for (const Clock& c : clocks) {
        std::byte* const at = out.data() + c.offset;
        const bool untold = c.kind == Op::ChartStep && !telling.step_times;
        if (untold) store<std::int64_t>(at + StepLayout::t, 0);
        for (int p = 0; p < parts_of(c.kind); ++p) {
            const Part part = part_at(c.kind, state.data() + c.offset, p, now_ns);
            const std::int64_t ago = now_ns - load<std::int64_t>(at + part.start);
            const bool told = part.phase == Phase::Running || (part.phase == Phase::Over && telling.over);
            store<std::int64_t>(at + part.start, told && !untold ? ago : 0);
        }
    }
    return out;
}

std::vector<ClockPart> clocks_over(const std::vector<std::byte>& memory, const std::vector<Clock>& clocks,
                                   std::int64_t now_ns) {
    std::vector<ClockPart> out;
    for (const Clock& c : clocks) {
        for (int p = 0; p < parts_of(c.kind); ++p) {
            if (part_at(c.kind, memory.data() + c.offset, p, now_ns).phase == Phase::Over) out.push_back({c, p});
        }
    }
    return out;
}

bool all_over(const std::vector<ClockPart>& parts, const std::vector<std::byte>& memory, std::int64_t now_ns) {
    return std::all_of(parts.begin(), parts.end(), [&](const ClockPart& p) {
        return part_at(p.clock.kind, memory.data() + p.clock.offset, p.part, now_ns).phase == Phase::Over;
    });
}

bool is_step_time(const std::vector<Clock>& clocks, std::uint32_t offset) {
    return std::any_of(clocks.begin(), clocks.end(),
                       [&](const Clock& c) { return c.kind == Op::ChartStep && c.offset + StepLayout::t == offset; });
}

}  // namespace vyard::logic
