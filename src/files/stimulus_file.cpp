#include "files/stimulus_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "files/csv_table.hpp"

namespace vyard::files {

using base::Code;
using logic::Elementary;

namespace {

enum Column { kTime, kTag, kValue, kColumns };
constexpr std::array<const char*, kColumns> kNames = {"time", "tag", "value"};

std::optional<double> number(std::string_view text) {
    if (text.starts_with('+')) text.remove_prefix(1);
    double value = 0.0;
    const auto result = std::from_chars(text.data(), text.data() + text.size(), value);
    if (result.ec != std::errc() || result.ptr != text.data() + text.size()) return std::nullopt;
    return value;
}

class StimulusReader {
  public:
    StimulusReader(const base::SourcePtr& source, session::SessionModel& model, base::Diagnostics& diagnostics)
        : source_(source), model_(model), diagnostics_(diagnostics) {}

    void run() {
        bool header_seen = false;
        for (const CsvRow& r : read_csv(source_, diagnostics_)) {
            line_ = r.line;
            if (header_seen) {
                row(r);
            } else if (!(header_seen = header(r))) {
                return;
            }
        }
        if (!header_seen)
            diagnostics_.error(Code::Syntax, {source_, 1, 1, 1}, "the table is empty; expected a header line",
                               "time,tag,value");
        for (auto& c : model_.controllers) {
            std::stable_sort(c.stimuli.begin(), c.stimuli.end(),
                             [](const auto& a, const auto& b) { return a.time < b.time; });
        }
    }

  private:
    base::Place place(const Cell& c) const {
        return {source_, line_, c.column, std::max(static_cast<int>(c.text.size()), 1)};
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
                where_[static_cast<std::size_t>(found - known.begin())] = static_cast<int>(i);
            }
        }
        for (const Column c : {kTime, kTag, kValue}) {
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
            return i < r.cells.size() ? r.cells[i] : Cell{"", r.end_column};
        };
        const Cell tag = cell(kTag);
        const auto time = time_of(cell(kTime));
        const auto [c, v] = wiring::find_tag(model_.controllers, tag.text);
        if (c < 0) {
            std::vector<std::string> known;
            for (const auto& controller : model_.controllers) {
                for (const logic::Variable& variable : controller.program->variables) known.push_back(variable.path);
            }
            diagnostics_.error(Code::UnknownTag, place(tag), fmt::format("no variable is named '{}'", tag.text),
                               base::name_hint(tag.text, known));
            return;
        }
        auto& controller = model_.controllers[static_cast<std::size_t>(c)];
        const logic::Variable& variable = controller.program->variables[static_cast<std::size_t>(v)];
        controller::Stimulus out;
        out.variable = v;
        if (variable.constant) {
            diagnostics_.error(Code::NotAssignable, place(tag), fmt::format("'{}' is declared CONSTANT", tag.text));
            return;
        }
        const Cell value = cell(kValue);
        if (!time || !value_of(variable, value, out)) return;
        out.time = *time;
        controller.stimuli.push_back(std::move(out));
    }

    std::optional<base::Nanoseconds> time_of(const Cell& c) {
        double seconds = 0.0;
        if (const auto plain = number(c.text)) {
            seconds = *plain;
        } else {
            const auto reading = base::read_quantity(c.text, base::Dimension::Time);
            if (reading.fault != base::QuantityFault::None) {
                diagnostics_.error(Code::WrongUnit, place(c), fmt::format("'{}' is no time", c.text),
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

    bool wrong(const logic::Variable& v, const Cell& c, const char* expected) {
        diagnostics_.error(Code::WrongValue, place(c),
                           fmt::format("'{}' is no value for {}, which is {}", c.text, v.path, v.type_text), expected);
        return false;
    }

    bool value_of(const logic::Variable& v, const Cell& c, controller::Stimulus& out) {
        const std::string folded = base::fold(c.text);
        if (logic::is_text(v.type)) {
            out.text = c.text;
            if (out.text.size() >= 2 && out.text.front() == '\'' && out.text.back() == '\'')
                out.text = out.text.substr(1, out.text.size() - 2);
            return true;
        }
        if (v.type == Elementary::Bool) {
            out.value = folded == "true" || folded == "1" ? 1.0 : 0.0;
            return folded == "true" || folded == "false" || folded == "1" || folded == "0" ||
                   wrong(v, c, "write TRUE or FALSE");
        }
        if (logic::is_duration(v.type) || logic::is_moment(v.type) || c.text.find('#') != std::string::npos)
            return literal(v, c, out);
        const auto plain = number(c.text);
        if (!plain)
            return wrong(v, c, c.text.find(',') != std::string::npos ? "write a decimal point" : "write a number");
        const bool whole = *plain == std::floor(*plain) && std::abs(*plain) < 1.8e19;
        if (!logic::is_real(v.type) &&
            (!whole || !logic::literal_fits(v.type, static_cast<std::uint64_t>(std::abs(*plain)), *plain < 0)))
            return wrong(v, c, "write a whole number that fits");
        out.value = *plain;
        return true;
    }

    /// T#2s, 16#FF, D#2026-03-01: as the language writes them. A bare number for a duration is in seconds.
    bool literal(const logic::Variable& v, const Cell& c, controller::Stimulus& out) {
        if (const auto plain = number(c.text); plain && logic::is_duration(v.type)) {
            out.value = *plain * 1e9;
            return true;
        }
        base::Diagnostics own;
        const auto source = base::make_source("value", c.text);
        const auto tokens = logic::tokenize(source, own);
        const bool one = tokens.size() == 2 && !own.has_errors();
        const bool time = one && tokens[0].kind == logic::TokenKind::Time &&
                          (tokens[0].type == v.type || logic::widens(tokens[0].type, v.type));
        const bool integer = one && tokens[0].kind == logic::TokenKind::Integer && !logic::is_duration(v.type) &&
                             !logic::is_moment(v.type);
        if (!time && !integer)
            return wrong(v, c,
                         logic::is_duration(v.type) ? "write T#500ms, or seconds" : "write it as the language does");
        out.value = static_cast<double>(tokens[0].integer) * (tokens[0].negative ? -1.0 : 1.0);
        return true;
    }

    const base::SourcePtr& source_;
    session::SessionModel& model_;
    base::Diagnostics& diagnostics_;
    std::array<int, kColumns> where_{};
    int line_ = 1;
};

}  // namespace

void read_stimulus(const base::SourcePtr& source, session::SessionModel& model, base::Diagnostics& diagnostics) {
    StimulusReader(source, model, diagnostics).run();
}

}  // namespace vyard::files
