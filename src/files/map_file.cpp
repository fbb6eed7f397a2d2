#include "files/map_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "files/csv_table.hpp"

namespace vyard::files {

using base::Code;

namespace {

enum Column { kTag, kPoint, kScaling, kNote, kDelay, kWhen, kRegister, kColumns };
constexpr std::array<const char*, kColumns> kNames = {"tag", "point", "scaling", "note", "delay", "when", "register"};

class MapReader {
  public:
    MapReader(const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : source_(source), diagnostics_(diagnostics) {}

    std::vector<wiring::MapRow> run() {
        for (const CsvRow& r : read_csv(source_, diagnostics_)) {
            number_ = r.line;
            if (header_seen_) {
                row(r);
            } else if (!header(r.cells)) {
                return {};
            }
        }
        if (!header_seen_)
            diagnostics_.error(Code::Syntax, {source_, 1, 1, 1}, "the map is empty; expected a header line",
                               "tag,point,scaling,note");
        return std::move(rows_);
    }

  private:
    base::Place at(int column, int length = 1) const { return {source_, number_, column, std::max(length, 1)}; }
    base::Place place_of(const Cell& c) const {
        return {source_, c.line, c.column, std::max(static_cast<int>(c.text.size()), 1)};
    }

    bool header(const std::vector<Cell>& cells) {
        header_seen_ = true;
        where_.fill(-1);
        const std::vector<std::string> known(kNames.begin(), kNames.end());
        bool ok = true;
        for (std::size_t i = 0; i < cells.size(); ++i) {
            const auto found = std::find(known.begin(), known.end(), base::fold(cells[i].text));
            if (found == known.end()) {
                diagnostics_.error(Code::UnknownKey, place_of(cells[i]),
                                   fmt::format("the map has no column '{}'", cells[i].text),
                                   base::name_hint(cells[i].text, known));
                ok = false;
            } else {
                base::at(where_, found - known.begin()) = static_cast<int>(i);
            }
        }
        for (const Column needed : {kTag, kPoint}) {
            if (where_[needed] >= 0 || !ok) continue;
            diagnostics_.error(Code::MissingKey, at(1), fmt::format("the map needs a column '{}'", kNames[needed]),
                               "tag,point,scaling,note");
            ok = false;
        }
        return ok;
    }

    void row(const CsvRow& r) {
        const std::vector<Cell>& cells = r.cells;
        const auto widest = static_cast<std::size_t>(*std::max_element(where_.begin(), where_.end()));
        if (cells.size() > widest + 1) {
            diagnostics_.error(Code::Syntax, place_of(cells[widest + 1]),
                               fmt::format("this row has {} cells, the header {}", cells.size(), widest + 1),
                               "put a cell that holds a comma in double quotes");
            return;
        }
        const auto cell = [&](Column c) {
            const int i = where_[c];
            return i >= 0 && static_cast<std::size_t>(i) < cells.size() ? base::at(cells, i)
                                                                        : Cell{"", r.end_column, r.end_line};
        };
        const auto place = [&](const Cell& c) { return place_of(c); };
        const Cell tag = cell(kTag), point = cell(kPoint), scaling = cell(kScaling);
        const Cell registers = cell(kRegister);
        for (const Column needed : {kTag, kPoint}) {
            if (cell(needed).text.empty() && (needed == kTag || registers.text.empty()))
                diagnostics_.error(Code::MissingKey, place(cell(needed)),
                                   fmt::format("this row has no {}", kNames[needed]));
        }
        if (tag.text.empty() || (point.text.empty() && registers.text.empty())) return;
        const Cell delay = cell(kDelay), when = cell(kWhen);
        rows_.push_back({tag.text, place(tag), point.text, place(point), scaling.text, place(scaling), cell(kNote).text,
                         delay.text, place(delay), when.text, place(when), registers.text, place(registers)});
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    std::array<int, kColumns> where_{};
    std::vector<wiring::MapRow> rows_;
    int number_ = 0;
    bool header_seen_ = false;
};

}  // namespace

std::vector<wiring::MapRow> read_map(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    return MapReader(source, diagnostics).run();
}

std::string with_rows(const std::string& map_text, const std::vector<NewRow>& rows) {
    const std::string end = map_text.find("\r\n") != std::string::npos ? "\r\n" : "\n";
    base::Diagnostics ignored;
    const auto lines = read_csv(base::make_source("map", map_text), ignored);
    const char separator = separator_of(map_text);
    std::string out = map_text;
    if (!out.empty() && out.back() != '\n') out += end;
    for (const NewRow& row : rows) {
        std::string line;
        for (std::size_t i = 0; !lines.empty() && i < lines[0].cells.size(); ++i) {
            const Cell& head = lines[0].cells[i];
            if (i > 0) line.push_back(separator);
            const std::string name = base::fold(head.text);
            line += base::csv_cell(name == "tag"     ? row.tag
                                   : name == "point" ? row.point
                                   : name == "note"  ? row.note
                                                     : "");
        }
        out += line + end;
    }
    return out;
}

}  // namespace vyard::files
