// A value of an elementary type, exact: what a person forces, a condition compares, a trace keeps and a table shows.
// Numbers pass through double only where they are REAL or LREAL.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/logic/types.hpp"

namespace vyard::logic {

/// The names of an enumeration's values, as declared.
using ValueNames = std::vector<std::pair<std::int64_t, std::string>>;

struct Value {
    Elementary type = Elementary::Bool;
    std::uint64_t bits = 0;  ///< Of a scalar: its bytes, lowest first, the rest 0. BOOL: 0 or 1.
    std::string text;        ///< Of a STRING or WSTRING, as UTF-8.

    /// Same type, same bits: a NaN equals itself, 0.0 and -0.0 differ.
    bool operator==(const Value&) const = default;
};

/// From memory; `bit` >= 0 is one bit of the byte at `offset`. References have no value: 0.
Value read_value(const std::byte* memory, Elementary type, std::uint32_t offset, int bit);
/// The bits alone; of a text 0.
std::uint64_t read_bits(const std::byte* memory, Elementary type, std::uint32_t offset, int bit);
/// Of a scalar, into memory of its own type.
void write_bits(std::byte* memory, Elementary type, std::uint32_t offset, int bit, std::uint64_t bits);
/// Into memory of the value's own type; a text is cut to the capacity that stands there.
void write_value(std::byte* memory, const Value& value, std::uint32_t offset, int bit);

/// As a number: BOOL 0 and 1, times in nanoseconds; for wires and plots. Beyond 2^53 the nearest double; texts are 0.
double read_number(const std::byte* memory, Elementary type, std::uint32_t offset, int bit);
void write_number(std::byte* memory, Elementary type, std::uint32_t offset, int bit, double value);

/// The same value in a type that it widens to; null when a value could be lost.
std::optional<Value> widened(const Value& value, Elementary to);

/// The nearest value of `type` to a number: rounded to a whole one, kept within the type, a NaN becomes 0.
Value value_of(Elementary type, double number);
/// The number itself; beyond 2^53 the nearest double. Times in nanoseconds, texts 0.
double number_of(const Value& value);
/// Of an integer, bit string, duration or moment.
std::int64_t signed_of(const Value& value);

/// As the language writes it: TRUE, 42, 3.5, T#850ms, D#2026-03-01, 'text', or the name of an enumeration's value.
std::string value_text(const Value& value, const ValueNames* names = nullptr);

/// What else than the language's own forms is read as a value.
struct ValueForm {
    bool bare_seconds = false;   ///< A plain number for a duration, in seconds.
    bool bare_text = false;      ///< A text without quotes.
    bool bits_for_bool = false;  ///< 1 and 0 for a BOOL.
};
struct ParsedValue {
    std::optional<Value> value;
    std::string expected;  ///< What would have been right; without a value.
};
/// `text` as a value of `type`: 16#FF, -5, 1.5, T#2s, 200 ms, LTIME#1us, D#2026-03-01, INT#7, 'abc', Colour#red, red.
ParsedValue parse_value(std::string_view text, Elementary type, const ValueNames* names = nullptr, ValueForm form = {});

}  // namespace vyard::logic
