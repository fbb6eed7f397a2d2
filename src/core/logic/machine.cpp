#include "core/logic/machine.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>
#include <type_traits>

#include "core/logic/checker.hpp"
#include "core/logic/standard_blocks.hpp"

namespace vyard::logic {

namespace {

template <class T>
T load(const std::byte* at) {
    T value;
    std::memcpy(&value, at, sizeof value);
    return value;
}

template <class T>
void store(std::byte* at, T value) {
    std::memcpy(at, &value, sizeof value);
}

bool flag(const std::byte* at) {
    return *at != std::byte{0};
}
void set_flag(std::byte* at, bool value) {
    *at = value ? std::byte{1} : std::byte{0};
}

/// Integers wrap: the arithmetic is done unsigned, wide enough not to be promoted to a signed int.
template <class T>
using Wrapping = std::conditional_t<sizeof(T) == 8, std::uint64_t, std::uint32_t>;

template <class T, class F>
T wrapped(T a, T b, F f) {
    if constexpr (std::is_floating_point_v<T>) {
        return f(a, b);
    } else {
        return static_cast<T>(f(static_cast<Wrapping<T>>(a), static_cast<Wrapping<T>>(b)));
    }
}

template <class T>
T negated(T a) {
    if constexpr (std::is_floating_point_v<T>) {
        return -a;
    } else {
        return wrapped(T{0}, a, [](auto x, auto y) { return x - y; });
    }
}

template <class T>
T absolute(T a) {
    if constexpr (std::is_unsigned_v<T>) {
        return a;
    } else {
        return a < T{0} ? negated(a) : a;
    }
}

template <class T>
T divided(T a, T b) {
    if constexpr (std::is_signed_v<T> && std::is_integral_v<T>) {
        if (b == T{-1}) return negated(a);  // the smallest value would overflow
    }
    return static_cast<T>(a / b);
}

template <class T>
T remainder(T a, T b) {
    if constexpr (std::is_signed_v<T>) {
        if (b == T{-1}) return T{0};
    }
    return static_cast<T>(a % b);
}

template <class To, class From>
To converted(From value) {
    if constexpr (std::is_floating_point_v<From> && std::is_integral_v<To>) {
        if (std::isnan(value)) return To{0};
        const From rounded = std::nearbyint(value);
        // One past the largest value is a power of two, exact in From.
        if (rounded >= std::ldexp(From{1}, std::numeric_limits<To>::digits)) return std::numeric_limits<To>::max();
        if (rounded <= static_cast<From>(std::numeric_limits<To>::lowest())) return std::numeric_limits<To>::lowest();
        return static_cast<To>(rounded);
    } else {
        return static_cast<To>(value);
    }
}

template <class T>
T shifted(T value, std::int64_t by, bool left) {
    using U = std::make_unsigned_t<T>;
    constexpr int bits = std::numeric_limits<U>::digits;
    if (by < 0 || by >= bits) return T{0};
    const auto bits_in = static_cast<std::uint64_t>(static_cast<U>(value));
    const std::uint64_t out = left ? bits_in << by : bits_in >> by;
    return static_cast<T>(static_cast<U>(out));
}

template <class T>
T rotated(T value, std::int64_t by, bool left) {
    using U = std::make_unsigned_t<T>;
    const int turn = static_cast<int>(by % std::numeric_limits<U>::digits);
    return static_cast<T>(left ? std::rotl(static_cast<U>(value), turn) : std::rotr(static_cast<U>(value), turn));
}

using T = TimerLayout;
using C = CounterLayout;
using G = TriggerLayout;
using B = BistableLayout;

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

bool rose(std::byte* input, std::byte* last) {
    const bool now = flag(input);
    const bool edge = now && !flag(last);
    set_flag(last, now);
    return edge;
}

void count_up(std::byte* c) {
    const bool edge = rose(c + C::cu, c + C::last_cu);
    auto value = load<std::int16_t>(c + C::cv);
    if (flag(c + C::reset)) {
        value = 0;
    } else if (edge && value < std::numeric_limits<std::int16_t>::max()) {
        ++value;
    }
    store(c + C::cv, value);
    set_flag(c + C::qu, value >= load<std::int16_t>(c + C::pv));
}

void count_down(std::byte* c) {
    const bool edge = rose(c + C::cd, c + C::last_cd);
    auto value = load<std::int16_t>(c + C::cv);
    if (flag(c + C::load)) {
        value = load<std::int16_t>(c + C::pv);
    } else if (edge && value > std::numeric_limits<std::int16_t>::min()) {
        --value;
    }
    store(c + C::cv, value);
    set_flag(c + C::qd, value <= 0);
}

void count_up_down(std::byte* c) {
    const bool up = rose(c + C::cu, c + C::last_cu);
    const bool down = rose(c + C::cd, c + C::last_cd);
    auto value = load<std::int16_t>(c + C::cv);
    const auto preset = load<std::int16_t>(c + C::pv);
    if (flag(c + C::reset)) {
        value = 0;
    } else if (flag(c + C::load)) {
        value = preset;
    } else if (up != down) {
        if (up && value < std::numeric_limits<std::int16_t>::max()) ++value;
        if (down && value > std::numeric_limits<std::int16_t>::min()) --value;
    }
    store(c + C::cv, value);
    set_flag(c + C::qu, value >= preset);
    set_flag(c + C::qd, value <= 0);
}

/// `memory`: 0 nothing seen yet, 1 was FALSE, 2 was TRUE. The first look is never an edge.
bool edge_seen(bool value, std::byte* memory, bool rising) {
    const int last = std::to_integer<int>(*memory);
    *memory = static_cast<std::byte>(value ? 2 : 1);
    return rising ? value && last == 1 : !value && last == 2;
}

}  // namespace

const char* outcome_text(Outcome outcome) {
    switch (outcome) {
        case Outcome::Done: return "done";
        case Outcome::DivisionByZero: return "division by zero";
        case Outcome::TooManyTurns: return "the scan passed its watchdog: a loop does not end";
    }
    return "";
}

Execution execute(const Instruction* code, std::uint32_t entry, std::byte* m, std::int64_t now_ns, std::int64_t turns) {
    std::uint32_t returns[kMaxBlockDepth + 2];
    int depth = 0;
    const Instruction* at = code + entry;
    const auto stopped = [&](Outcome outcome) { return Execution{outcome, static_cast<std::uint32_t>(at - code)}; };
    for (;; ++at) {
        const Instruction& in = *at;
        std::byte* const d = m + in.dst;
        std::byte* const a = m + in.a;
        std::byte* const b = m + in.b;
        switch (in.op) {
            case Op::End: return {};
            case Op::Jump: at = code + in.a - 1; break;
            case Op::JumpIf:
                if (flag(b)) at = code + in.a - 1;
                break;
            case Op::JumpUnless:
                if (!flag(b)) at = code + in.a - 1;
                break;
            case Op::LoopBack:
                if (--turns < 0) return stopped(Outcome::TooManyTurns);
                at = code + in.a - 1;
                break;
            case Op::Call:
                returns[depth++] = static_cast<std::uint32_t>(at - code);
                at = code + in.a - 1;
                break;
            case Op::Return: at = code + returns[--depth]; break;
            case Op::Move8: *d = *a; break;
            case Op::Move16: store(d, load<std::uint16_t>(a)); break;
            case Op::Move32: store(d, load<std::uint32_t>(a)); break;
            case Op::Move64: store(d, load<std::uint64_t>(a)); break;
            case Op::LoadBit: *d = (*a >> in.b) & std::byte{1}; break;
            case Op::StoreBit: {
                const auto mask = static_cast<std::byte>(1U << in.b);
                *d = flag(a) ? (*d | mask) : (*d & ~mask);
                break;
            }
            case Op::BoolAnd: *d = *a & *b; break;
            case Op::BoolAndNot: *d = *a & (*b ^ std::byte{1}); break;
            case Op::BoolOr: *d = *a | *b; break;
            case Op::BoolOrNot: *d = *a | (*b ^ std::byte{1}); break;
            case Op::BoolXor: *d = *a ^ *b; break;
            case Op::BoolNot: *d = *a ^ std::byte{1}; break;
            case Op::TimerOn: timer_on(a, now_ns); break;
            case Op::TimerOff: timer_off(a, now_ns); break;
            case Op::TimerPulse: timer_pulse(a, now_ns); break;
            case Op::CountUp: count_up(a); break;
            case Op::CountDown: count_down(a); break;
            case Op::CountUpDown: count_up_down(a); break;
            case Op::RisingTrigger: set_flag(a + G::q, rose(a + G::clk, a + G::memory)); break;
            case Op::FallingTrigger: {
                // The memory holds NOT CLK, and starts as if CLK had been FALSE: no edge at the first call.
                const bool high = flag(a + G::clk);
                set_flag(a + G::q, !high && flag(a + G::memory));
                set_flag(a + G::memory, high);
                break;
            }
            case Op::SetDominant:
                set_flag(a + B::q, flag(a + B::set) || (flag(a + B::q) && !flag(a + B::reset)));
                break;
            case Op::ResetDominant:
                set_flag(a + B::q, !flag(a + B::reset) && (flag(a + B::set) || flag(a + B::q)));
                break;
            case Op::Rises: set_flag(d, edge_seen(flag(a), b, true)); break;
            case Op::Falls: set_flag(d, edge_seen(flag(a), b, false)); break;

#define VYARD_CASE(N, X)                                                                              \
    case Op::Modulo##N:                                                                               \
        if (load<X>(b) == X{0}) return stopped(Outcome::DivisionByZero);                              \
        store<X>(d, remainder<X>(load<X>(a), load<X>(b)));                                            \
        break;                                                                                        \
    case Op::And##N: store<X>(d, static_cast<X>(load<X>(a) & load<X>(b))); break;                     \
    case Op::Or##N: store<X>(d, static_cast<X>(load<X>(a) | load<X>(b))); break;                      \
    case Op::Xor##N: store<X>(d, static_cast<X>(load<X>(a) ^ load<X>(b))); break;                     \
    case Op::Invert##N: store<X>(d, static_cast<X>(~load<X>(a))); break;                              \
    case Op::ShiftLeft##N: store<X>(d, shifted<X>(load<X>(a), load<std::int64_t>(b), true)); break;   \
    case Op::ShiftRight##N: store<X>(d, shifted<X>(load<X>(a), load<std::int64_t>(b), false)); break; \
    case Op::RotateLeft##N: store<X>(d, rotated<X>(load<X>(a), load<std::int64_t>(b), true)); break;  \
    case Op::RotateRight##N: store<X>(d, rotated<X>(load<X>(a), load<std::int64_t>(b), false)); break;
                VYARD_INTEGER_TYPES(VYARD_CASE)
#undef VYARD_CASE

#define VYARD_CASE(N, X)                                                                                           \
    case Op::Add##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x + y; })); break; \
    case Op::Subtract##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x - y; }));   \
        break;                                                                                                     \
    case Op::Multiply##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x * y; }));   \
        break;                                                                                                     \
    case Op::Divide##N:                                                                                            \
        if (std::is_integral_v<X> && load<X>(b) == X{0}) return stopped(Outcome::DivisionByZero);                  \
        store<X>(d, divided<X>(load<X>(a), load<X>(b)));                                                           \
        break;                                                                                                     \
    case Op::Negate##N: store<X>(d, negated<X>(load<X>(a))); break;                                                \
    case Op::Absolute##N: store<X>(d, absolute<X>(load<X>(a))); break;                                             \
    case Op::Minimum##N: store<X>(d, std::min(load<X>(a), load<X>(b))); break;                                     \
    case Op::Maximum##N: store<X>(d, std::max(load<X>(a), load<X>(b))); break;                                     \
    case Op::Equal##N: set_flag(d, load<X>(a) == load<X>(b)); break;                                               \
    case Op::NotEqual##N: set_flag(d, load<X>(a) != load<X>(b)); break;                                            \
    case Op::Less##N: set_flag(d, load<X>(a) < load<X>(b)); break;                                                 \
    case Op::LessEqual##N: set_flag(d, load<X>(a) <= load<X>(b)); break;                                           \
    case Op::ToI8##N: store(d, converted<std::int8_t, X>(load<X>(a))); break;                                      \
    case Op::ToI16##N: store(d, converted<std::int16_t, X>(load<X>(a))); break;                                    \
    case Op::ToI32##N: store(d, converted<std::int32_t, X>(load<X>(a))); break;                                    \
    case Op::ToI64##N: store(d, converted<std::int64_t, X>(load<X>(a))); break;                                    \
    case Op::ToU8##N: store(d, converted<std::uint8_t, X>(load<X>(a))); break;                                     \
    case Op::ToU16##N: store(d, converted<std::uint16_t, X>(load<X>(a))); break;                                   \
    case Op::ToU32##N: store(d, converted<std::uint32_t, X>(load<X>(a))); break;                                   \
    case Op::ToU64##N: store(d, converted<std::uint64_t, X>(load<X>(a))); break;                                   \
    case Op::ToF32##N: store(d, converted<float, X>(load<X>(a))); break;                                           \
    case Op::ToF64##N: store(d, converted<double, X>(load<X>(a))); break;                                          \
    case Op::ToBool##N: set_flag(d, load<X>(a) != X{0}); break;
                VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE

#define VYARD_CASE(N, X)                                                    \
    case Op::SquareRoot##N: store<X>(d, std::sqrt(load<X>(a))); break;      \
    case Op::Truncate##N: store<X>(d, std::trunc(load<X>(a))); break;       \
    case Op::NaturalLogarithm##N: store<X>(d, std::log(load<X>(a))); break; \
    case Op::Exponential##N: store<X>(d, std::exp(load<X>(a))); break;      \
    case Op::Sine##N: store<X>(d, std::sin(load<X>(a))); break;             \
    case Op::Cosine##N: store<X>(d, std::cos(load<X>(a))); break;           \
    case Op::ArcTangent##N: store<X>(d, std::atan(load<X>(a))); break;      \
    case Op::Power##N: store<X>(d, std::pow(load<X>(a), load<X>(b))); break;
                VYARD_REAL_TYPES(VYARD_CASE)
#undef VYARD_CASE
            case Op::Count: return {};
        }
    }
}

}  // namespace vyard::logic
