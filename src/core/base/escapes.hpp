// What must be written otherwise in the formats that we write: cells of CSV, control characters in XML.
#pragma once

#include <string>
#include <string_view>

namespace vyard::base {

/// The cell in quotes where it holds a separator (comma or semicolon), a quote or a line break. One that a spreadsheet
/// would take for a formula ("=A1", "@sum", "+cmd|..."; numbers and quantities are none) gets an apostrophe in front,
/// which says there that it is a text.
std::string csv_cell(std::string_view text);

/// The text of a cell without such an apostrophe: what csv_cell() was given.
std::string_view without_apostrophe(std::string_view cell);

/// XML has no words for most control characters, not even by number (XML 1.0, 2.2): "&#1;" becomes "\\x01".
std::string without_control_references(const std::string& xml);

}  // namespace vyard::base
