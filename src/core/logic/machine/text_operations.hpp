// Texts and dates: the operations that are too long for the loop of the machine. Operands are the texts themselves,
// in memory as text_values.hpp says. Nothing is allocated; a result is cut to the capacity of its place. Internal to
// this room.
#pragma once

#include <cstddef>
#include <cstdint>

#include "core/logic/types.hpp"

namespace vyard::logic {

struct TextOperands {
    std::byte* to;
    const std::byte* a;
    const std::byte* b;
    std::uint32_t width;  ///< Bytes a character.
};

void text_move(const TextOperands& o);
int text_compare(const TextOperands& o);
int text_length(const std::byte* a);
void text_part(const TextOperands& o, std::int64_t from, std::int64_t count);  ///< From 0.
void text_right(const TextOperands& o, std::int64_t count);
void text_concat(const TextOperands& o);
/// `a` with `drop` characters from place `at` (from 0) replaced by `b`.
void text_splice(const TextOperands& o, std::int64_t at, std::int64_t drop);
void text_delete(const TextOperands& o, std::int64_t at, std::int64_t drop);
int text_find(const TextOperands& o);
void text_of_character(std::byte* to, const std::byte* character, std::uint32_t width);
void character_of_text(std::byte* to, const std::byte* text, std::uint32_t width);
void text_widen(std::byte* to, const std::byte* from);
void text_narrow(std::byte* to, const std::byte* from);

void value_to_text(std::byte* to, const std::byte* value, Elementary type, bool wide);
void text_to_value(std::byte* to, const std::byte* text, Elementary type, bool wide);

/// Nanoseconds since 1970 of a civil date; days and months beyond their range count on.
std::int64_t date_of(std::int64_t year, std::int64_t month, std::int64_t day);
void civil_of(std::int64_t date_ns, std::int64_t& year, std::int64_t& month, std::int64_t& day);

}  // namespace vyard::logic
