#include "core/logic/machine/block_operations.hpp"

#include <algorithm>

namespace vyard::logic {

using T = TimerLayout;

// Timing diagrams of the timers: IEC 61131-3 figure 15.
void timer_on(std::byte* t, std::int64_t now) {
    if (!flag(t + T::in)) {
        set_flag(t + T::active, false);
        set_flag(t + T::q, false);
        store<std::int64_t>(t + T::et, 0);
        return;
    }
    if (!flag(t + T::active)) {
        set_flag(t + T::active, true);
        store<std::int64_t>(t + T::start, now);
    }
    const auto preset = std::max<std::int64_t>(load<std::int64_t>(t + T::pt), 0);
    const std::int64_t elapsed = now - load<std::int64_t>(t + T::start);
    set_flag(t + T::q, elapsed >= preset);
    store<std::int64_t>(t + T::et, std::min(elapsed, preset));
}

void timer_off(std::byte* t, std::int64_t now) {
    if (flag(t + T::in)) {
        set_flag(t + T::q, true);
        set_flag(t + T::active, false);
        store<std::int64_t>(t + T::et, 0);
        return;
    }
    if (!flag(t + T::q)) return;
    if (!flag(t + T::active)) {
        set_flag(t + T::active, true);
        store<std::int64_t>(t + T::start, now);
    }
    const auto preset = std::max<std::int64_t>(load<std::int64_t>(t + T::pt), 0);
    const std::int64_t elapsed = now - load<std::int64_t>(t + T::start);
    set_flag(t + T::q, elapsed < preset);
    store<std::int64_t>(t + T::et, std::min(elapsed, preset));
}

void timer_pulse(std::byte* t, std::int64_t now) {
    const bool in = flag(t + T::in);
    const auto preset = std::max<std::int64_t>(load<std::int64_t>(t + T::pt), 0);
    // active: a pulse has started and IN has not been FALSE since it ended
    if (in && !flag(t + T::active)) {
        set_flag(t + T::active, true);
        store<std::int64_t>(t + T::start, now);
    }
    if (!flag(t + T::active)) return;
    const std::int64_t elapsed = now - load<std::int64_t>(t + T::start);
    const bool running = elapsed < preset;
    set_flag(t + T::q, running);
    store<std::int64_t>(t + T::et, std::min(elapsed, preset));
    if (!running && !in) {
        set_flag(t + T::active, false);
        store<std::int64_t>(t + T::et, 0);
    }
}

/// A step that is left and entered in one evolution stays active, its time starting again. T stands still while the
/// step is inactive (IEC 61131-3, 6.7.2).
void chart_step(std::byte* s, std::int64_t now) {
    using S = StepLayout;
    if (flag(s + S::leave)) {
        set_flag(s + S::x, false);
        set_flag(s + S::timing, false);
    }
    if (flag(s + S::enter)) set_flag(s + S::x, true);
    if (!flag(s + S::x)) return;
    if (!flag(s + S::timing)) {
        set_flag(s + S::timing, true);
        store<std::int64_t>(s + S::start, now);
    }
    store<std::int64_t>(s + S::t, now - load<std::int64_t>(s + S::start));
}

namespace {

/// An on-delay within the action control: TRUE when `in` has lasted for `preset`.
bool delayed(bool in, std::byte* timing, std::uint8_t bit, std::byte* start, std::int64_t now, std::int64_t preset) {
    const auto mask = static_cast<std::byte>(1U << bit);
    if (!in) {
        *timing &= ~mask;
        return false;
    }
    if ((*timing & mask) == std::byte{0}) {
        *timing |= mask;
        store<std::int64_t>(start, now);
    }
    return now - load<std::int64_t>(start) >= preset;
}

}  // namespace

/// IEC 61131-3 figure 22, without the final scan of an action.
void action_control(std::byte* a, std::int64_t now) {
    using A = ActionLayout;
    // Nothing asked, nothing stored, nothing under way: all stays as it is.
    static_assert(A::timing < 24 && A::t == 24);
    if ((load<std::uint64_t>(a) | load<std::uint64_t>(a + 8) | load<std::uint64_t>(a + 16)) == 0) return;
    const std::int64_t t = std::max<std::int64_t>(load<std::int64_t>(a + A::t), 0);
    std::byte* const timing = a + A::timing;
    const bool reset = flag(a + A::r);
    const auto keep = [&](std::uint32_t stored, bool set) {
        set_flag(a + stored, (flag(a + stored) || set) && !reset);
        return flag(a + stored);
    };
    const bool s = keep(A::stored, flag(a + A::s));
    const bool l_in = flag(a + A::l);
    const bool l = l_in && !delayed(l_in, timing, 0, a + A::l_start, now, t);
    const bool d = delayed(flag(a + A::d), timing, 1, a + A::d_start, now, t);
    const bool p = rose(a + A::p, a + A::last_p);
    const bool p1 = rose(a + A::p1, a + A::last_p1);
    const bool p0_in = flag(a + A::p0);
    const bool p0 = !p0_in && flag(a + A::last_p0);
    set_flag(a + A::last_p0, p0_in);
    const bool sd = delayed(keep(A::sd_stored, flag(a + A::sd)), timing, 2, a + A::sd_start, now, t);
    const bool ds = keep(A::ds_stored, delayed(flag(a + A::ds), timing, 3, a + A::ds_start, now, t));
    if (rose(a + A::sl, a + A::sl_last)) set_flag(a + A::sl_active, true);
    if (reset) set_flag(a + A::sl_active, false);
    const bool sl_on = flag(a + A::sl_active);
    const bool sl = sl_on && !delayed(sl_on, timing, 4, a + A::sl_start, now, t);
    if (!sl_on) delayed(false, timing, 4, a + A::sl_start, now, t);
    if (sl_on && !sl) set_flag(a + A::sl_active, false);
    set_flag(a + A::q, !reset && (flag(a + A::n) || s || l || d || p || p1 || p0 || sd || ds || sl));
}

}  // namespace vyard::logic
