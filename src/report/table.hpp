// A table of texts, and the forms it is handed out in: columns for a terminal, CSV (RFC 4180), JSON.
#pragma once

#include <string>
#include <vector>

namespace vyard::report {

struct Table {
    std::vector<std::string> columns;
    std::vector<std::vector<std::string>> rows;  ///< As wide as `columns`.

    /// -1 when there is none of that name.
    int column(const std::string& name) const;
    /// By a column; texts that are numbers go by their value, the others by their letters.
    void sort_by(int column);
    /// Keeps the rows whose cell holds `text`, whatever the size of its letters.
    void keep(int column, const std::string& text);
};

/// Characters of UTF-8 that a text shows, so that columns line up.
std::size_t shown_width(const std::string& text);

/// Columns that are empty in every row are left out.
std::string table_text(const Table& table);
std::string table_csv(const Table& table);
/// A row an object. A cell that is a number, TRUE or FALSE is one in JSON too, except in columns of names and remarks;
/// an empty cell is null; values one after the other ("0 | 25 | 50") are a list.
std::string table_json(const Table& table);

}  // namespace vyard::report
