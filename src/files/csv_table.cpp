#include "files/csv_table.hpp"

#include <fmt/format.h>
#define CSV_IO_NO_THREAD
#include <libfccp/csv.h>

namespace vyard::files {

namespace {

using Trim = io::trim_chars<' ', '\t'>;

/// Cells of a line by the library's own splitting, with the column each starts in.
template <char kSeparator>
std::vector<Cell> split(std::string line) {
    using Quotes = io::double_quote_escape<kSeparator, '"'>;
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

char separator_of(const std::string& text) {
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        const std::string_view line = std::string_view(text).substr(at, end - at);
        at = end + 1;
        if (line.find_first_not_of(" \t\r") == std::string_view::npos || line.starts_with('#')) continue;
        return line.find(';') != std::string_view::npos && line.find(',') == std::string_view::npos ? ';' : ',';
    }
    return ',';
}

std::vector<CsvRow> read_csv(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<CsvRow> rows;
    int number = 0;
    const bool semicolons = separator_of(source->text) == ';';
    io::LineReader lines(source->path, source->text.data(), source->text.data() + source->text.size());
    try {
        while (char* line = lines.next_line()) {
            ++number;
            const std::string text(line);
            if (text.find_first_not_of(" \t") == std::string::npos || text.starts_with('#')) continue;
            rows.push_back(
                {number, semicolons ? split<';'>(text) : split<','>(text), static_cast<int>(text.size()) + 1});
        }
    } catch (const io::error::base& failure) {
        diagnostics.error(base::Code::Syntax, {source, number, 1, 1},
                          fmt::format("this line cannot be read: {}", failure.what()));
    }
    return rows;
}

}  // namespace vyard::files
