// Texts in memory: capacity and length, two bytes each, then the characters; STRING in bytes as the source has them
// (UTF-8), WSTRING in UTF-16 units.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

#include "core/logic/types.hpp"

namespace vyard::logic {

void write_text_head(std::byte* at, int capacity, int length);
/// Writes UTF-8 `bytes`; false (nothing written) when they are longer than `capacity`.
bool write_text(std::byte* at, Elementary type, int capacity, std::string_view bytes);
/// As an assignment does it: what does not fit the text's own capacity is cut off.
void assign_text(std::byte* at, Elementary type, std::string_view bytes);
/// As UTF-8.
std::string read_text(const std::byte* at, Elementary type);
/// The one character of a CHAR or WCHAR literal.
std::uint64_t character_of(Elementary type, std::string_view bytes);
/// UTF-16 units of UTF-8 bytes; a malformed byte stands for itself.
std::u16string wide_text(std::string_view bytes);
std::string narrow_text(std::u16string_view units);

}  // namespace vyard::logic
