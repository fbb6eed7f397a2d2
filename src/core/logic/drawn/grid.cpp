#include "core/logic/drawn/grid.hpp"

#include <algorithm>
#include <array>

namespace vyard::logic {

namespace {

constexpr int kTabStop = 8;

/// Links of the box-drawing characters U+2500 to U+257F that lines are drawn with; 0 for others.
std::uint8_t links_of(char32_t c) {
    struct Range {
        char32_t first, last;
        int links;
    };
    // clang-format off
    static constexpr std::array<Range, 34> kRanges = {{
        {0x2500, 0x2501, kLeft | kRight}, {0x2502, 0x2503, kUp | kDown}, {0x2504, 0x2505, kLeft | kRight},
        {0x2506, 0x2507, kUp | kDown}, {0x2508, 0x2509, kLeft | kRight}, {0x250A, 0x250B, kUp | kDown},
        {0x250C, 0x250F, kRight | kDown}, {0x2510, 0x2513, kLeft | kDown}, {0x2514, 0x2517, kRight | kUp},
        {0x2518, 0x251B, kLeft | kUp}, {0x251C, 0x2523, kUp | kDown | kRight}, {0x2524, 0x252B, kUp | kDown | kLeft},
        {0x252C, 0x2533, kLeft | kRight | kDown}, {0x2534, 0x253B, kLeft | kRight | kUp},
        {0x253C, 0x254B, kLeft | kRight | kUp | kDown}, {0x254C, 0x254D, kLeft | kRight}, {0x254E, 0x254F, kUp | kDown},
        {0x2550, 0x2550, kLeft | kRight}, {0x2551, 0x2551, kUp | kDown}, {0x2552, 0x2554, kRight | kDown},
        {0x2555, 0x2557, kLeft | kDown}, {0x2558, 0x255A, kRight | kUp}, {0x255B, 0x255D, kLeft | kUp},
        {0x255E, 0x2560, kUp | kDown | kRight}, {0x2561, 0x2563, kUp | kDown | kLeft},
        {0x2564, 0x2566, kLeft | kRight | kDown}, {0x2567, 0x2569, kLeft | kRight | kUp},
        {0x256A, 0x256C, kLeft | kRight | kUp | kDown}, {0x256D, 0x256D, kRight | kDown},
        {0x256E, 0x256E, kLeft | kDown}, {0x256F, 0x256F, kLeft | kUp}, {0x2570, 0x2570, kRight | kUp},
        {0x2574, 0x2574, kLeft | kRight}, {0x2576, 0x2576, kLeft | kRight},
    }};
    // clang-format on
    for (const Range& r : kRanges) {
        if (c >= r.first && c <= r.last) return static_cast<std::uint8_t>(r.links);
    }
    return kNoLink;
}

/// The character at the front of `text` and its bytes; a malformed byte is one character.
std::pair<char32_t, std::size_t> decode(std::string_view text) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char first = byte(0);
    const std::size_t size = first < 0x80 ? 1 : first >= 0xF0 ? 4 : first >= 0xE0 ? 3 : first >= 0xC0 ? 2 : 1;
    if (size == 1 || size > text.size()) return {first, 1};
    char32_t out = first & (0x7FU >> size);
    for (std::size_t i = 1; i < size; ++i) {
        if ((byte(i) & 0xC0U) != 0x80U) return {first, 1};
        out = out << 6 | (byte(i) & 0x3FU);
    }
    return {out, size};
}

Cell cell_of(char32_t c) {
    Cell out;
    if (c >= 0x80) {
        out.links = links_of(c);
        out.drawn = out.links != kNoLink;
        out.character = out.horizontal() ? '-' : out.vertical() ? '|' : out.drawn ? '+' : '?';
        return out;
    }
    out.character = c < 0x20 || c == 0x7F ? '?' : static_cast<char>(c);
    out.links = c == '-' ? kLeft | kRight : c == '|' ? kUp | kDown : c == '+' ? kLeft | kRight | kUp | kDown : kNoLink;
    return out;
}

}  // namespace

