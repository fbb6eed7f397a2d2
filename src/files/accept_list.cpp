#include "files/accept_list.hpp"

#include <fmt/format.h>

#include "files/csv_table.hpp"

namespace vyard::files {

namespace {

using base::Code;

constexpr const char* kColumns[] = {"campaign", "finding", "reason", "date"};

std::string row_text(const Accepted& a) {
    return fmt::format("{},{},{},{}\n", base::csv_cell(a.campaign), base::csv_cell(a.finding), base::csv_cell(a.reason),
                       base::csv_cell(a.date));
}

}  // namespace

std::vector<Accepted> read_accept_list(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<Accepted> out;
    std::vector<int> field;  // by column; -1 of one that is not known
    for (const CsvRow& row : read_csv(source, diagnostics)) {
        if (field.empty()) {
            for (const Cell& cell : row.cells) {
                int found = -1;
                for (int c = 0; c < 4; ++c) {
                    if (base::fold(cell.text) == base::at(kColumns, c)) found = c;
                }
                if (found < 0)
                    diagnostics.error(Code::UnknownKey, {source, cell.line, cell.column, 1},
                                      fmt::format("an accept list has no column '{}'", cell.text),
                                      "campaign,finding,reason,date");
                field.push_back(found);
            }
            for (int c = 0; c < 3; ++c) {
                if (std::find(field.begin(), field.end(), c) == field.end())
                    diagnostics.error(Code::MissingKey, {source, row.line, 1, 1},
                                      fmt::format("the accept list has no column '{}'", base::at(kColumns, c)));
            }
            if (diagnostics.has_errors()) return out;
            continue;
        }
        Accepted a;
        a.line = row.line;
        std::string* const parts[] = {&a.campaign, &a.finding, &a.reason, &a.date};
        for (std::size_t i = 0; i < row.cells.size() && i < field.size(); ++i)
            *base::at(parts, base::at(field, i)) = row.cells[i].text;
        if (a.finding.empty() || a.campaign.empty() || a.reason.empty()) {
            diagnostics.error(Code::MissingKey, {source, row.line, 1, 1},
                              "what is accepted needs a campaign, a finding and a reason");
            continue;
        }
        out.push_back(std::move(a));
    }
    return out;
}

std::string with_accepted(const std::string& before, const std::vector<Accepted>& more) {
    std::string out = before.empty() ? "campaign,finding,reason,date\n" : before;
    if (!out.ends_with('\n')) out.append("\n");
    for (const Accepted& a : more) out.append(row_text(a));
    return out;
}

}  // namespace vyard::files
