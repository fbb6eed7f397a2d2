#include "files/csv_table.hpp"

#include <fmt/format.h>
#define CSV_IO_NO_THREAD
#include <libfccp/csv.h>

#include <algorithm>

namespace vyard::files {

namespace {

using Trim = io::trim_chars<' ', '\t'>;

/// Cells of a row by the library's own splitting, with where each starts. `row` begins in line `number`.
template <char kSeparator>
std::vector<Cell> split(std::string row, int number) {
    using Quotes = io::double_quote_escape<kSeparator, '"'>;
    std::vector<Cell> cells;
    const std::string as_read = row;
    std::size_t counted = 0, line_start = 0;
    char* rest = row.data();
    while (rest != nullptr) {
        char *begin = nullptr, *end = nullptr;
        const char* start = rest;
        io::detail::chop_next_column<Quotes>(rest, begin, end);
        Trim::trim(begin, end);
        const auto at = static_cast<std::size_t>((begin < end ? begin : start) - row.data());
        for (; counted < at; ++counted) {
            if (as_read[counted] != '\n') continue;
            ++number;
            line_start = counted + 1;
        }
        const int column = static_cast<int>(at - line_start) + 1;
        Quotes::unescape(begin, end);
        cells.push_back(
            {std::string(base::without_apostrophe({begin, static_cast<std::size_t>(end - begin)})), column, number});
    }
    return cells;
}

/// The end of the row that starts at `at`: the line's end that stands outside of quotes; npos when a quote is never
/// closed.
std::size_t row_end(std::string_view text, std::size_t at) {
    bool quoted = false;
    for (; at < text.size(); ++at) {
        if (text[at] == '"') quoted = !quoted;
        if (text[at] == '\n' && !quoted) return at;
    }
    return quoted ? std::string_view::npos : at;
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
    const std::string_view text = source->text;
    const bool semicolons = separator_of(source->text) == ';';
    int number = 1;
    for (std::size_t at = text.starts_with("\xEF\xBB\xBF") ? 3 : 0; at < text.size();) {
        const std::size_t first_end = std::min(text.find('\n', at), text.size());
        const std::string_view first = text.substr(at, first_end - at);
        if (first.find_first_not_of(" \t\r") == std::string_view::npos || first.starts_with('#')) {
            at = first_end + 1;
            ++number;
            continue;
        }
        const std::size_t end = row_end(text, at);
        if (end == std::string_view::npos) {
            const std::size_t quote = first.find('"');
            diagnostics.error(base::Code::Syntax, {source, number, static_cast<int>(quote) + 1, 1},
                              "a cell in quotes is never closed", "a quote within a cell is written twice");
            return rows;
        }
        std::string row(text.substr(at, end - at));
        if (row.ends_with('\r')) row.pop_back();
        const auto breaks = static_cast<int>(std::count(row.begin(), row.end(), '\n'));
        if (row.find('\0') != std::string::npos) {
            diagnostics.error(base::Code::Syntax, {source, number, static_cast<int>(row.find('\0')) + 1, 1},
                              "this line holds a character that is not text: \\x00");
        } else {
            const std::size_t last_line = breaks > 0 ? row.rfind('\n') + 1 : 0;
            rows.push_back({number, semicolons ? split<';'>(row, number) : split<','>(row, number),
                            static_cast<int>(row.size() - last_line) + 1, number + breaks});
        }
        number += breaks + 1;
        at = end + 1;
    }
    return rows;
}

}  // namespace vyard::files
