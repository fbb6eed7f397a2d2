#include "files/stimulus_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>

#include "files/csv_table.hpp"

namespace vyard::files {

using base::Code;

namespace {

enum Column { kTime, kTag, kValue, kExpect, kColumns };
constexpr std::array<const char*, kColumns> kNames = {"time", "tag", "value", "expect"};

std::optional<double> number(std::string_view text) {
    if (text.starts_with('+')) text.remove_prefix(1);
    double value = 0.0;
    const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
    if (result.ec != std::errc() || result.ptr != text.data() + text.size()) return std::nullopt;
    return value;
}

class StimulusReader {
  public:
    StimulusReader(const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : source_(source), diagnostics_(diagnostics) {}

    std::vector<session::StimulusDefinition> run() {
        bool header_seen = false;
        for (const CsvRow& r : read_csv(source_, diagnostics_)) {
            line_ = r.line;
            if (header_seen) {
                row(r);
            } else if (!(header_seen = header(r))) {
                return {};
            }
        }
        if (!header_seen)
            diagnostics_.error(Code::Syntax, {source_, 1, 1, 1}, "the table is empty; expected a header line",
                               "time,tag,value");
        return std::move(rows_);
    }

  private:
    base::Place place(const Cell& c) const {
        return {source_, c.line, c.column, std::max(static_cast<int>(c.text.size()), 1)};
    }

    bool header(const CsvRow& r) {
        where_.fill(-1);
        const std::vector<std::string> known(kNames.begin(), kNames.end());
        bool ok = true;
        for (std::size_t i = 0; i < r.cells.size(); ++i) {
            const auto found = std::find(known.begin(), known.end(), base::fold(r.cells[i].text));
            if (found == known.end()) {
                diagnostics_.error(Code::UnknownKey, place(r.cells[i]),
                                   fmt::format("the table has no column '{}'", r.cells[i].text),
                                   base::name_hint(r.cells[i].text, known));
                ok = false;
            } else {
                base::at(where_, found - known.begin()) = static_cast<int>(i);
            }
        }
        for (const Column c : {kTime, kTag, kValue}) {
            if (c == kValue && where_[kExpect] >= 0) continue;
            if (where_[c] >= 0 || !ok) continue;
            diagnostics_.error(Code::MissingKey, {source_, line_, 1, 1},
                               fmt::format("the table needs a column '{}'", kNames[c]), "time,tag,value");
            ok = false;
        }
        return ok;
    }

    void row(const CsvRow& r) {
        const auto cell = [&](Column c) {
            const auto i = static_cast<std::size_t>(where_[c]);
            return where_[c] >= 0 && i < r.cells.size() ? r.cells[i] : Cell{"", r.end_column};
        };
        const Cell tag = cell(kTag), value = cell(kValue), expect = cell(kExpect);
        if (const auto time = time_of(cell(kTime)))
            rows_.push_back({*time, tag.text, place(tag), value.text, place(value), expect.text, place(expect)});
    }

    std::optional<base::Nanoseconds> time_of(const Cell& c) {
        double seconds = 0.0;
        if (const auto plain = number(c.text)) {
            seconds = *plain;
        } else {
            const auto reading = base::read_quantity(c.text, base::Dimension::Time);
            if (reading.fault != base::QuantityFault::None) {
                diagnostics_.error(Code::WrongUnit, place(c), fmt::format("'{}' is not a valid time", c.text),
                                   "seconds such as 0.5, or with a unit: 500 ms");
                return std::nullopt;
            }
            seconds = reading.si_value;
        }
        if (!(seconds >= 0.0 && seconds <= 3.6e6)) {
            diagnostics_.error(Code::OutOfRange, place(c), "a time is 0 s to 1000 h");
            return std::nullopt;
        }
        return base::from_seconds(seconds);
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    std::array<int, kColumns> where_{};
    int line_ = 1;
    std::vector<session::StimulusDefinition> rows_;
};

}  // namespace

std::vector<session::StimulusDefinition> read_stimulus(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    return StimulusReader(source, diagnostics).run();
}

}  // namespace vyard::files
