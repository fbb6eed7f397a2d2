#include "files/checkout_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "files/csv_table.hpp"

namespace vyard::files {

namespace {

struct Column {
    const char* name;
    std::string KeptLine::*field;
};
constexpr std::array<Column, 13> kColumns = {{{"direction", &KeptLine::direction},
                                              {"point", &KeptLine::point},
                                              {"tag", &KeptLine::tag},
                                              {"address", &KeptLine::address},
                                              {"scaling", &KeptLine::scaling},
                                              {"given", &KeptLine::given},
                                              {"expected", &KeptLine::expected},
                                              {"seen", &KeptLine::seen},
                                              {"moved", &KeptLine::moved},
                                              {"verdict", &KeptLine::verdict},
                                              {"date", &KeptLine::date},
                                              {"by", &KeptLine::by},
                                              {"remark", &KeptLine::remark}}};

}  // namespace

std::vector<KeptLine> read_checkout(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<KeptLine> out;
    std::vector<const Column*> where;
    for (const CsvRow& row : read_csv(source, diagnostics)) {
        if (where.empty()) {
            for (const Cell& cell : row.cells) {
                const Column* known = nullptr;
                for (const Column& c : kColumns) {
                    if (base::fold(cell.text) == c.name) known = &c;
                }
                where.push_back(known);
            }
            for (const char* needed : {"direction", "point", "tag"}) {
                if (std::none_of(where.begin(), where.end(),
                                 [&](const Column* c) { return c != nullptr && c->name == std::string_view(needed); }))
                    diagnostics.error(base::Code::MissingKey, {source, row.line, 1, 1},
                                      fmt::format("the checkout list has no column '{}'", needed));
            }
            if (diagnostics.has_errors()) return out;
            continue;
        }
        KeptLine line;
        for (std::size_t i = 0; i < row.cells.size() && i < where.size(); ++i) {
            if (where[i] != nullptr) line.*(where[i]->field) = row.cells[i].text;
        }
        if (line.point.empty() || line.tag.empty()) {
            diagnostics.error(base::Code::MissingKey, {source, row.line, 1, 1},
                              "this row of the checkout has no point or no tag");
            continue;
        }
        out.push_back(std::move(line));
    }
    return out;
}

}  // namespace vyard::files
