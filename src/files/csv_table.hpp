// CSV as spreadsheets write it: lines of cells with where they stand, separated by commas or semicolons, with or
// without a byte order mark; a cell in quotes may hold line breaks. Empty lines and lines that start with # are passed
// over.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

struct Cell {
    std::string text;
    int column = 1;
    int line = 1;  ///< Where it starts; not the row's when a cell before it holds line breaks.
};

struct CsvRow {
    int line = 1;
    std::vector<Cell> cells;
    int end_column = 1;  ///< Behind the last character.
    int end_line = 1;
};

/// What separates cells: a semicolon where the first line has one and no comma.
char separator_of(const std::string& text);

/// All rows; what cannot be read is reported.
std::vector<CsvRow> read_csv(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::files