Grid::Grid(std::string_view text, std::size_t offset, int line) : text_(text), offset_(offset), line_(line) {
    int depth = 0;
    for (std::size_t at = 0; at < text.size();) {
        std::size_t end = text.find('\n', at);
        if (end == std::string_view::npos) end = text.size();
        std::string_view row = text.substr(at, end - at);
        if (row.ends_with('\r')) row.remove_suffix(1);
        add_row(row, at, depth);
        at = end + 1;
    }
}

void Grid::add_row(std::string_view row, std::size_t offset, int& depth) {
    std::vector<Cell> cells;
    std::string comment;
    bool commented = depth > 0;
    within_.push_back(depth > 0);
    char quote = '\0';
    std::size_t at = 0;
    const auto put = [&](Cell cell, std::size_t size) {
        cell.offset = static_cast<std::uint32_t>(offset_ + offset + at);
        cell.size = static_cast<std::uint8_t>(size);
        cells.push_back(cell);
        at += size;
    };
    while (at < row.size()) {
        const std::string_view rest = row.substr(at);
        const bool opens = quote == '\0' && rest.starts_with("(*");
        if (opens || (depth > 0 && rest.starts_with("*)"))) {
            depth += opens ? 1 : -1;
            commented = true;
            put(Cell{}, 1);
            put(Cell{}, 1);
            continue;
        }
        if (depth > 0) {
            const auto [c, size] = decode(rest);
            comment += rest.substr(0, size);
            put(Cell{}, size);
            continue;
        }
        if (quote == '\0' && rest.starts_with("//")) {
            comment += rest.substr(2);
            commented = true;
            break;
        }
        const auto [c, size] = decode(rest);
        if (c == '\t') {
            const std::size_t stop = (cells.size() / kTabStop + 1) * kTabStop;
            put(Cell{}, 1);
            while (cells.size() < stop) {
                Cell blank;
                blank.offset = cells.back().offset;
                cells.push_back(blank);
            }
            continue;
        }
        if (c == '\'' || c == '"')
            quote = quote == '\0' ? static_cast<char>(c) : quote == static_cast<char>(c) ? '\0' : quote;
        put(cell_of(c), size);
    }
    while (!cells.empty() && cells.back().blank()) cells.pop_back();
    const auto trim = [](std::string& s) {
        while (!s.empty() && (s.back() == ' ' || s.back() == '\t')) s.pop_back();
        s.erase(0, std::min(s.find_first_not_of(" \t"), s.size()));
    };
    trim(comment);
    width_ = std::max(width_, static_cast<int>(cells.size()));
    rows_.push_back(std::move(cells));
    row_offsets_.push_back(offset);
    comments_.push_back(std::move(comment));
    commented_.push_back(commented);
}

std::string Grid::written(int row) const {
    const std::size_t begin = row_offsets_[static_cast<std::size_t>(row)];
    std::string out(text_.substr(begin, text_.find('\n', begin) - begin));
    while (!out.empty() && (out.back() == ' ' || out.back() == '\t' || out.back() == '\r')) out.pop_back();
    return out;
}

int Grid::first(int row) const {
    for (int c = 0; c < width(row); ++c) {
        if (!at(row, c).blank()) return c;
    }
    return -1;
}

Span Grid::span(int row, int column, int columns) const {
    const int last = width(row) - 1;
    const std::size_t start = offset_ + (row < rows() ? row_offsets_[static_cast<std::size_t>(row)] : text_.size());
    if (last < 0) return {line_ + row, 1, 1};
    const Cell& from = at(row, std::clamp(column, 0, last));
    const Cell& to = at(row, std::clamp(column + columns - 1, 0, last));
    const auto begin = static_cast<int>(from.offset - start);
    return {line_ + row, begin + 1 + std::max(column - last, 0),
            std::max(1, static_cast<int>(to.offset + to.size) - static_cast<int>(from.offset))};
}

DrawnText Grid::text(int row, int begin, int end) const {
    while (begin < end && at(row, begin).blank()) ++begin;
    while (begin < end && at(row, end - 1).blank()) --end;
    DrawnText out;
    out.span = span(row, begin, std::max(end - begin, 1));
    if (begin >= end) return out;
    out.offset = at(row, begin).offset;
    const std::size_t bytes = at(row, end - 1).offset + at(row, end - 1).size - out.offset;
    out.text = std::string(text_.substr(out.offset - offset_, bytes));
    return out;
}

}  // namespace vyard::logic
