#include "files/csv_table.hpp"

#include <fmt/format.h>
#define CSV_IO_NO_THREAD
#include <libfccp/csv.h>

namespace vyard::files {

namespace {

using Trim = io::trim_chars<' ', '\t'>;
using Quotes = io::double_quote_escape<',', '"'>;

/// Cells of a line by the library's own splitting, with the column each starts in.
std::vector<Cell> split(std::string line) {
    std::vector<Cell> cells;
    char* rest = line.data();
    while (rest != nullptr) {
        char *begin = nullptr, *end = nullptr;
        const char* start = rest;
        io::detail::chop_next_column<Quotes>(rest, begin, end);
        Trim::trim(begin, end);
        const int column = static_cast<int>((begin < end ? begin : start) - line.data()) + 1;
        Quotes::unescape(begin, end);
        cells.push_back({std::string(begin, end), column});
    }
    return cells;
}

}  // namespace

std::vector<CsvRow> read_csv(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<CsvRow> rows;
    int number = 0;
    io::LineReader lines(source->path, source->text.data(), source->text.data() + source->text.size());
    try {
        while (char* line = lines.next_line()) {
            ++number;
            const std::string text(line);
            if (text.find_first_not_of(" \t") == std::string::npos || text.starts_with('#')) continue;
            rows.push_back({number, split(text), static_cast<int>(text.size()) + 1});
        }
    } catch (const io::error::base& failure) {
        diagnostics.error(base::Code::Syntax, {source, number, 1, 1},
                          fmt::format("this line cannot be read: {}", failure.what()));
    }
    return rows;
}

}  // namespace vyard::files
