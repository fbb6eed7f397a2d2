// The standard function blocks, each one operation on its instance. Internal to this room.
#pragma once

#include <cstddef>
#include <cstdint>
#include <limits>

#include "core/logic/library/standard_blocks.hpp"
#include "core/logic/machine/memory_access.hpp"

namespace vyard::logic {

void timer_on(std::byte* t, std::int64_t now);
void timer_off(std::byte* t, std::int64_t now);
void timer_pulse(std::byte* t, std::int64_t now);
void chart_step(std::byte* s, std::int64_t now);
void action_control(std::byte* a, std::int64_t now);

inline bool rose(const std::byte* input, std::byte* last) {
    const bool now = flag(input);
    const bool edge = now && !flag(last);
    set_flag(last, now);
    return edge;
}

template <class T>
void count_up(std::byte* c) {
    using C = CounterLayout;
    const bool edge = rose(c + C::cu, c + C::last_cu);
    auto value = load<T>(c + C::cv(sizeof(T)));
    if (flag(c + C::reset)) {
        value = 0;
    } else if (edge && value < std::numeric_limits<T>::max()) {
        ++value;
    }
    store<T>(c + C::cv(sizeof(T)), value);
    set_flag(c + C::qu, value >= load<T>(c + C::pv));
}

template <class T>
void count_down(std::byte* c) {
    using C = CounterLayout;
    const bool edge = rose(c + C::cd, c + C::last_cd);
    auto value = load<T>(c + C::cv(sizeof(T)));
    if (flag(c + C::load)) {
        value = load<T>(c + C::pv);
    } else if (edge && value > std::numeric_limits<T>::min()) {
        --value;
    }
    store<T>(c + C::cv(sizeof(T)), value);
    set_flag(c + C::qd, value <= T{0});
}

template <class T>
void count_up_down(std::byte* c) {
    using C = CounterLayout;
    const bool up = rose(c + C::cu, c + C::last_cu);
    const bool down = rose(c + C::cd, c + C::last_cd);
    auto value = load<T>(c + C::cv(sizeof(T)));
    const auto preset = load<T>(c + C::pv);
    if (flag(c + C::reset)) {
        value = 0;
    } else if (flag(c + C::load)) {
        value = preset;
    } else if (up != down) {
        if (up && value < std::numeric_limits<T>::max()) ++value;
        if (down && value > std::numeric_limits<T>::min()) --value;
    }
    store<T>(c + C::cv(sizeof(T)), value);
    set_flag(c + C::qu, value >= preset);
    set_flag(c + C::qd, value <= T{0});
}

}  // namespace vyard::logic
