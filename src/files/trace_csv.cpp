#include "files/trace_csv.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <charconv>
#include <fstream>
#include <set>

#include "files/csv_table.hpp"
#include "files/text_file.hpp"
#include "files/trace_chunks.hpp"

namespace vyard::files {

using base::Code;
using logic::Elementary;

namespace {

template <class T>
std::optional<T> number(const std::string& text) {
    T out{};
    const auto [end, failure] = std::from_chars(text.data(), text.data() + text.size(), out);
    if (failure != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return out;
}

bool is_truth(const std::string& text) {
    return text == "TRUE" || text == "FALSE";
}

/// The narrowest that all cells of a column are.
Elementary type_of(const std::vector<CsvRow>& rows, std::size_t column) {
    bool truth = true, whole = true, real = true;
    for (std::size_t r = 1; r < rows.size(); ++r) {
        if (column >= rows[r].cells.size()) continue;
        const std::string& text = rows[r].cells[column].text;
        truth = truth && is_truth(text);
        whole = whole && number<std::int64_t>(text).has_value();
        real = real && number<double>(text).has_value();
    }
    return truth ? Elementary::Bool : whole ? Elementary::Lint : real ? Elementary::Lreal : Elementary::String;
}

logic::Value value_of(const std::string& text, Elementary type) {
    switch (type) {
        case Elementary::Bool: return {type, text == "TRUE" ? 1U : 0U, {}};
        case Elementary::Lint: return {type, static_cast<std::uint64_t>(*number<std::int64_t>(text)), {}};
        case Elementary::Lreal: return {type, std::bit_cast<std::uint64_t>(*number<double>(text)), {}};
        default: return {type, 0, text};
    }
}

}  // namespace

std::optional<trace::Trace> read_trace_csv(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    const std::vector<CsvRow> rows = read_csv(source, diagnostics);
    const auto error = [&](const CsvRow& row, std::size_t cell, std::string message, std::string hint = {}) {
        const int column = cell < row.cells.size() ? row.cells[cell].column : row.end_column;
        diagnostics.error(Code::Syntax, {source, row.line, column, 1}, std::move(message), std::move(hint));
    };
    if (diagnostics.error_count() > before) return std::nullopt;
    if (rows.size() < 2 || rows[0].cells.empty() || rows[0].cells[0].text != "time_s") {
        diagnostics.error(Code::Syntax, {source, 1, 1, 1},
                          "this is not a trace: it begins with 'time_s' and names of signals",
                          "vyard run YARD --out FOLDER writes FOLDER/trace.csv");
        return std::nullopt;
    }
    std::vector<trace::Channel> channels;
    std::set<std::string> names;
    for (std::size_t c = 1; c < rows[0].cells.size(); ++c) {
        trace::Channel channel;
        channel.name = rows[0].cells[c].text;
        channel.signal.type = type_of(rows, c);
        if (!names.insert(base::fold(channel.name)).second)
            error(rows[0], c, fmt::format("'{}' stands twice", channel.name));
        channels.push_back(std::move(channel));
    }
    trace::Trace out;
    std::vector<std::string> last(channels.size());
    base::Nanoseconds time{-1};
    for (std::size_t r = 1; r < rows.size(); ++r) {
        const CsvRow& row = rows[r];
        const auto seconds = row.cells.empty() ? std::nullopt : number<double>(row.cells[0].text);
        if (!seconds || !(*seconds >= 0.0 && *seconds < 1e9)) {
            error(row, 0, "expected a time in seconds");
            continue;
        }
        const base::Nanoseconds now = base::from_seconds(*seconds);
        if (now <= time) error(row, 0, "times of a trace go up from row to row");
        if (row.cells.size() != channels.size() + 1) {
            error(row, row.cells.size(),
                  fmt::format("this row has {} cells, the first one {}", row.cells.size(), channels.size() + 1));
            continue;
        }
        if (r == 1) out.begin(channels, now);
        time = now;
        if (diagnostics.error_count() > before) continue;
        for (std::uint32_t c = 0; c < channels.size(); ++c) {
            const std::string& text = row.cells[c + 1].text;
            if (r > 1 && text == last[c]) continue;
            last[c] = text;
            out.change(now, c, value_of(text, channels[c].signal.type));
        }
    }
    if (diagnostics.error_count() > before) return std::nullopt;
    out.end(time);
    return out;
}

std::optional<trace::Trace> read_trace(const std::string& path, base::Diagnostics& diagnostics) {
    char first[8] = {};
    std::ifstream(path, std::ios::binary).read(first, sizeof first);
    if (std::string_view(first, sizeof first) == "VYTRACE\n") {
        ChunksRead read = read_chunks(path, base::Nanoseconds(0), base::Nanoseconds::max());
        if (!read.trace) diagnostics.error(Code::FileMissing, {}, fmt::format("cannot read {}: {}", path, read.why));
        return std::move(read.trace);
    }
    const base::SourcePtr source = read_source(path, {}, diagnostics);
    return source == nullptr ? std::nullopt : read_trace_csv(source, diagnostics);
}

}  // namespace vyard::files
