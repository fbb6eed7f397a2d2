#include "live/table_orders.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "files/stimulus_file.hpp"
#include "files/text_file.hpp"

namespace vyard::live {

using base::Code;
using base::Nanoseconds;

namespace {

struct Line {
    Nanoseconds at{};
    std::string text;
};

/// A cell as the language writes it; "" after a report.
std::string value_in(const session::SessionModel& model, const session::Signal& signal, const std::string& text,
                     const base::Place& place, base::Diagnostics& diagnostics) {
    const auto parsed = logic::parse_value(text, signal.type, session::names_of(model, signal),
                                           {.bare_seconds = true, .bare_text = true, .bits_for_bool = true});
    if (parsed.value) return logic::value_text(*parsed.value, session::names_of(model, signal));
    diagnostics.error(Code::WrongValue, place,
                      fmt::format("'{}' is not a valid value of {}", text, logic::type_name(signal.type)),
                      parsed.expected);
    return {};
}

/// What a cell expects, as a condition; "" after a report.
std::string condition_of(const session::SessionModel& model, const session::Signal& signal,
                         const session::StimulusDefinition& row, base::Diagnostics& diagnostics) {
    if (!logic::is_real(signal.type)) {
        const std::string value = value_in(model, signal, row.expect, row.expect_place, diagnostics);
        return value.empty() ? value : fmt::format("{} = {}", row.tag, value);
    }
    const std::size_t mark = row.expect.find("+-");
    const auto number = [&](const std::string& text) {
        const auto reading = base::read_quantity(text, base::Dimension::Plain);
        return reading.fault == base::QuantityFault::None ? std::optional(reading.si_value) : std::nullopt;
    };
    const auto value = number(row.expect.substr(0, mark));
    const auto tolerance = mark == std::string::npos
                               ? std::optional(1e-6 * std::max(1.0, std::abs(value.value_or(0.0))))
                               : number(row.expect.substr(mark + 2));
    if (value && tolerance) return fmt::format("ABS({} - ({:.17g})) <= {:.17g}", row.tag, *value, *tolerance);
    diagnostics.error(Code::WrongValue, row.expect_place, fmt::format("'{}' is not a number", row.expect),
                      "3.5 +- 0.1");
    return {};
}

}  // namespace

std::shared_ptr<const procedure::Book> table_orders(const session::SessionModel& model, const base::SourcePtr& source,
                                                    base::Diagnostics& diagnostics) {
    Nanoseconds scan = model.step;
    for (const auto& c : model.controllers) scan = std::max(scan, c.scan);
    std::vector<Line> writes, looks;
    for (const session::StimulusDefinition& row : files::read_stimulus(source, diagnostics)) {
        const session::Search found = session::search(model, row.tag);
        if (!found.signal) {
            diagnostics.error(Code::UnknownName, row.tag_place, found.problem, found.hint);
            continue;
        }
        if (!row.value.empty()) {
            const std::string value = value_in(model, *found.signal, row.value, row.value_place, diagnostics);
            writes.push_back({row.time, fmt::format("write {} = {}", row.tag, value)});
        }
        if (!row.expect.empty())
            looks.push_back(
                {row.time + scan, fmt::format("expect {}", condition_of(model, *found.signal, row, diagnostics))});
    }
    if (diagnostics.has_errors()) return nullptr;
    // At one time what is expected comes first: a value that is written then acts in the scan after.
    std::vector<Line> lines = std::move(looks);
    lines.insert(lines.end(), writes.begin(), writes.end());
    std::stable_sort(lines.begin(), lines.end(), [](const Line& a, const Line& b) { return a.at < b.at; });
    std::string text = fmt::format("procedure \"{}\"\nstep \"As the table says\"\n",
                                   std::filesystem::path(source->path).filename().string());
    Nanoseconds now{};
    for (const Line& l : lines) {
        if (l.at > now) text.append(fmt::format("    wait {} us\n", (l.at - now).count() / 1000));
        now = std::max(now, l.at);
        text.append("    ").append(l.text).append("\n");
    }
    return procedure::read_book(model, {base::make_source(source->path, std::move(text))}, diagnostics);
}

std::vector<ListedTag> checked_list(const session::SessionModel& model, const std::string& path,
                                    base::Diagnostics& diagnostics) {
    const base::SourcePtr source = files::read_source(path, {}, diagnostics);
    if (source == nullptr) return {};
    std::vector<ListedTag> out;
    for (files::ListRow& r : files::read_list(source, diagnostics)) {
        std::string written;
        if (!r.display.empty() && !session::find_display(base::fold(r.display)))
            diagnostics.error(Code::WrongValue, r.display_place, fmt::format("'{}' is not a form of values", r.display),
                              base::name_hint(r.display, session::display_names()));
        const session::Search found = session::search(model, r.tag);
        if (!found.signal) {
            diagnostics.error(Code::UnknownName, r.tag_place, found.problem, found.hint);
        } else if (!r.value.empty() && found.signal->of_plant()) {
            diagnostics.error(Code::WrongValue, r.value_place,
                              fmt::format("'{}' is the plant's, and not written", r.tag));
        } else if (!r.value.empty()) {
            written = value_in(model, *found.signal, r.value, r.value_place, diagnostics);
        }
        out.push_back({std::move(r), std::move(written)});
    }
    return out;
}

}  // namespace vyard::live
