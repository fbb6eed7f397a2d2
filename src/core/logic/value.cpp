#include "core/logic/value.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstring>
#include <limits>

#include "core/base/base.hpp"
#include "core/logic/machine/machine.hpp"
#include "core/logic/machine/text_operations.hpp"
#include "core/logic/text/parser.hpp"
#include "core/logic/text_values.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

template <class T>
T as_type(std::uint64_t bits) {
    T out;
    std::memcpy(&out, &bits, sizeof out);
    return out;
}
template <class T>
std::uint64_t bits_of(T value) {
    std::uint64_t bits = 0;
    std::memcpy(&bits, &value, sizeof value);
    return bits;
}

/// Of a size known to the compiler: one instruction.
template <class T>
std::uint64_t load_bits(const std::byte* at) {
    T bits;
    std::memcpy(&bits, at, sizeof bits);
    return bits;
}
template <class T>
void store_bits(std::byte* at, std::uint64_t bits) {
    const auto cut = static_cast<T>(bits);
    std::memcpy(at, &cut, sizeof cut);
}

/// The nearest T; a NaN becomes 0.
template <class T>
std::uint64_t nearest(double number) {
    if constexpr (std::is_floating_point_v<T>) {
        return bits_of(static_cast<T>(number));
    } else {
        const double low = static_cast<double>(std::numeric_limits<T>::min());
        const double high = static_cast<double>(std::numeric_limits<T>::max());
        const double rounded = std::nearbyint(number);
        if (!(rounded > low)) return bits_of(rounded <= low ? std::numeric_limits<T>::min() : T{});
        return bits_of(rounded >= high ? std::numeric_limits<T>::max() : static_cast<T>(rounded));
    }
}

