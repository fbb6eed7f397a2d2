#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/base/base.hpp"

namespace vyard::report {

namespace {

std::optional<double> number_in(const std::string& text) {
    double value = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size()) return std::nullopt;
    return value;
}

/// Digits within a name count as numbers: out9 comes before out10.
bool natural_less(const std::string& a, const std::string& b) {
    std::size_t i = 0, j = 0;
    const auto digit = [](char c) { return c >= '0' && c <= '9'; };
    while (i < a.size() && j < b.size()) {
        if (!digit(a[i]) || !digit(b[j])) {
            if (a[i] != b[j]) return a[i] < b[j];
            ++i;
            ++j;
            continue;
        }
        const auto run = [&](const std::string& s, std::size_t& at) {
            while (at < s.size() && s[at] == '0') ++at;
            const std::size_t begin = at;
            while (at < s.size() && digit(s[at])) ++at;
            return s.substr(begin, at - begin);
        };
        const std::string x = run(a, i), y = run(b, j);
        if (x != y) return std::pair(x.size(), x) < std::pair(y.size(), y);
    }
    return a.size() - i < b.size() - j;
}

using Json = nlohmann::ordered_json;

/// Columns whose cells are letters even where they look like a number.
bool is_text_column(const std::string& name) {
    static const std::vector<std::string> texts = {"tag",  "name",   "input",       "variable", "controller",
                                                   "note", "remark", "description", "by",       "point"};
    return std::find(texts.begin(), texts.end(), name) != texts.end();
}

Json json_value(const std::string& cell) {
    if (cell.empty()) return nullptr;
    if (cell == "TRUE" || cell == "FALSE") return cell == "TRUE";
    const auto number = number_in(cell);
    if (!number) return cell;
    std::int64_t whole = 0;
    const auto [end, error] = std::from_chars(cell.data(), cell.data() + cell.size(), whole);
    if (error == std::errc() && end == cell.data() + cell.size()) return whole;
    return std::isfinite(*number) ? Json(*number) : Json(cell);
}

Json json_cell(const std::string& column, const std::string& cell) {
    if (is_text_column(column)) return cell;
    constexpr std::string_view kBetween = " | ";
    std::size_t at = cell.find(kBetween);
    if (at == std::string::npos) return json_value(cell);
    Json list = Json::array();
    std::size_t begin = 0;
    for (; at != std::string::npos; begin = at + kBetween.size(), at = cell.find(kBetween, begin))
        list.push_back(json_value(cell.substr(begin, at - begin)));
    list.push_back(json_value(cell.substr(begin)));
    return list;
}

}  // namespace

std::size_t shown_width(const std::string& text) {
    return static_cast<std::size_t>(std::count_if(
        text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

int Table::column(const std::string& name) const {
    const auto found = std::find(columns.begin(), columns.end(), name);
    return found == columns.end() ? -1 : static_cast<int>(found - columns.begin());
}

void Table::sort_by(int column) {
    const auto c = static_cast<std::size_t>(column);
    std::stable_sort(rows.begin(), rows.end(), [&](const auto& a, const auto& b) {
        const auto x = number_in(a[c]), y = number_in(b[c]);
        if (x && y) return *x < *y;
        return natural_less(base::fold(a[c]), base::fold(b[c]));
    });
}

void Table::keep(int column, const std::string& text) {
    const std::string wanted = base::fold(text);
    std::erase_if(rows,
                  [&](const auto& row) { return base::fold(base::at(row, column)).find(wanted) == std::string::npos; });
}

std::string table_text(const Table& table) {
    std::vector<std::size_t> widths(table.columns.size(), 0);
    for (std::size_t c = 0; c < widths.size(); ++c) {
        for (const auto& row : table.rows) widths[c] = std::max(widths[c], shown_width(row[c]));
        if (widths[c] > 0) widths[c] = std::max(widths[c], shown_width(table.columns[c]));
    }
    std::string out;
    const auto line = [&](const std::vector<std::string>& cells) {
        std::string text;
        for (std::size_t c = 0; c < widths.size(); ++c) {
            if (widths[c] > 0)
                text += cells[c] + std::string(widths[c] + 2 - std::min(widths[c], shown_width(cells[c])), ' ');
        }
        text.erase(text.find_last_not_of(' ') + 1);
        out += text + "\n";
    };
    line(table.columns);
    for (const auto& row : table.rows) line(row);
    return base::shown(out);
}

std::string table_csv(const Table& table) {
    std::string out;
    const auto line = [&](const std::vector<std::string>& cells) {
        for (std::size_t c = 0; c < cells.size(); ++c) {
            if (c > 0) out.push_back(',');
            out.append(base::csv_cell(cells[c]));
        }
        out.push_back('\n');
    };
    line(table.columns);
    for (const auto& row : table.rows) line(row);
    return out;
}

std::string table_json(const Table& table) {
    nlohmann::ordered_json out = nlohmann::ordered_json::array();
    for (const auto& row : table.rows) {
        nlohmann::ordered_json object;
        for (std::size_t c = 0; c < row.size(); ++c) {
            std::string key = table.columns[c];
            std::replace(key.begin(), key.end(), ' ', '_');
            object[key] = json_cell(table.columns[c], row[c]);
        }
        out.push_back(std::move(object));
    }
    return out.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace vyard::report
