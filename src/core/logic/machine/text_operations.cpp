#include "core/logic/machine/text_operations.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <chrono>
#include <cmath>
#include <limits>
#include <string_view>

#include "core/logic/machine/memory_access.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

std::uint16_t capacity(const std::byte* text) {
    return load<std::uint16_t>(text);
}
std::uint16_t length(const std::byte* text) {
    return load<std::uint16_t>(text + 2);
}

/// A result is put together here first, since it may be one of its own operands.
class Buffer {
  public:
    explicit Buffer(std::uint32_t width) : width_(width) {}

    void add(const std::byte* text, std::int64_t from, std::int64_t count) {
        from = std::clamp<std::int64_t>(from, 0, length(text));
        count = std::clamp<std::int64_t>(count, 0, length(text) - from);
        const std::int64_t room = kMaxCapacity - size_;
        count = std::min(count, room);
        std::memcpy(bytes_.data() + static_cast<std::size_t>(size_) * width_,
                    text + kTextHead + static_cast<std::size_t>(from) * width_,
                    static_cast<std::size_t>(count) * width_);
        size_ += count;
    }
    void put(std::byte* to) const {
        const auto kept = static_cast<std::uint16_t>(std::min<std::int64_t>(size_, capacity(to)));
        store<std::uint16_t>(to + 2, kept);
        std::memcpy(to + kTextHead, bytes_.data(), static_cast<std::size_t>(kept) * width_);
    }

  private:
    std::uint32_t width_;
    std::int64_t size_ = 0;
    std::array<std::byte, static_cast<std::size_t>(kMaxCapacity) * 2> bytes_;
};

std::uint32_t unit(const std::byte* text, std::int64_t i, std::uint32_t width) {
    const std::byte* at = text + kTextHead + static_cast<std::size_t>(i) * width;
    return width == 1 ? std::to_integer<std::uint32_t>(*at) : load<std::uint16_t>(at);
}

void put_letters(std::byte* to, std::string_view letters, bool wide) {
    const std::size_t kept = std::min<std::size_t>(letters.size(), capacity(to));
    store<std::uint16_t>(to + 2, static_cast<std::uint16_t>(kept));
    for (std::size_t i = 0; i < kept; ++i) {
        if (wide) {
            store<std::uint16_t>(to + kTextHead + 2 * i, static_cast<unsigned char>(letters[i]));
        } else {
            to[kTextHead + i] = static_cast<std::byte>(letters[i]);
        }
    }
}

}  // namespace

void text_move(const TextOperands& o) {
    const std::uint16_t kept = std::min(length(o.a), capacity(o.to));
    store<std::uint16_t>(o.to + 2, kept);
    std::memmove(o.to + kTextHead, o.a + kTextHead, static_cast<std::size_t>(kept) * o.width);
}

int text_compare(const TextOperands& o) {
    const std::int64_t common = std::min(length(o.a), length(o.b));
    for (std::int64_t i = 0; i < common; ++i) {
        const std::uint32_t x = unit(o.a, i, o.width), y = unit(o.b, i, o.width);
        if (x != y) return x < y ? -1 : 1;
    }
    return length(o.a) < length(o.b) ? -1 : length(o.a) > length(o.b) ? 1 : 0;
}

int text_length(const std::byte* a) {
    return length(a);
}

void text_part(const TextOperands& o, std::int64_t from, std::int64_t count) {
    Buffer buffer(o.width);
    if (from >= 0) buffer.add(o.a, from, count);
    buffer.put(o.to);
}

void text_right(const TextOperands& o, std::int64_t count) {
    Buffer buffer(o.width);
    const std::int64_t kept = std::clamp<std::int64_t>(count, 0, length(o.a));
    buffer.add(o.a, length(o.a) - kept, kept);
    buffer.put(o.to);
}

void text_concat(const TextOperands& o) {
    Buffer buffer(o.width);
    buffer.add(o.a, 0, length(o.a));
    buffer.add(o.b, 0, length(o.b));
    buffer.put(o.to);
}

