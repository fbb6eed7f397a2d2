#include "core/session/tag_list.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <tuple>

namespace vyard::session {

namespace {

int width_of(logic::Elementary type) {
    return type == logic::Elementary::Bool ? 1 : logic::type_size(type) * 8;
}

std::string binary(std::uint64_t bits, int width) {
    std::string out = "2#";
    for (int b = width - 1; b >= 0; --b) {
        out += (bits >> b) & 1U ? '1' : '0';
        if (b > 0 && b % 4 == 0) out += '_';
    }
    return out;
}

std::int64_t with_sign(std::uint64_t bits, int width) {
    const int shift = 64 - width;
    return static_cast<std::int64_t>(bits << shift) >> shift;
}

std::string letters(std::uint64_t bits, int width) {
    std::string out = "'";
    for (int b = 0; b < width; b += 8) {
        const auto c = static_cast<char>((bits >> b) & 0xFFU);
        out += c >= ' ' && c <= '~' ? c : '.';
    }
    return out + "'";
}

constexpr const char* kDisplays[] = {"plain", "decimal", "signed", "hex", "binary", "time", "text"};

}  // namespace

std::vector<TagRow> tag_rows(const Session& session) {
    const SessionModel& model = session.model();
    std::map<std::pair<int, int>, TagRow> wired;
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) wired[{j.controller, j.variable}].joins.push_back(&j);
    }
    for (const wiring::Jumper& j : model.wiring.jumpers) {
        wired[{j.controller, j.spot.variable}].fed_by.push_back(&j);
        wired[{j.from.controller, j.from.spot.variable}].feeds.push_back(&j);
    }
    std::vector<TagRow> rows;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& program = *model.controllers[c].program;
        const auto first = static_cast<std::ptrdiff_t>(rows.size());
        for (std::size_t v = 0; v < program.variables.size(); ++v) {
            const logic::Variable& tag = program.variables[v];
            if (!tag.is_tag) continue;
            TagRow row;
            const std::pair key(static_cast<int>(c), static_cast<int>(v));
            if (const auto found = wired.find(key); found != wired.end()) row = found->second;
            std::tie(row.controller, row.variable) = key;
            row.tag = &tag;
            row.initial = logic::variable_text(program.initial_memory.data(), tag);
            const Signal signal = signal_of_variable(model, row.controller, row.variable);
            row.now = stays_elsewhere(model, signal) ? "elsewhere" : value_text(session, signal);
            for (const logic::UseSite& use : *tag.uses) ++(use.write ? row.writes : row.reads);
            rows.push_back(std::move(row));
        }
        const auto key = [](const TagRow& r) {
            const logic::Address& a = r.tag->address;
            return std::tuple(a.area == logic::Area::None ? 9 : static_cast<int>(a.area), a.byte, a.bit);
        };
        std::stable_sort(rows.begin() + first, rows.end(),
                         [&](const TagRow& a, const TagRow& b) { return key(a) < key(b); });
    }
    return rows;
}

std::string join_text(const SessionModel& model, const wiring::Join& j) {
    const logic::Variable& v = base::at(base::at(model.controllers, j.controller).program->variables, j.variable);
    const std::string& point = base::at(model.plant->points, j.point).name;
    if (j.bit < 0 || v.bit >= 0) return point;
    const std::uint32_t bit = (j.offset - v.offset) * 8 + static_cast<std::uint32_t>(j.bit);
    return fmt::format(".%X{} {}", bit, point);
}

std::string source_text(const SessionModel& model, const wiring::Jumper& j) {
    return wiring::spot_name(model.controllers, j.from.controller, j.from.spot);
}

std::string joins_text(const SessionModel& model, const TagRow& row) {
    std::vector<std::string> parts;
    for (const wiring::Join* j : row.joins) parts.push_back(join_text(model, *j));
    for (const wiring::Jumper* j : row.fed_by) parts.push_back("from " + source_text(model, *j));
    return fmt::format("{}", fmt::join(parts, ", "));
}

const char* keeping_text(const logic::Variable& variable) {
    return variable.persistent ? "PERSISTENT" : variable.retain ? "RETAIN" : "";
}

std::optional<base::Nanoseconds> settle(Session& session) {
    constexpr base::Nanoseconds kQuiet{1'000'000'000}, kMost{30'000'000'000};
    const auto& joins = session.model().wiring.inputs;
    const auto shown = [&] {
        std::vector<double> out;
        out.reserve(joins.size());
        for (const wiring::Join& j : joins) out.push_back(session.plant().shown(j.point));
        return out;
    };
    const base::Nanoseconds begin = session.now();
    base::Nanoseconds last = begin;
    std::vector<double> before = shown();
    while (session.now() - last < kQuiet) {
        if (session.now() - begin >= kMost) return std::nullopt;
        session.step();
        if (std::vector<double> now = shown(); now != before) {
            last = session.now();
            before = std::move(now);
        }
    }
    return last - begin;
}

const std::vector<std::string>& display_names() {
    static const std::vector<std::string> names(std::begin(kDisplays), std::end(kDisplays));
    return names;
}

std::optional<Display> find_display(std::string_view name) {
    const auto& names = display_names();
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end()) return std::nullopt;
    return static_cast<Display>(found - names.begin());
}

std::string displayed(const Session& session, const TagRow& row, Display display) {
    return displayed(session, signal_of_variable(session.model(), row.controller, row.variable), display);
}

std::string displayed(const Session& session, const Signal& signal, Display display) {
    const Signal& v = signal;
    std::string plain = value_text(session, signal);
    if (display == Display::Plain || logic::is_text(v.type) || v.type == logic::Elementary::Bool || v.of_plant())
        return plain;
    const std::uint64_t bits = session::bits(session, signal);
    const int width = width_of(v.type);
    switch (display) {
        case Display::Hex: return fmt::format("16#{:0{}X}", bits, width / 4);
        case Display::Binary: return binary(bits, width);
        case Display::Text: return letters(bits, width);
        case Display::Time:
            return logic::is_real(v.type)
                       ? plain
                       : logic::value_text(logic::value_of(logic::Elementary::Time,
                                                           static_cast<double>(with_sign(bits, width)) * 1e6));
        case Display::Decimal: return logic::is_real(v.type) ? plain : fmt::format("{}", bits);
        case Display::Signed: return logic::is_real(v.type) ? plain : fmt::format("{}", with_sign(bits, width));
        case Display::Plain: break;
    }
    return {};
}

}  // namespace vyard::session
