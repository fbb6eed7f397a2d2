#include "core/logic/machine/machine.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>
#include <type_traits>

#include "core/logic/machine/block_operations.hpp"
#include "core/logic/machine/text_operations.hpp"

namespace vyard::logic {

namespace {

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

using G = TriggerLayout;
using B = BistableLayout;

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

/// `memory`: 0 nothing seen yet, 1 was FALSE, 2 was TRUE. The first look is never an edge.
bool edge_seen(bool value, std::byte* memory, bool rising) {
    const int last = std::to_integer<int>(*memory);
    *memory = static_cast<std::byte>(value ? 2 : 1);
    return rising ? value && last == 1 : !value && last == 2;
}

/// A time of day; numbers beyond their range count on, bounded so that nothing overflows.
std::int64_t time_of(std::int64_t hour, std::int64_t minute, std::int64_t second, std::int64_t millisecond) {
    const auto bounded = [](std::int64_t v) { return std::clamp<std::int64_t>(v, -100'000, 100'000); };
    return ((bounded(hour) * 60 + bounded(minute)) * 60 + bounded(second)) * 1'000'000'000 +
           bounded(millisecond) * 1'000'000;
}

template <class T>
T swapped(T value) {
    std::array<std::byte, sizeof(T)> bytes;
    std::memcpy(bytes.data(), &value, sizeof value);
    std::reverse(bytes.begin(), bytes.end());
    std::memcpy(&value, bytes.data(), sizeof value);
    return value;
}

void note_range(Execution& stopped, std::int64_t value, std::int64_t low, std::int64_t high) {
    stopped.value = value;
    stopped.low = low;
    stopped.high = high;
}

/// What does not fit becomes the largest.
template <class T>
std::int64_t as_signed(T value) {
    if constexpr (std::is_unsigned_v<T> && sizeof(T) == 8) {
        constexpr auto most = std::numeric_limits<std::int64_t>::max();
        return value > static_cast<std::uint64_t>(most) ? most : static_cast<std::int64_t>(value);
    } else {
        return static_cast<std::int64_t>(+value);
    }
}

/// `range`: lowest and highest index and the bytes from element to element, 8 bytes each.
template <class T>
bool move_to_element(std::byte* address, T index, const std::byte* range, Execution& stopped) {
    const auto low = load<std::int64_t>(range), high = load<std::int64_t>(range + 8);
    const auto i = as_signed(index);
    if (i < low || i > high) {
        note_range(stopped, i, low, high);
        return false;
    }
    store(address, static_cast<std::uint32_t>(load<std::uint32_t>(address) +
                                              static_cast<std::uint64_t>(i - low) * load<std::uint64_t>(range + 16)));
    return true;
}

std::uint64_t from_bcd(std::uint64_t digits, std::uint32_t count) {
    std::uint64_t out = 0;
    for (std::uint32_t i = count; i-- > 0;) out = out * 10 + ((digits >> (4 * i)) & 15U);
    return out;
}
std::uint64_t to_bcd(std::uint64_t value, std::uint32_t count) {
    std::uint64_t out = 0;
    for (std::uint32_t i = 0; i < count; ++i, value /= 10) out |= (value % 10) << (4 * i);
    return out;
}
bool valid_bcd(std::uint64_t digits, std::uint32_t count) {
    for (std::uint32_t i = 0; i < count; ++i) {
        if (((digits >> (4 * i)) & 15U) > 9) return false;
    }
    return true;
}

/// What a run shares among its calls.
struct Run {
    const CodeView& code;
    std::byte* memory;
    std::int64_t now;
    std::int64_t budget;  ///< Until the next look at what may end the scan.
    std::int64_t rest;    ///< Beyond that.
    ScanWatch* watch;
    Execution stopped;
};

/// Between two looks at the watch: about a millisecond.
constexpr std::int64_t kSlice = 200'000;

/// The slice is used up: whether there is another one.
Outcome next_slice(Run& r) {
    while (r.budget < 0 && r.rest > 0) {
        if (r.watch->expired()) return Outcome::TooLong;
        const std::int64_t slice = std::min(kSlice, r.rest);
        r.budget += slice;
        r.rest -= slice;
    }
    return r.budget < 0 ? Outcome::TooManyTurns : Outcome::Done;
}

bool table_bit(const std::byte* table, std::uint32_t index) {
    return ((std::to_integer<std::uint32_t>(table[index >> 3]) >> (index & 7U)) & 1U) != 0;
}

/// A pointer to an operand.
template <class AtOperand>
struct Operand {
    const AtOperand& at_operand;
    const std::uint32_t& word;
    operator std::byte*() const { return at_operand(word); }  // NOLINT(google-explicit-constructor): it is one
};

/// The machine. `Block` code may address its instance (`self`); other code has absolute operands only, which saves it
/// the choice.
template <bool Block>
bool run(Run& r, const Instruction* at, std::byte* self) {
    std::byte* const m = r.memory;
    [[maybe_unused]] const std::ptrdiff_t from_memory = Block ? self - m : 0;
    const auto at_operand = [&](std::uint32_t operand) -> std::byte* {
        if constexpr (Block) {
            // Without a branch, which would be guessed wrong half of the time.
            const auto mine = static_cast<std::ptrdiff_t>(static_cast<std::int32_t>(operand) >> 31);
            return m + (mine & from_memory) + (operand & ~kSelf);
        } else {
            return m + operand;
        }
    };
    const auto stop = [&](Outcome outcome) {
        r.stopped.outcome = outcome;
        r.stopped.instruction = static_cast<std::uint32_t>(at - r.code.code);
        return false;
    };
    const auto goes_on = [&] {
        const Outcome next = next_slice(r);
        return next == Outcome::Done || stop(next);
    };
    // Of an operation that touches many bytes.
    const auto spend = [&](std::int64_t bytes) { return bytes < 64 || (r.budget -= bytes / 8) >= 0 || goes_on(); };
    const auto spend_on_texts = [&](const TextOperands& o, bool product) {
        const std::int64_t one = text_length(o.a), two = text_length(o.b);
        return spend((product ? one * two : one + two) * o.width);
    };
    // A call that stopped: this one led there.
    const auto led = [&] {
        if (r.stopped.caller_count < Execution::kMaxCallers)
            r.stopped.callers[r.stopped.caller_count++] = static_cast<std::uint32_t>(at - r.code.code);
        return false;
    };
    const auto contact = [&](std::uint32_t operand) { return std::to_integer<std::uint32_t>(*at_operand(operand)); };
    for (;; ++at) {
        const Instruction& in = *at;
        // Worked out where they are used: what an operation does not use would cost as much as the operation.
        const Operand<decltype(at_operand)> d{at_operand, in.dst}, a{at_operand, in.a}, b{at_operand, in.b};
        const auto texts = [&](std::uint32_t to, const std::byte* x, const std::byte* y) {
            return TextOperands{m + to, m + load<std::uint32_t>(x), m + load<std::uint32_t>(y), in.n()};
        };
        const auto address = [&](const std::byte* slot) { return m + load<std::uint32_t>(slot); };
        const auto whole = [&](std::uint32_t operand) { return load<std::int64_t>(at_operand(operand)); };
        switch (in.op()) {
            case Op::End:
            case Op::Return: return true;
            case Op::Jump: at = r.code.code + in.a - 1; continue;
            case Op::LoopBack:
                if ((r.budget -= in.b) < 0 && !goes_on()) return false;
                at = r.code.code + in.a - 1;
                continue;
            case Op::Call:
                if ((r.budget -= in.b) < 0 && !goes_on()) return false;
                if (!run<false>(r, r.code.code + in.a, nullptr)) return led();
                continue;
            case Op::CallInstance:
                if ((r.budget -= in.b) < 0 && !goes_on()) return false;
                if (!run<true>(r, r.code.code + in.a, at_operand(in.dst))) return led();
                continue;
            case Op::CallIndirect:
                if (!run<true>(r, r.code.code + in.a, m + load<std::uint32_t>(at_operand(in.dst)) + in.b)) return led();
                continue;
            case Op::CallMethod: {
                std::byte* const instance = m + load<std::uint32_t>(at_operand(in.dst));
                const std::uint32_t entry = r.code.dispatch[load<std::uint32_t>(instance) * r.code.methods + in.n()];
                if ((r.budget -= 16) < 0 && !goes_on()) return false;
                if (!run<true>(r, r.code.code + entry, instance)) return led();
                continue;
            }
            case Op::Contacts2: {
                const std::uint32_t i = contact(in.a) | contact(in.b) << 1;
                *d = static_cast<std::byte>((in.n() >> i) & 1U);
                continue;
            }
            case Op::Contacts3: {
                const std::uint32_t i = contact(in.a) | contact(in.b) << 1 | contact(at[1].head) << 2;
                *d = static_cast<std::byte>((in.n() >> i) & 1U);
                at += 1;
                continue;
            }
            case Op::Contacts4: {
                const std::uint32_t i =
                    contact(in.a) | contact(in.b) << 1 | contact(at[1].head) << 2 | contact(at[1].dst) << 3;
                *d = static_cast<std::byte>((in.n() >> i) & 1U);
                at += 1;
                continue;
            }
            case Op::Contacts5: {
                const std::uint32_t i = contact(in.a) | contact(in.b) << 1 | contact(at[1].head) << 2 |
                                        contact(at[1].dst) << 3 | contact(at[1].a) << 4;
                *d = static_cast<std::byte>((at[1].b >> i) & 1U);
                at += 1;
                continue;
            }
            case Op::Contacts6: {
                const std::uint32_t i = contact(in.a) | contact(in.b) << 1 | contact(at[1].head) << 2 |
                                        contact(at[1].dst) << 3 | contact(at[1].a) << 4 | contact(at[1].b) << 5;
                *d = static_cast<std::byte>((r.code.tables[in.n()] >> i) & 1U);
                at += 1;
                continue;
            }
            case Op::Contacts7:
            case Op::Contacts8: {
                std::uint32_t i = contact(at[1].head) | contact(at[1].dst) << 1 | contact(at[1].a) << 2 |
                                  contact(at[1].b) << 3 | contact(at[2].head) << 4 | contact(at[2].dst) << 5 |
                                  contact(at[2].a) << 6;
                if (in.op() == Op::Contacts8) i |= contact(at[2].b) << 7;
                set_flag(at_operand(in.dst), table_bit(m + in.a, i));
                at += 2;
                continue;
            }
            case Op::BitContacts: {
                const auto bit = [&](std::uint32_t word) {
                    const std::uint32_t place = word & (kSelf | ((1U << kContactBit) - 1));
                    return (contact(place) >> ((word >> kContactBit) & 7U)) & 1U;
                };
                // Four to a slot; what fills up the last one does not count.
                const std::uint32_t n = in.n(), slots = (n + 3) / 4;
                std::uint32_t i = 0;
                for (std::uint32_t k = 0; k < slots; ++k) {
                    const Instruction& slot = at[1 + k];
                    const std::uint32_t four =
                        bit(slot.head) | bit(slot.dst) << 1 | bit(slot.a) << 2 | bit(slot.b) << 3;
                    i |= four << (4 * k);
                }
                set_flag(at_operand(in.dst), table_bit(m + in.a, i & ((1U << n) - 1)));
                at += slots;
                continue;
            }
            case Op::JumpIf:
                if (flag(b)) at = r.code.code + in.a - 1;
                break;
            case Op::JumpUnless:
                if (!flag(b)) at = r.code.code + in.a - 1;
                break;
            case Op::MarkJumpIf:
                d[flag(b) ? 1 : 0] = std::byte{1};
                if (flag(b)) at = r.code.code + in.a - 1;
                break;
            case Op::MarkJumpUnless:
                d[flag(b) ? 0 : 1] = std::byte{1};
                if (!flag(b)) at = r.code.code + in.a - 1;
                break;
            case Op::MoveIf8:
                if (flag(b)) *d = *a;
                break;
            case Op::MoveIf16:
                if (flag(b)) store(d, load<std::uint16_t>(a));
                break;
            case Op::MoveIf32:
                if (flag(b)) store(d, load<std::uint32_t>(a));
                break;
            case Op::MoveIf64:
                if (flag(b)) store(d, load<std::uint64_t>(a));
                break;
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
            case Op::CopyBytes:
                if (!spend(in.b)) return false;
                std::memmove(d, a, in.b);
                break;
            case Op::CopyIndirect:
                if (!spend(in.b)) return false;
                std::memmove(address(d), address(a), in.b);
                break;
            case Op::AddressOf: store(d, static_cast<std::uint32_t>(a - m + in.b)); break;
            case Op::LoadIndirect8: *d = *(address(a) + in.b); break;
            case Op::LoadIndirect16: store(d, load<std::uint16_t>(address(a) + in.b)); break;
            case Op::LoadIndirect32: store(d, load<std::uint32_t>(address(a) + in.b)); break;
            case Op::LoadIndirect64: store(d, load<std::uint64_t>(address(a) + in.b)); break;
            case Op::StoreIndirect8: *(address(d) + in.b) = *a; break;
            case Op::StoreIndirect16: store(address(d) + in.b, load<std::uint16_t>(a)); break;
            case Op::StoreIndirect32: store(address(d) + in.b, load<std::uint32_t>(a)); break;
            case Op::StoreIndirect64: store(address(d) + in.b, load<std::uint64_t>(a)); break;
            case Op::Halt: return stop(Outcome::Halted);
            case Op::CheckReference:
                if (load<std::uint32_t>(a) == 0) return stop(Outcome::NullReference);
                break;
            case Op::CastInstance: {
                const auto instance = load<std::uint32_t>(a);
                const bool kind = instance != 0 && table_bit(b, load<std::uint32_t>(m + instance));
                store<std::uint32_t>(d, kind ? instance : 0);
                break;
            }
            case Op::BoolAnd: *d = *a & *b; break;
            case Op::BoolAndNot: *d = *a & (*b ^ std::byte{1}); break;
            case Op::BoolOr: *d = *a | *b; break;
            case Op::BoolOrNot: *d = *a | (*b ^ std::byte{1}); break;
            case Op::BoolXor: *d = *a ^ *b; break;
            case Op::BoolNot: *d = *a ^ std::byte{1}; break;
            case Op::TimerOn: timer_on(a, r.now); break;
            case Op::TimerOff: timer_off(a, r.now); break;
            case Op::TimerPulse: timer_pulse(a, r.now); break;
            case Op::TimerOnWith:
                a[TimerLayout::in] = *d;
                store(a + TimerLayout::pt, load<std::int64_t>(b));
                timer_on(a, r.now);
                break;
            case Op::TimerOffWith:
                a[TimerLayout::in] = *d;
                store(a + TimerLayout::pt, load<std::int64_t>(b));
                timer_off(a, r.now);
                break;
            case Op::TimerPulseWith:
                a[TimerLayout::in] = *d;
                store(a + TimerLayout::pt, load<std::int64_t>(b));
                timer_pulse(a, r.now);
                break;
            case Op::RisingTriggerWith: a[G::clk] = *b; [[fallthrough]];
            case Op::RisingTrigger: set_flag(a + G::q, rose(a + G::clk, a + G::memory)); break;
            case Op::FallingTriggerWith: a[G::clk] = *b; [[fallthrough]];
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
            case Op::ChartStep: chart_step(a, r.now); break;
            case Op::ActionControl: action_control(a, r.now); break;
            case Op::Rises: set_flag(d, edge_seen(flag(a), b, true)); break;
            case Op::Falls: set_flag(d, edge_seen(flag(a), b, false)); break;
            case Op::TextMove:
                if (!spend_on_texts(texts(0, a, a), false)) return false;
                text_move(texts(load<std::uint32_t>(d), a, a));
                break;
            case Op::TextCompare:
                if (!spend_on_texts(texts(0, a, b), false)) return false;
                store(d, static_cast<std::int8_t>(text_compare(texts(0, a, b))));
                break;
            case Op::TextLength: store(d, static_cast<std::int16_t>(text_length(address(a)))); break;
            case Op::TextLeft:
                if (!spend_on_texts(texts(0, a, a), false)) return false;
                text_part(texts(load<std::uint32_t>(d), a, a), 0, load<std::int64_t>(b));
                break;
            case Op::TextRight:
                if (!spend_on_texts(texts(0, a, a), false)) return false;
                text_right(texts(load<std::uint32_t>(d), a, a), load<std::int64_t>(b));
                break;
            case Op::TextMiddle:
                if (!spend_on_texts(texts(0, a, a), false)) return false;
                text_part(texts(load<std::uint32_t>(d), a, a), whole(at[1].head) - 1, load<std::int64_t>(b));
                ++at;
                break;
            case Op::TextConcat:
                if (!spend_on_texts(texts(0, a, b), false)) return false;
                text_concat(texts(load<std::uint32_t>(d), a, b));
                break;
            case Op::TextInsert:
                if (!spend_on_texts(texts(0, a, b), false)) return false;
                text_splice(texts(load<std::uint32_t>(d), a, b), whole(at[1].head), 0);
                ++at;
                break;
            case Op::TextDelete:
                if (!spend_on_texts(texts(0, a, a), false)) return false;
                text_delete(texts(load<std::uint32_t>(d), a, a), whole(at[1].head) - 1, load<std::int64_t>(b));
                ++at;
                break;
            case Op::TextReplace:
                if (!spend_on_texts(texts(0, a, b), false)) return false;
                text_splice(texts(load<std::uint32_t>(d), a, b), whole(at[1].head) - 1, whole(at[1].dst));
                ++at;
                break;
            case Op::TextFind:
                if (!spend_on_texts(texts(0, a, b), true)) return false;
                store(d, static_cast<std::int16_t>(text_find(texts(0, a, b))));
                break;
            case Op::ToText:
                value_to_text(address(d), a, static_cast<Elementary>(in.n() & 0xFFU), in.n() > 0xFFU);
                break;
            case Op::FromText:
                text_to_value(d, address(a), static_cast<Elementary>(in.n() & 0xFFU), in.n() > 0xFFU);
                break;
            case Op::Widen:
                if (!spend(text_length(address(a)))) return false;
                text_widen(address(d), address(a));
                break;
            case Op::Narrow:
                if (!spend(2 * text_length(address(a)))) return false;
                text_narrow(address(d), address(a));
                break;
            case Op::TextOfCharacter: text_of_character(address(d), a, in.n()); break;
            case Op::CharacterOfText: character_of_text(d, address(a), in.n()); break;
            case Op::MakeDate:
                store(d, date_of(load<std::int64_t>(a), load<std::int64_t>(b), whole(at[1].head)));
                ++at;
                break;
            case Op::MakeTime:
                store(d, time_of(load<std::int64_t>(a), load<std::int64_t>(b), whole(at[1].head), whole(at[1].dst)));
                ++at;
                break;
            case Op::SplitDate: {
                std::int64_t year = 0, month = 0, day = 0;
                civil_of(load<std::int64_t>(b), year, month, day);
                store(d, year);
                store(a, month);
                store(at_operand(at[1].head), day);
                ++at;
                break;
            }
            case Op::SplitTime: {
                const auto ns = load<std::int64_t>(b);
                store(d, ns / 3'600'000'000'000);
                store(a, ns / 60'000'000'000 % 60);
                store(at_operand(at[1].head), ns / 1'000'000'000 % 60);
                store(at_operand(at[1].dst), ns / 1'000'000 % 1000);
                ++at;
                break;
            }
            case Op::DayOfWeek:
                *d = static_cast<std::byte>(((load<std::int64_t>(a) / 86'400'000'000'000) % 7 + 11) % 7);
                break;
            case Op::FromBcd: store(d, from_bcd(load<std::uint64_t>(a), in.n())); break;
            case Op::ToBcd: store(d, to_bcd(load<std::uint64_t>(a), in.n())); break;
            case Op::ValidBcd: set_flag(d, valid_bcd(load<std::uint64_t>(a), in.n())); break;

#define VYARD_CASE(N, X)                                                                                            \
    case Op::Modulo##N:                                                                                             \
        if (load<X>(b) == X{0}) return stop(Outcome::DivisionByZero);                                               \
        store<X>(d, remainder<X>(load<X>(a), load<X>(b)));                                                          \
        break;                                                                                                      \
    case Op::And##N: store<X>(d, static_cast<X>(load<X>(a) & load<X>(b))); break;                                   \
    case Op::Or##N: store<X>(d, static_cast<X>(load<X>(a) | load<X>(b))); break;                                    \
    case Op::Xor##N: store<X>(d, static_cast<X>(load<X>(a) ^ load<X>(b))); break;                                   \
    case Op::Invert##N: store<X>(d, static_cast<X>(~load<X>(a))); break;                                            \
    case Op::ShiftLeft##N: store<X>(d, shifted<X>(load<X>(a), load<std::int64_t>(b), true)); break;                 \
    case Op::ShiftRight##N: store<X>(d, shifted<X>(load<X>(a), load<std::int64_t>(b), false)); break;               \
    case Op::RotateLeft##N: store<X>(d, rotated<X>(load<X>(a), load<std::int64_t>(b), true)); break;                \
    case Op::RotateRight##N: store<X>(d, rotated<X>(load<X>(a), load<std::int64_t>(b), false)); break;              \
    case Op::SwapBytes##N: store<X>(d, swapped<X>(load<X>(a))); break;                                              \
    case Op::CheckRange##N:                                                                                         \
        if (load<X>(a) < load<X>(b) || load<X>(a) > load<X>(b + sizeof(X))) {                                       \
            note_range(r.stopped, as_signed(load<X>(a)), as_signed(load<X>(b)), as_signed(load<X>(b + sizeof(X)))); \
            return stop(Outcome::OutOfSubrange);                                                                    \
        }                                                                                                           \
        store<X>(d, load<X>(a));                                                                                    \
        break;                                                                                                      \
    case Op::Index##N:                                                                                              \
        if (!move_to_element<X>(d, load<X>(a), b, r.stopped)) return stop(Outcome::IndexOutOfRange);                \
        break;                                                                                                      \
    case Op::CountUp##N: count_up<X>(a); break;                                                                     \
    case Op::CountDown##N: count_down<X>(a); break;                                                                 \
    case Op::CountUpWith##N:                                                                                        \
    case Op::CountDownWith##N:                                                                                      \
        a[CounterLayout::cu + (in.op() == Op::CountDownWith##N ? 1U : 0U)] = *d;                                    \
        a[CounterLayout::reset + (in.op() == Op::CountDownWith##N ? 1U : 0U)] = *b;                                 \
        store<X>(a + CounterLayout::pv, load<X>(at_operand(at[1].head)));                                           \
        if (in.op() == Op::CountUpWith##N)                                                                          \
            count_up<X>(a);                                                                                         \
        else                                                                                                        \
            count_down<X>(a);                                                                                       \
        ++at;                                                                                                       \
        break;                                                                                                      \
    case Op::Select##N: {                                                                                           \
        const auto i = static_cast<std::uint64_t>(static_cast<std::int64_t>(load<X>(a))) -                          \
                       static_cast<std::uint64_t>(load<std::int64_t>(b));                                           \
        const Instruction& slot = at[1 + (i < in.n() ? i / 4 : 0)];                                                 \
        const std::uint32_t listed[4] = {slot.head, slot.dst, slot.a, slot.b};                                      \
        at = r.code.code + (i < in.n() ? listed[i % 4] : in.dst) - 1;                                               \
        break;                                                                                                      \
    }                                                                                                               \
    case Op::CountUpDown##N: count_up_down<X>(a); break;
                VYARD_INTEGER_TYPES(VYARD_CASE)
#undef VYARD_CASE

#define VYARD_CASE(N, X)                                                                                           \
    case Op::Add##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x + y; })); break; \
    case Op::Subtract##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x - y; }));   \
        break;                                                                                                     \
    case Op::Multiply##N: store<X>(d, wrapped<X>(load<X>(a), load<X>(b), [](auto x, auto y) { return x * y; }));   \
        break;                                                                                                     \
    case Op::Divide##N:                                                                                            \
        if (std::is_integral_v<X> && load<X>(b) == X{0}) return stop(Outcome::DivisionByZero);                     \
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

#define VYARD_CASE(N, X)                                                             \
    case Op::SquareRoot##N: store<X>(d, std::sqrt(load<X>(a))); break;               \
    case Op::Truncate##N: store<X>(d, std::trunc(load<X>(a))); break;                \
    case Op::NaturalLogarithm##N: store<X>(d, std::log(load<X>(a))); break;          \
    case Op::Exponential##N: store<X>(d, std::exp(load<X>(a))); break;               \
    case Op::Sine##N: store<X>(d, std::sin(load<X>(a))); break;                      \
    case Op::Cosine##N: store<X>(d, std::cos(load<X>(a))); break;                    \
    case Op::ArcTangent##N: store<X>(d, std::atan(load<X>(a))); break;               \
    case Op::DecimalLogarithm##N: store<X>(d, std::log10(load<X>(a))); break;        \
    case Op::Tangent##N: store<X>(d, std::tan(load<X>(a))); break;                   \
    case Op::ArcSine##N: store<X>(d, std::asin(load<X>(a))); break;                  \
    case Op::ArcCosine##N: store<X>(d, std::acos(load<X>(a))); break;                \
    case Op::ArcTangent2##N: store<X>(d, std::atan2(load<X>(a), load<X>(b))); break; \
    case Op::IsValid##N: set_flag(d, std::isfinite(load<X>(a))); break;              \
    case Op::MultiplyAdd##N: {                                                       \
        const X product = load<X>(a) * load<X>(b);                                   \
        store<X>(d, product + load<X>(at_operand(at[1].head)));                      \
        ++at;                                                                        \
        break;                                                                       \
    }                                                                                \
    case Op::Power##N: store<X>(d, std::pow(load<X>(a), load<X>(b))); break;
                VYARD_REAL_TYPES(VYARD_CASE)
#undef VYARD_CASE
            default: return true;
        }
    }
}

}  // namespace

std::string outcome_text(const Execution& stopped) {
    switch (stopped.outcome) {
        case Outcome::Done: return "done";
        case Outcome::DivisionByZero: return "division by zero";
        case Outcome::TooManyTurns: return "a task did more than max_instructions: a loop does not end";
        case Outcome::TooLong: return "a task took longer than its watchdog";
        case Outcome::Halted: return "halted";
        case Outcome::IndexOutOfRange:
            return fmt::format("the index {} is outside its array, {}..{}", stopped.value, stopped.low, stopped.high);
        case Outcome::NullReference: return "a reference that is NULL was followed";
        case Outcome::OutOfSubrange:
            return fmt::format("the value {} is outside its subrange, {}..{}", stopped.value, stopped.low,
                               stopped.high);
    }
    return "";
}

Execution execute(const CodeView& code, std::uint32_t entry, std::byte* memory, std::int64_t now_ns,
                  std::int64_t budget, ScanWatch* watch) {
    const std::int64_t first = watch == nullptr ? budget : std::min(budget, kSlice);
    Run r{code, memory, now_ns, first, budget - first, watch, {}};
    run<false>(r, code.code + entry, nullptr);
    return r.stopped;
}

}  // namespace vyard::logic