void text_splice(const TextOperands& o, std::int64_t at, std::int64_t drop) {
    Buffer buffer(o.width);
    const std::int64_t place = std::clamp<std::int64_t>(at, 0, length(o.a));
    drop = std::clamp<std::int64_t>(drop, 0, length(o.a) - place);
    buffer.add(o.a, 0, place);
    buffer.add(o.b, 0, length(o.b));
    buffer.add(o.a, place + drop, length(o.a));
    buffer.put(o.to);
}

void text_delete(const TextOperands& o, std::int64_t at, std::int64_t drop) {
    Buffer buffer(o.width);
    const std::int64_t place = std::clamp<std::int64_t>(at, 0, length(o.a));
    drop = std::clamp<std::int64_t>(drop, 0, length(o.a) - place);
    buffer.add(o.a, 0, place);
    buffer.add(o.a, place + drop, length(o.a));
    buffer.put(o.to);
}

int text_find(const TextOperands& o) {
    const std::int64_t n = length(o.a), m = length(o.b);
    for (std::int64_t at = 0; at + m <= n && m > 0; ++at) {
        std::int64_t i = 0;
        while (i < m && unit(o.a, at + i, o.width) == unit(o.b, i, o.width)) ++i;
        if (i == m) return static_cast<int>(at) + 1;
    }
    return 0;
}

void text_of_character(std::byte* to, const std::byte* character, std::uint32_t width) {
    store<std::uint16_t>(to + 2, static_cast<std::uint16_t>(std::min<int>(1, capacity(to))));
    if (capacity(to) > 0) std::memcpy(to + kTextHead, character, width);
}

void character_of_text(std::byte* to, const std::byte* text, std::uint32_t width) {
    std::memset(to, 0, width);
    if (length(text) > 0) std::memcpy(to, text + kTextHead, width);
}

void text_widen(std::byte* to, const std::byte* from) {
    std::uint32_t out = 0;
    const std::uint32_t room = capacity(to), n = length(from);
    const auto byte = [&](std::uint32_t i) { return std::to_integer<std::uint32_t>(from[kTextHead + i]); };
    for (std::uint32_t i = 0; i < n && out < room;) {
        const std::uint32_t first = byte(i);
        std::uint32_t more = first >= 0xF0 ? 3 : first >= 0xE0 ? 2 : first >= 0xC0 ? 1 : 0;
        if (i + more >= n) more = 0;
        std::uint32_t code = more == 0 ? first : first & (0x3FU >> more);
        for (std::uint32_t k = 1; k <= more; ++k) code = code << 6 | (byte(i + k) & 0x3FU);
        i += more + 1;
        if (code >= 0x10000) {
            if (out + 2 > room) break;
            store(to + kTextHead + 2U * std::size_t{out++},
                  static_cast<std::uint16_t>(0xD800 | ((code - 0x10000) >> 10)));
            code = 0xDC00 | (code & 0x3FF);
        }
        store(to + kTextHead + 2U * std::size_t{out++}, static_cast<std::uint16_t>(code));
    }
    store(to + 2, static_cast<std::uint16_t>(out));
}

void text_narrow(std::byte* to, const std::byte* from) {
    std::uint32_t out = 0;
    const std::uint32_t room = capacity(to), n = length(from);
    for (std::uint32_t i = 0; i < n; ++i) {
        std::uint32_t code = unit(from, i, 2);
        if (code >= 0xD800 && code < 0xDC00 && i + 1 < n)
            code = 0x10000 + ((code & 0x3FFU) << 10) + (unit(from, ++i, 2) & 0x3FFU);
        const std::uint32_t more = code < 0x80 ? 0 : code < 0x800 ? 1 : code < 0x10000 ? 2 : 3;
        if (out + more + 1 > room) break;
        const std::uint32_t lead[] = {0, 0xC0, 0xE0, 0xF0};
        to[kTextHead + out++] = static_cast<std::byte>(lead[more] | (code >> (6 * more)));
        for (std::uint32_t k = more; k-- > 0;)
            to[kTextHead + out++] = static_cast<std::byte>(0x80U | ((code >> (6 * k)) & 0x3FU));
    }
    store(to + 2, static_cast<std::uint16_t>(out));
}

