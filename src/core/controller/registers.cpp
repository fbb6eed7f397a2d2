#include "core/controller/registers.hpp"

#include <algorithm>
#include <array>
#include <limits>

namespace vyard::controller {

using logic::Elementary;
using logic::Value;

namespace {

constexpr std::int64_t kMillisecond = 1'000'000;

int bytes_of(Elementary type) {
    return static_cast<int>(logic::type_size(type));
}

/// UTF-8 to code units of 16 bits; what is no character of the first plane becomes a question mark.
std::vector<std::uint16_t> units_of(const std::string& text) {
    std::vector<std::uint16_t> out;
    for (std::size_t i = 0; i < text.size();) {
        const auto c = static_cast<unsigned char>(text[i]);
        const std::size_t length = c < 0x80 ? 1 : c < 0xE0 ? 2 : c < 0xF0 ? 3 : 4;
        std::uint32_t code = length == 1 ? c : c & (0x7FU >> length);
        for (std::size_t k = 1; k < length && i + k < text.size(); ++k)
            code = (code << 6U) | (static_cast<unsigned char>(text[i + k]) & 0x3FU);
        out.push_back(static_cast<std::uint16_t>(code < 0x10000 ? code : '?'));
        i += length;
    }
    return out;
}
void append_unit(std::string& out, std::uint16_t unit) {
    if (unit < 0x80) {
        out += static_cast<char>(unit);
    } else if (unit < 0x800) {
        out += static_cast<char>(0xC0U | (unit >> 6U));
        out += static_cast<char>(0x80U | (unit & 0x3FU));
    } else if (unit >= 0xD800 && unit < 0xE000) {
        out += '?';  // half of a character
    } else {
        out += static_cast<char>(0xE0U | (unit >> 12U));
        out += static_cast<char>(0x80U | ((unit >> 6U) & 0x3FU));
        out += static_cast<char>(0x80U | (unit & 0x3FU));
    }
}

/// A text in registers: two characters in each, the first in the high half; zeros behind its end.
std::vector<std::uint16_t> text_registers(const Value& value, int count) {
    std::vector<std::uint16_t> out(static_cast<std::size_t>(count), 0);
    if (value.type == Elementary::Wstring) {
        const auto units = units_of(value.text);
        std::copy_n(units.begin(), std::min(units.size(), out.size()), out.begin());
        return out;
    }
    for (std::size_t i = 0; i < value.text.size() && i / 2 < out.size(); ++i) {
        const auto c = static_cast<unsigned char>(value.text[i]);
        out[i / 2] = static_cast<std::uint16_t>(out[i / 2] | (i % 2 == 0 ? c << 8U : c));
    }
    return out;
}
std::string text_of(Elementary type, const std::vector<std::uint16_t>& words) {
    std::string out;
    for (const std::uint16_t w : words) {
        if (type == Elementary::Wstring) {
            if (w == 0) break;
            append_unit(out, w);
            continue;
        }
        const auto high = static_cast<char>(w >> 8U), low = static_cast<char>(w & 0xFFU);
        if (high == 0) break;
        out += high;
        if (low == 0) break;
        out += low;
    }
    // Whatever others send, a text is UTF-8 here.
    for (std::size_t bad = base::first_not_utf8(out); bad != std::string::npos; bad = base::first_not_utf8(out))
        out[bad] = '?';
    return out;
}

std::uint64_t milliseconds_of(std::uint64_t bits) {
    const std::int64_t ms = static_cast<std::int64_t>(bits) / kMillisecond;
    constexpr std::int64_t kLow = std::numeric_limits<std::int32_t>::min();
    constexpr std::int64_t kHigh = std::numeric_limits<std::int32_t>::max();
    return static_cast<std::uint64_t>(std::clamp(ms, kLow, kHigh)) & 0xFFFF'FFFFU;
}

std::uint16_t swapped(std::uint16_t w) {
    return static_cast<std::uint16_t>((w >> 8U) | (w << 8U));
}

/// From highest first to the order of a place, and back.
void order(const RegisterPlace& place, bool text, std::span<std::uint16_t> words) {
    if (place.low_word_first && !text) std::reverse(words.begin(), words.end());
    if (!place.swap_bytes) return;
    for (std::uint16_t& w : words) w = swapped(w);
}

}  // namespace

const char* area_name(RegisterArea area) {
    static constexpr std::array<const char*, kAreas> kNames = {"coil", "discrete", "input", "holding"};
    return base::at(kNames, static_cast<int>(area));
}

int registers_of(Elementary type, int capacity) {
    switch (type) {
        case Elementary::String: return (capacity + 1) / 2;
        case Elementary::Wstring: return capacity;
        case Elementary::Time: return 2;
        case Elementary::Date:
        case Elementary::Ldate:
        case Elementary::Tod:
        case Elementary::Ltod:
        case Elementary::Dt:
        case Elementary::Ldt: return 0;
        default: break;
    }
    return logic::is_scalar(type) ? std::max(1, bytes_of(type) / 2) : 0;
}

std::string on_the_link(Elementary type) {
    switch (type) {
        case Elementary::Time: return "DINT of ms";
        case Elementary::Ltime: return "LINT of ns";
        case Elementary::String: return "characters, two a register";
        case Elementary::Wstring: return "characters, one a register";
        case Elementary::Sint: return "INT";
        case Elementary::Usint:
        case Elementary::Byte:
        case Elementary::Char: return "UINT";
        default: return logic::type_name(type);
    }
}

void to_registers(const Value& value, const RegisterPlace& place, std::span<std::uint16_t> out) {
    const bool text = logic::is_text(value.type);
    if (text) {
        const auto words = text_registers(value, static_cast<int>(out.size()));
        std::copy(words.begin(), words.end(), out.begin());
    } else {
        std::uint64_t bits = value.type == Elementary::Time ? milliseconds_of(value.bits) : value.bits;
        // A type of one byte takes a whole register.
        if (value.type == Elementary::Sint && (bits & 0x80U) != 0) bits |= 0xFF00U;
        for (std::size_t i = 0; i < out.size(); ++i)
            out[out.size() - 1 - i] = static_cast<std::uint16_t>(bits >> (16 * i));
    }
    order(place, text, out);
}

Value from_registers(Elementary type, const RegisterPlace& place, std::span<const std::uint16_t> in) {
    std::vector<std::uint16_t> words(in.begin(), in.end());
    const bool text = logic::is_text(type);
    if (text) {
        order({place.area, 0, 1, -1, false, place.swap_bytes}, true, words);
        return {type, 0, text_of(type, words)};
    }
    // Bytes and words are turned each by itself, so their order does not matter.
    order(place, false, words);
    std::uint64_t bits = 0;
    for (const std::uint16_t w : words) bits = (bits << 16U) | w;
    if (type == Elementary::Time)
        bits = static_cast<std::uint64_t>(static_cast<std::int64_t>(static_cast<std::int32_t>(bits)) * kMillisecond);
    if (type == Elementary::Bool) return {type, bits != 0 ? 1U : 0U, {}};
    const int size = bytes_of(type);
    if (size < 8) bits &= (std::uint64_t{1} << (8 * size)) - 1;
    return {type, bits, {}};
}

void RegisterImage::hold(const RegisterPlace& place) {
    if (is_bits(place.area)) {
        bits(place.area).resize(std::max<std::size_t>(bits(place.area).size(), place.end()));
    } else {
        words(place.area).resize(std::max<std::size_t>(words(place.area).size(), place.end()));
    }
}

void RegisterImage::put(const RegisterPlace& place, const Value& value) {
    if (is_bits(place.area)) {
        bits(place.area).at(place.first) = value.bits != 0 ? 1 : 0;
        return;
    }
    std::vector<std::uint16_t>& all = words(place.area);
    if (place.bit >= 0) {
        const auto mask = static_cast<std::uint16_t>(1U << static_cast<unsigned>(place.bit));
        std::uint16_t& w = all.at(place.first);
        w = static_cast<std::uint16_t>(value.bits != 0 ? w | mask : w & ~mask);
        return;
    }
    VYARD_CHECK(place.end() <= all.size());
    to_registers(value, place, std::span(all).subspan(place.first, static_cast<std::size_t>(place.count)));
}

Value RegisterImage::get(const RegisterPlace& place, Elementary type) const {
    if (is_bits(place.area)) return {type, bits(place.area).at(place.first), {}};
    const std::vector<std::uint16_t>& all = words(place.area);
    if (place.bit >= 0) return {type, (all.at(place.first) >> static_cast<unsigned>(place.bit)) & 1U, {}};
    VYARD_CHECK(place.end() <= all.size());
    return from_registers(type, place, std::span(all).subspan(place.first, static_cast<std::size_t>(place.count)));
}

}  // namespace vyard::controller