std::string duration_text(std::int64_t ns) {
    const bool negative = ns < 0;
    const std::uint64_t size = negative ? 0U - static_cast<std::uint64_t>(ns) : static_cast<std::uint64_t>(ns);
    const auto [unit, name] = size >= 1'000'000'000 || size == 0
                                  ? std::pair<std::uint64_t, const char*>(1'000'000'000, "s")
                              : size >= 1'000'000 ? std::pair<std::uint64_t, const char*>(1'000'000, "ms")
                                                  : std::pair<std::uint64_t, const char*>(1'000, "us");
    std::string fraction;
    for (std::uint64_t rest = size % unit, digit = unit / 10; rest > 0; rest %= digit, digit /= 10)
        fraction += static_cast<char>('0' + rest / digit);
    return fmt::format("{}{}{}{}{}", negative ? "-" : "", size / unit, fraction.empty() ? "" : ".", fraction, name);
}

std::string moment_text(std::int64_t ns, E type) {
    std::array<std::byte, 72> letters{};
    write_text_head(letters.data(), 64, 0);
    value_to_text(letters.data(), reinterpret_cast<const std::byte*>(&ns), type, false);
    return read_text(letters.data(), E::String);
}

}  // namespace

std::uint64_t read_bits(const std::byte* memory, E type, std::uint32_t offset, int bit) {
    if (bit >= 0) return (std::to_integer<unsigned>(memory[offset]) >> bit) & 1U;
    const std::byte* at = memory + offset;
    if (type == E::Bool) return *at != std::byte{0} ? 1U : 0U;
    if (!is_scalar(type)) return 0;
    switch (type_size(type)) {
        case 1: return load_bits<std::uint8_t>(at);
        case 2: return load_bits<std::uint16_t>(at);
        case 4: return load_bits<std::uint32_t>(at);
        default: return load_bits<std::uint64_t>(at);
    }
}

Value read_value(const std::byte* memory, E type, std::uint32_t offset, int bit) {
    if (is_text(type)) return {type, 0, read_text(memory + offset, type)};
    return {type, read_bits(memory, type, offset, bit), {}};
}

void write_bits(std::byte* memory, E type, std::uint32_t offset, int bit, std::uint64_t bits) {
    std::byte* at = memory + offset;
    if (bit < 0) {
        switch (type_size(type)) {
            case 1: return store_bits<std::uint8_t>(at, bits);
            case 2: return store_bits<std::uint16_t>(at, bits);
            case 4: return store_bits<std::uint32_t>(at, bits);
            default: return store_bits<std::uint64_t>(at, bits);
        }
    }
    const auto mask = static_cast<std::byte>(1U << static_cast<unsigned>(bit));
    *at = bits != 0 ? (*at | mask) : (*at & ~mask);
}

void write_value(std::byte* memory, const Value& value, std::uint32_t offset, int bit) {
    if (is_text(value.type)) return assign_text(memory + offset, value.type, value.text);
    if (is_scalar(value.type)) write_bits(memory, value.type, offset, bit, value.bits);
}

namespace {

std::uint64_t nearest_bits(E type, double number) {
    if (type == E::Bool) return number != 0.0 ? 1U : 0U;
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return nearest<cpp>(number);
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
    return 0;
}

double number_of_bits(E type, std::uint64_t bits) {
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return static_cast<double>(as_type<cpp>(bits));
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
    return 0.0;
}

}  // namespace

Value value_of(E type, double number) {
    return {type, is_scalar(type) ? nearest_bits(type, number) : 0, {}};
}

double number_of(const Value& value) {
    return is_scalar(value.type) ? number_of_bits(value.type, value.bits) : 0.0;
}

namespace {

template <class T>
double load(const std::byte* at) {
    T value;
    std::memcpy(&value, at, sizeof value);
    return static_cast<double>(value);
}
template <class T>
void store(std::byte* at, double number) {
    const std::uint64_t bits = nearest<T>(number);
    std::memcpy(at, &bits, sizeof(T));
}

}  // namespace

// The wiring asks these two for every joined tag in every step, so they go straight to the bytes.
double read_number(const std::byte* memory, E type, std::uint32_t offset, int bit) {
    const std::byte* at = memory + offset;
    if (!is_scalar(type)) return 0.0;
    if (bit >= 0) return static_cast<double>((std::to_integer<int>(*at) >> bit) & 1);
    if (type == E::Bool) return *at != std::byte{0} ? 1.0 : 0.0;
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return load<cpp>(at);
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
    return 0.0;
}

void write_number(std::byte* memory, E type, std::uint32_t offset, int bit, double value) {
    std::byte* at = memory + offset;
    if (bit >= 0) return write_bits(memory, type, offset, bit, value != 0.0 ? 1 : 0);
    if (type == E::Bool) {
        *at = value != 0.0 ? std::byte{1} : std::byte{0};
        return;
    }
    if (!is_scalar(type)) return;
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return store<cpp>(at, value);
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
}

std::optional<Value> widened(const Value& value, E to) {
    if (value.type == to) return value;
    if (is_text(value.type) && is_text(to)) return Value{to, 0, value.text};
    if (!is_scalar(value.type) || !is_scalar(to) || !widens(value.type, to)) return std::nullopt;
    if (is_real(to)) return value_of(to, number_of(value));
    const std::uint64_t bits =
        is_signed_integer(value.type) ? static_cast<std::uint64_t>(signed_of(value)) : value.bits;
    const int size = type_size(to);
    return Value{to, size == 8 ? bits : bits & ((std::uint64_t{1} << (size * 8)) - 1), {}};
}

std::int64_t signed_of(const Value& value) {
    switch (representation(value.type)) {
        case Representation::I8: return as_type<std::int8_t>(value.bits);
        case Representation::I16: return as_type<std::int16_t>(value.bits);
        case Representation::I32: return as_type<std::int32_t>(value.bits);
        default: return static_cast<std::int64_t>(value.bits);
    }
}

std::string value_text(const Value& value, const ValueNames* names) {
    if (is_text(value.type)) return fmt::format("'{}'", value.text);
    if (names != nullptr) {
        for (const auto& [number, name] : *names) {
            if (number == signed_of(value)) return name;
        }
    }
    switch (value.type) {
        case E::Bool: return value.bits != 0 ? "TRUE" : "FALSE";
        case E::Real: return fmt::format("{}", as_type<float>(value.bits));
        case E::Lreal: return fmt::format("{}", as_type<double>(value.bits));
        default: break;
    }
    if (is_duration(value.type)) return (value.type == E::Time ? "T#" : "LTIME#") + duration_text(signed_of(value));
    if (is_moment(value.type)) return moment_text(signed_of(value), value.type);
    if (is_signed_integer(value.type)) return fmt::format("{}", signed_of(value));
    return fmt::format("{}", value.bits);
}

namespace {

/// What a value of the type looks like, for a person who wrote something else.
std::string expectation(E type, const ValueNames* names) {
    if (names != nullptr) {
        std::string known;
        for (const auto& [number, name] : *names) known += (known.empty() ? "" : ", ") + name;
        return "one of " + known;
    }
    if (type == E::Bool) return "TRUE or FALSE";
    if (is_text(type)) return "a string in quotes";
    if (is_duration(type))
        return type == E::Time ? "a time such as T#200ms or 200 ms" : "a time such as LTIME#200ms or 200 ms";
    if (is_moment(type)) return std::string("a ") + type_name(type) + " as the language writes it";
    if (is_character(type)) return "a character in quotes or its number";
    if (is_real(type)) return "a number";
    const int bits = type_size(type) * 8;
    if (is_signed_integer(type)) {
        const auto high = static_cast<std::int64_t>((std::uint64_t{1} << (bits - 1)) - 1);
        return fmt::format("a whole number, {} to {}", -high - 1, high);
    }
    const std::uint64_t high = bits == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << bits) - 1;
    return is_bit_string(type) ? fmt::format("a whole number, 0 to 16#{:X}", high)
                               : fmt::format("a whole number, 0 to {}", high);
}

std::optional<Value> of_name(std::string_view name, E type, const ValueNames* names) {
    if (names == nullptr) return std::nullopt;
    for (const auto& [number, known] : *names) {
        if (base::fold(known) != base::fold(name)) continue;
        std::uint64_t bits = static_cast<std::uint64_t>(number);
        if (type_size(type) < 8) bits &= (std::uint64_t{1} << (type_size(type) * 8)) - 1;
        return Value{type, bits, {}};
    }
    return std::nullopt;
}

std::optional<Value> of_whole(std::uint64_t magnitude, bool negative, E type) {
    if (!literal_fits(type, magnitude, negative)) return std::nullopt;
    std::uint64_t bits = negative ? 0U - magnitude : magnitude;
    if (type_size(type) < 8) bits &= (std::uint64_t{1} << (type_size(type) * 8)) - 1;
    return Value{type, bits, {}};
}

std::optional<Value> of_literal(const Expression& e, E type, ValueForm form) {
    const E of = e.type.elementary;
    if (type == E::Bool) {
        if (of == E::Bool) return Value{type, e.integer, {}};
        if (form.bits_for_bool && of == E::AnyInt && !e.negative && e.integer <= 1) return Value{type, e.integer, {}};
        return std::nullopt;
    }
    if (of == E::Bool) return std::nullopt;
    if (is_duration(of) || is_moment(of)) {
        if (of != type && !widens(of, type) && !(is_duration(of) && is_duration(type))) return std::nullopt;
        return of_whole(e.integer, e.negative, type);
    }
    if (is_duration(type) || is_moment(type)) return std::nullopt;
    const bool real = is_real(of);
    if (is_real(type)) {
        const double whole = static_cast<double>(e.integer);
        return value_of(type, real ? e.real : e.negative ? -whole : whole);
    }
    if (!real) return of_whole(e.integer, e.negative, type);
    // 1e3 is a whole number all the same.
    const double size = std::abs(e.real);
    if (size != std::floor(size) || size > 9007199254740992.0) return std::nullopt;
    return of_whole(static_cast<std::uint64_t>(size), e.real < 0.0, type);
}

std::optional<Value> parsed(std::string_view text, E type, const ValueNames* names, ValueForm form) {
    base::Diagnostics ignored;
    const auto source = base::make_source("value", std::string(text));
    const auto tokens = tokenize(source, ignored);
    std::size_t at = 0;
    const ExpressionPtr e =
        tokens.size() > 1 && !ignored.has_errors() ? parse_expression(source, tokens, at, ignored) : nullptr;
    if (e == nullptr || ignored.has_errors() || tokens[at].kind != TokenKind::End) return std::nullopt;
    switch (e->kind) {
        case ExpressionKind::Literal: return of_literal(*e, type, form);
        case ExpressionKind::Name:
        case ExpressionKind::TypedName: return of_name(e->name, type, names);
        case ExpressionKind::Text:
            if (is_text(type)) return Value{type, 0, e->name};
            if (is_character(type) && !e->name.empty()) return Value{type, character_of(type, e->name), {}};
            return std::nullopt;
        default: return std::nullopt;
    }
}

}  // namespace

ParsedValue parse_value(std::string_view text, E type, const ValueNames* names, ValueForm form) {
    while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
    const bool quoted =
        text.size() >= 2 && (text.front() == '\'' || text.front() == '"') && text.back() == text.front();
    if (is_text(type) && form.bare_text && !quoted) return {Value{type, 0, std::string(text)}, {}};
    const std::string_view unsigned_text = text.starts_with('+') ? text.substr(1) : text;
    auto value = parsed(unsigned_text, type, names, form);
    if (value && is_text(type)) value->type = type;
    if (!value && is_duration(type)) {
        auto reading = base::read_quantity(std::string(unsigned_text), base::Dimension::Time);
        if (reading.fault != base::QuantityFault::None && form.bare_seconds)
            reading = base::read_quantity(std::string(unsigned_text) + " s", base::Dimension::Time);
        if (reading.fault == base::QuantityFault::None && std::abs(reading.si_value) < 9e9)
            value = Value{type, static_cast<std::uint64_t>(base::from_seconds(reading.si_value).count()), {}};
    }
    if (value && is_real(type) && !std::isfinite(number_of(*value))) value.reset();
    if (value) return {std::move(value), {}};
    return {std::nullopt, expectation(type, names)};
}

}  // namespace vyard::logic