// --- dates: the civil calendar of std::chrono ---

std::int64_t date_of(std::int64_t year, std::int64_t month, std::int64_t day) {
    using namespace std::chrono;
    const auto clamped = [](std::int64_t v) { return static_cast<int>(std::clamp<std::int64_t>(v, -30000, 30000)); };
    const year_month first = std::chrono::year(clamped(year)) / January + months(clamped(month) - 1);
    const auto days_since = sys_days(first / 1).time_since_epoch().count() + clamped(day) - 1;
    return std::clamp<std::int64_t>(days_since, -106'000, 106'000) * 86'400'000'000'000;
}

void civil_of(std::int64_t date_ns, std::int64_t& year, std::int64_t& month, std::int64_t& day) {
    using namespace std::chrono;
    const std::int64_t days_since =
        date_ns >= 0 ? date_ns / 86'400'000'000'000 : -((-(date_ns + 1)) / 86'400'000'000'000) - 1;
    const year_month_day date{sys_days(days(static_cast<int>(days_since)))};
    year = static_cast<int>(date.year());
    month = static_cast<unsigned>(date.month());
    day = static_cast<unsigned>(date.day());
}

// --- values as letters ---

namespace {

struct Letters {
    std::array<char, 64> text{};
    std::size_t size = 0;

