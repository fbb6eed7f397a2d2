#include "files/list_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>

#include "files/csv_table.hpp"
#include "files/text_file.hpp"

namespace vyard::files {

using base::Code;

namespace {

enum Column { kTag, kDisplay, kValue, kNote, kColumns };
constexpr std::array<const char*, kColumns> kNames = {"tag", "display", "value", "note"};

/// Which column of the file each of ours is; false after a report.
bool read_header(const base::SourcePtr& source, const CsvRow& row, std::array<int, kColumns>& where,
                 base::Diagnostics& diagnostics) {
    const std::vector<std::string> known(kNames.begin(), kNames.end());
    where.fill(-1);
    for (std::size_t i = 0; i < row.cells.size(); ++i) {
        const std::string name = base::fold(std::string(base::trimmed(row.cells[i].text)));
        const auto found = std::find(known.begin(), known.end(), name);
        if (found == known.end()) {
            diagnostics.error(Code::UnknownKey,
                              {source, row.cells[i].line, row.cells[i].column, static_cast<int>(name.size())},
                              fmt::format("a list of tags has no column '{}'", name), base::name_hint(name, known));
            return false;
        }
        base::at(where, found - known.begin()) = static_cast<int>(i);
    }
    if (where[kTag] >= 0) return true;
    diagnostics.error(Code::MissingKey, {source, row.line, 1, 1}, "a list of tags needs a column 'tag'",
                      "tag,display,value,note");
    return false;
}

}  // namespace

std::vector<ListRow> read_list(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<ListRow> out;
    std::array<int, kColumns> where{};
    bool header = false;
    for (const CsvRow& row : read_csv(source, diagnostics)) {
        if (!header) {
            if (!read_header(source, row, where, diagnostics)) return {};
            header = true;
            continue;
        }
        ListRow r;
        const auto cell = [&](Column c, std::string& text, base::Place* place) {
            const int i = base::at(where, c);
            if (i < 0 || static_cast<std::size_t>(i) >= row.cells.size()) return;
            const Cell& found = base::at(row.cells, i);
            text = std::string(base::trimmed(found.text));
            if (place != nullptr)
                *place = {source, found.line, found.column, std::max(1, static_cast<int>(found.text.size()))};
        };
        cell(kTag, r.tag, &r.tag_place);
        cell(kDisplay, r.display, &r.display_place);
        cell(kValue, r.value, &r.value_place);
        cell(kNote, r.note, nullptr);
        if (!r.tag.empty()) out.push_back(std::move(r));
    }
    if (!header)
        diagnostics.error(Code::Syntax, {source, 1, 1, 1}, "the list is empty; expected a header line",
                          "tag,display,value,note");
    return out;
}

std::vector<std::string> list_names(const std::string& yard_folder) {
    std::vector<std::string> out;
    std::string unreadable;  // then there are none to choose from
    for (const std::string& path : expand(yard_folder, "lists/*.csv", unreadable))
        out.push_back(std::filesystem::path(path).stem().string());
    return out;
}

std::string list_path(const std::string& yard_folder, const std::string& name) {
    return join_path(yard_folder, fmt::format("lists/{}.csv", name));
}

}  // namespace vyard::files
