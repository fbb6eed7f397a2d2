// Recording what comes from controllers that are executed elsewhere, and doing it again without them.
#include <fmt/format.h>

#include <algorithm>

#include "files/csv_table.hpp"
#include "link/partner.hpp"

namespace vyard::link {

using base::Code;
using base::Nanoseconds;

namespace {

std::string time_cell(Nanoseconds t) {
    return fmt::format("{}.{:09}", t.count() / 1'000'000'000, t.count() % 1'000'000'000);
}

/// "0.010000000", to the nanosecond.
std::optional<Nanoseconds> read_time(const std::string& text) {
    const std::size_t dot = text.find('.');
    if (dot == std::string::npos || dot == 0 || dot > 9 || text.size() != dot + 10) return std::nullopt;
    std::int64_t ns = 0;
    for (const char c : text) {
        if (c == '.') continue;
        if (c < '0' || c > '9') return std::nullopt;
        ns = ns * 10 + (c - '0');
    }
    return Nanoseconds(ns);
}

std::string quoted(const std::string& text) {
    if (text.find_first_of(",\"\n;") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

}  // namespace

bool LinkRecorder::exchange(int c, Nanoseconds now, std::span<const std::byte> memory, std::span<std::byte> outputs) {
    const std::vector<std::byte> before(outputs.begin(), outputs.end());
    const bool came = partner_.exchange(c, now, memory, outputs);
    const controller::ControllerModel& model = base::at(model_.controllers, c);
    const auto known = came_.find(c);
    if (known == came_.end() || known->second != came || now.count() == 0) {
        came_[c] = came;
        text_ += fmt::format("{},{},,{}\n", time_cell(now), model.name, came ? "came" : "nothing");
    }
    if (!came) return false;
    for (const controller::RegisterEntry& e : model.link->registers) {
        if (e.to_controller) continue;
        const logic::Variable& v = base::at(model.program->variables, e.variable);
        const logic::Value value = logic::read_value(outputs.data(), v.type, v.offset, v.bit);
        if (value == logic::read_value(before.data(), v.type, v.offset, v.bit)) continue;
        text_ += fmt::format("{},{},{},{}\n", time_cell(now), model.name, v.path,
                             quoted(logic::value_text(value, v.names.get())));
    }
    return true;
}

std::unique_ptr<LinkReplay> LinkReplay::read(const base::SourcePtr& source, const session::SessionModel& model,
                                             base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    auto out = std::make_unique<LinkReplay>();
    const auto rows = files::read_csv(source, diagnostics);
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const auto& cells = rows[i].cells;
        const auto at = [&](std::size_t c) -> base::Place {
            return {source, rows[i].line, c < cells.size() ? cells[c].column : 1, 1};
        };
        const auto time = cells.size() == 4 ? read_time(cells[0].text) : std::nullopt;
        if (!time) {
            diagnostics.error(Code::Syntax, at(0), "this is no row of a recorded link",
                              "time_s,controller,tag,value, as run --record writes it");
            continue;
        }
        const auto c = std::find_if(model.controllers.begin(), model.controllers.end(), [&](const auto& one) {
            return one.remote() && base::fold(one.name) == base::fold(cells[1].text);
        });
        if (c == model.controllers.end()) {
            diagnostics.error(Code::UnknownName, at(1),
                              fmt::format("no controller '{}' is executed elsewhere", cells[1].text));
            continue;
        }
        Event event{*time, {}, {}, cells[3].text == "came"};
        Track& track = out->tracks_[static_cast<int>(c - model.controllers.begin())];
        const bool begins = cells[2].text.empty() && event.time.count() == 0;
        if (begins || track.runs.empty()) track.runs.emplace_back();
        if (cells[2].text.empty()) {
            track.runs.back().push_back(std::move(event));
            continue;
        }
        const logic::Variable* v = c->program->find(cells[2].text);
        if (v == nullptr) {
            diagnostics.error(Code::UnknownTag, at(2), fmt::format("no tag is named '{}'", cells[2].text));
            continue;
        }
        auto value = logic::parse_value(cells[3].text, v->type, v->names.get());
        if (!value.value) {
            diagnostics.error(
                Code::WrongValue, at(3),
                fmt::format("'{}' is not a valid value for {}, which is {}", cells[3].text, v->path, v->type_text),
                "write " + value.expected);
            continue;
        }
        event.spot = {static_cast<int>(v - c->program->variables.data()), v->type, v->offset, v->bit};
        event.value = std::move(*value.value);
        track.runs.back().push_back(std::move(event));
    }
    return diagnostics.error_count() > before ? nullptr : std::move(out);
}

bool LinkReplay::exchange(int c, Nanoseconds now, std::span<const std::byte>, std::span<std::byte> outputs) {
    const auto found = tracks_.find(c);
    if (found == tracks_.end()) return false;
    Track& track = found->second;
    if (now.count() == 0) {
        track.run = track.begun ? (track.run + 1) % track.runs.size() : 0;
        track.begun = true;
        track.next = 0;
        track.comes = false;
    }
    const std::vector<Event>& events = track.runs[track.run];
    for (; track.next < events.size() && events[track.next].time <= now; ++track.next) {
        const Event& e = events[track.next];
        if (e.value) {
            logic::write_value(outputs.data(), *e.value, e.spot.offset, e.spot.bit);
        } else {
            track.comes = e.came;
        }
    }
    return track.comes;
}

}  // namespace vyard::link