    void add(std::string_view s) {
        for (const char c : s) {
            if (size < text.size()) text[size++] = c;
        }
    }
    template <class N>
    void number(N value, std::size_t digits = 0) {
        std::array<char, 48> out{};
        const auto result = std::to_chars(out.data(), out.data() + out.size(), value);
        const auto n = static_cast<std::size_t>(result.ptr - out.data());
        for (std::size_t i = n; i < digits; ++i) add("0");
        add({out.data(), n});
    }
    std::string_view view() const { return {text.data(), size}; }
};

void real_letters(Letters& out, double value, bool narrow) {
    if (std::isnan(value)) return out.add("NaN");
    if (std::isinf(value)) return out.add(value < 0 ? "-Inf" : "Inf");
    std::array<char, 48> text{};
    const auto result = narrow ? std::to_chars(text.data(), text.data() + text.size(), static_cast<float>(value))
                               : std::to_chars(text.data(), text.data() + text.size(), value);
    const std::string_view letters(text.data(), static_cast<std::size_t>(result.ptr - text.data()));
    out.add(letters);
    if (letters.find_first_of(".e") == std::string_view::npos) out.add(".0");
}

void duration_letters(Letters& out, std::int64_t ns, const char* prefix) {
    out.add(prefix);
    if (ns < 0) out.add("-");
    auto rest = ns < 0 ? 0 - static_cast<std::uint64_t>(ns) : static_cast<std::uint64_t>(ns);
    static constexpr std::pair<const char*, std::uint64_t> kUnits[] = {{"d", 86'400'000'000'000ULL},
                                                                       {"h", 3'600'000'000'000ULL},
                                                                       {"m", 60'000'000'000ULL},
                                                                       {"s", 1'000'000'000ULL},
                                                                       {"ms", 1'000'000ULL},
                                                                       {"us", 1'000ULL},
                                                                       {"ns", 1ULL}};
    bool any = false;
    for (const auto& [name, size] : kUnits) {
        if (rest < size) continue;
        out.number(rest / size);
        out.add(name);
        rest %= size;
        any = true;
    }
    if (!any) out.add("0s");
}

void date_letters(Letters& out, std::int64_t ns) {
    std::int64_t y = 0, m = 0, d = 0;
    civil_of(ns, y, m, d);
    out.number(y, 4);
    out.add("-");
    out.number(m, 2);
    out.add("-");
    out.number(d, 2);
}

void clock_letters(Letters& out, std::int64_t ns) {
    constexpr std::int64_t kDay = 86'400'000'000'000;
    ns = ((ns % kDay) + kDay) % kDay;
    out.number(ns / 3'600'000'000'000, 2);
    out.add(":");
    out.number(ns / 60'000'000'000 % 60, 2);
    out.add(":");
    out.number(ns / 1'000'000'000 % 60, 2);
    if (const std::int64_t fraction = ns % 1'000'000'000; fraction != 0) {
        out.add(".");
        out.number(fraction, 9);
        while (out.text[out.size - 1] == '0') --out.size;
    }
}

/// The letters of a text that a value can be read from, without blanks around.
std::size_t plain_letters(const std::byte* text, bool wide, std::array<char, 64>& out) {
    std::size_t n = 0;
    for (std::int64_t i = 0; i < length(text) && n < out.size(); ++i) {
        const std::uint32_t c = unit(text, i, wide ? 2 : 1);
        if (c == ' ' && n == 0) continue;
        out[n++] = c < 128 ? static_cast<char>(c) : '?';
    }
    while (n > 0 && out[n - 1] == ' ') --n;
    return n;
}

/// Reads digits; what follows is left alone.
std::uint64_t digits(std::string_view& s) {
    std::uint64_t value = 0;
    while (!s.empty() && s[0] >= '0' && s[0] <= '9') {
        value = value * 10 + static_cast<std::uint64_t>(s[0] - '0');
        s.remove_prefix(1);
    }
    return value;
}

std::int64_t spelled_duration(std::string_view s) {
    if (const std::size_t mark = s.find('#'); mark != std::string_view::npos) s.remove_prefix(mark + 1);
    const bool negative = !s.empty() && s[0] == '-';
    if (negative) s.remove_prefix(1);
    double total = 0.0;
    while (!s.empty() && s[0] >= '0' && s[0] <= '9') {
        double value = 0.0;
        const auto result = std::from_chars(s.data(), s.data() + s.size(), value, std::chars_format::fixed);
        s.remove_prefix(static_cast<std::size_t>(result.ptr - s.data()));
        std::size_t letters = 0;
        while (letters < s.size() && s[letters] >= 'A') ++letters;
        const std::string_view unit_name = s.substr(0, letters);
        const auto is = [&](const char* name) {
            return unit_name.size() == std::strlen(name) &&
                   std::equal(unit_name.begin(), unit_name.end(), name, [](char a, char b) { return (a | 0x20) == b; });
        };
        total += value * (is("d")    ? 86400e9
                          : is("h")  ? 3600e9
                          : is("m")  ? 60e9
                          : is("s")  ? 1e9
                          : is("ms") ? 1e6
                          : is("us") ? 1e3
                          : is("ns") ? 1.0
                                     : 0.0);
        s.remove_prefix(letters);
        if (!s.empty() && s[0] == '_') s.remove_prefix(1);
    }
    if (total > 9.2e18) return 0;
    return static_cast<std::int64_t>(negative ? -total : total);
}

std::int64_t spelled_moment(std::string_view s, bool date, bool clock) {
    if (const std::size_t mark = s.find('#'); mark != std::string_view::npos) s.remove_prefix(mark + 1);
    const auto sign = [&] {
        if (!s.empty()) s.remove_prefix(1);
    };
    std::int64_t out = 0;
    if (date) {
        const auto y = static_cast<std::int64_t>(digits(s));
        sign();
        const auto m = static_cast<std::int64_t>(digits(s));
        sign();
        const auto d = static_cast<std::int64_t>(digits(s));
        if (y < 1970 || y > 2261 || m < 1 || m > 12 || d < 1 || d > 31) return 0;
        out = date_of(y, m, d);
        sign();
    }
    if (clock) {
        const auto h = static_cast<std::int64_t>(digits(s));
        sign();
        const auto m = static_cast<std::int64_t>(digits(s));
        sign();
        double seconds = 0.0;
        std::from_chars(s.data(), s.data() + s.size(), seconds, std::chars_format::fixed);
        if (h > 23 || m > 59 || !(seconds >= 0.0 && seconds < 60.0)) return 0;
        out += (h * 60 + m) * 60'000'000'000 + std::llround(seconds * 1e9);
    }
    return out;
}

/// A whole number, also 16#FF, 8#17, 2#1010; 0 when it is none.
bool spelled_integer(std::string_view s, bool& negative, std::uint64_t& value) {
    negative = !s.empty() && s[0] == '-';
    if (!s.empty() && (s[0] == '-' || s[0] == '+')) s.remove_prefix(1);
    int number_base = 10;
    if (const std::size_t mark = s.find('#'); mark != std::string_view::npos) {
        std::from_chars(s.data(), s.data() + mark, number_base);
        if (number_base != 2 && number_base != 8 && number_base != 16) return false;
        s.remove_prefix(mark + 1);
    }
    const auto result = std::from_chars(s.data(), s.data() + s.size(), value, number_base);
    return result.ec == std::errc() && (result.ptr == s.data() + s.size() || *result.ptr == '.');
}

}  // namespace

void value_to_text(std::byte* to, const std::byte* value, Elementary type, bool wide) {
    Letters out;
    const auto ns = [&] { return load<std::int64_t>(value); };
    switch (type) {
        case E::Bool: out.add(flag(value) ? "TRUE" : "FALSE"); break;
        case E::Real: real_letters(out, static_cast<double>(load<float>(value)), true); break;
        case E::Lreal: real_letters(out, load<double>(value), false); break;
        case E::Time: duration_letters(out, ns(), "T#"); break;
        case E::Ltime: duration_letters(out, ns(), "LTIME#"); break;
        case E::Date:
        case E::Ldate:
            out.add(type == E::Date ? "D#" : "LDATE#");
            date_letters(out, ns());
            break;
        case E::Tod:
        case E::Ltod:
            out.add(type == E::Tod ? "TOD#" : "LTOD#");
            clock_letters(out, ns());
            break;
        case E::Dt:
        case E::Ldt:
            out.add(type == E::Dt ? "DT#" : "LDT#");
            date_letters(out, ns());
            out.add("-");
            clock_letters(out, ns());
            break;
        default:
            switch (representation(type)) {
                case Representation::I8: out.number(static_cast<int>(load<std::int8_t>(value))); break;
                case Representation::I16: out.number(load<std::int16_t>(value)); break;
                case Representation::I32: out.number(load<std::int32_t>(value)); break;
                case Representation::I64: out.number(load<std::int64_t>(value)); break;
                case Representation::U8: out.number(static_cast<unsigned>(load<std::uint8_t>(value))); break;
                case Representation::U16: out.number(load<std::uint16_t>(value)); break;
                case Representation::U32: out.number(load<std::uint32_t>(value)); break;
                default: out.number(load<std::uint64_t>(value)); break;
            }
    }
    put_letters(to, out.view(), wide);
}

void text_to_value(std::byte* to, const std::byte* text, Elementary type, bool wide) {
    std::array<char, 64> letters{};
    const std::string_view s(letters.data(), plain_letters(text, wide, letters));
    if (type == E::Bool) {
        const bool one = s == "1" || (s.size() == 4 && (s[0] | 0x20) == 't' && (s[1] | 0x20) == 'r' &&
                                      (s[2] | 0x20) == 'u' && (s[3] | 0x20) == 'e');
        return set_flag(to, one);
    }
    if (is_real(type)) {
        double value = 0.0;
        const std::string_view plain = !s.empty() && s[0] == '+' ? s.substr(1) : s;
        if (std::from_chars(plain.data(), plain.data() + plain.size(), value).ec != std::errc()) value = 0.0;
        if (type == E::Real) return store(to, static_cast<float>(value));
        return store(to, value);
    }
    if (is_duration(type)) return store(to, spelled_duration(s));
    if (is_moment(type)) {
        const bool date = type != E::Tod && type != E::Ltod;
        const bool clock = type != E::Date && type != E::Ldate;
        return store(to, spelled_moment(s, date, clock));
    }
    bool negative = false;
    std::uint64_t value = 0;
    if (!spelled_integer(s, negative, value) || !literal_fits(type, value, negative)) value = 0;
    const std::uint64_t bits = negative ? 0 - value : value;
    std::memcpy(to, &bits, static_cast<std::size_t>(type_size(type)));
}

}  // namespace vyard::logic
