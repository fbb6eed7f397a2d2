#include "core/session/overriding.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::session {

namespace {

using base::Code;

/// A piece of a source, what stands there instead, and who says so.
struct Change {
    base::SourcePtr source;
    logic::Extent where;
    std::string text;
    std::string name;
};

}  // namespace

std::vector<base::SourcePtr> with_constants(const std::vector<base::SourcePtr>& sources, const logic::Program& program,
                                            const std::string& controller, const std::vector<Override>& overrides,
                                            std::vector<bool>& used, base::Diagnostics& diagnostics) {
    std::vector<Change> changes;
    for (std::size_t i = 0; i < overrides.size(); ++i) {
        const Override& o = overrides[i];
        const bool named = base::fold(o.name).starts_with(base::fold(controller) + ".");
        const logic::Variable* v = program.find(o.name);
        if (v == nullptr && named) v = program.find(o.name.substr(controller.size() + 1));
        if (v == nullptr || !v->constant) continue;
        used[i] = true;
        const auto parsed = logic::parse_value(o.value, v->type, v->names.get(), {.bare_text = true});
        if (!parsed.value) {
            diagnostics.error(
                Code::WrongValue, o.place,
                fmt::format("'{}' is not a valid value for {}, which is {}", o.value, o.name, v->type_text),
                "write " + parsed.expected);
            continue;
        }
        const logic::Extent where = logic::initial_at(program, v->place);
        const bool ours = std::find(sources.begin(), sources.end(), v->place.source) != sources.end();
        if (where.empty() || !ours) {
            diagnostics.error(Code::NotAssignable, o.place,
                              fmt::format("'{}' is a CONSTANT without a value of its own in the files", o.name),
                              "declare it by itself, with := and its value");
            continue;
        }
        Change change{v->place.source, where, logic::value_text(*parsed.value, v->names.get()), v->path};
        const auto same = std::find_if(changes.begin(), changes.end(), [&](const Change& c) {
            return c.source == change.source && c.where.begin == where.begin;
        });
        if (same == changes.end()) {
            changes.push_back(std::move(change));
        } else if (same->name == change.name) {
            *same = std::move(change);  // said twice: the later one
        } else if (same->text != change.text) {
            diagnostics.error(
                Code::WrongValue, o.place,
                fmt::format("'{}' is the same CONSTANT as '{}', which is set to {}", o.name, same->name, same->text),
                "a CONSTANT of a block is that of all its instances");
        }
    }
    if (changes.empty()) return sources;
    // From behind, so that what stands before keeps its place.
    std::sort(changes.begin(), changes.end(),
              [](const Change& a, const Change& b) { return a.where.begin > b.where.begin; });
    std::vector<base::SourcePtr> out = sources;
    for (base::SourcePtr& source : out) {
        std::string text = source->text;
        const base::SourcePtr before = source;
        for (const Change& c : changes) {
            if (c.source == before) text.replace(c.where.begin, c.where.end - c.where.begin, c.text);
        }
        if (text != before->text) source = base::make_source(before->path, text);
    }
    return out;
}

namespace {

/// Of "0 m..1 m -> 4000..20000; swap bytes": where each end stands; false when it is written otherwise.
bool ends_of(const std::string& scaling, std::array<std::pair<std::size_t, std::size_t>, 4>& out) {
    const std::size_t arrow = scaling.find("->");
    const std::size_t first = scaling.find(".."),
                      second = arrow == std::string::npos ? arrow : scaling.find("..", arrow);
    if (arrow == std::string::npos || first == std::string::npos || first > arrow || second == std::string::npos)
        return false;
    const auto trim = [&](std::size_t begin, std::size_t end) {
        while (begin < end && scaling[begin] == ' ') ++begin;
        while (end > begin && scaling[end - 1] == ' ') --end;
        return std::pair(begin, end);
    };
    std::size_t behind = second + 2;
    while (behind < scaling.size() && scaling[behind] == ' ') ++behind;
    behind = std::min(scaling.find_first_of(",;", behind), scaling.size());
    out = {trim(0, first), trim(first + 2, arrow), trim(arrow + 2, second), trim(second + 2, behind)};
    return true;
}

}  // namespace

std::vector<wiring::MapRow> with_scalings(std::vector<wiring::MapRow> rows, const std::vector<Override>& overrides,
                                          std::vector<bool>& used, base::Diagnostics& diagnostics) {
    static constexpr const char* kEnds[] = {"point_low", "point_high", "tag_low", "tag_high"};
    for (std::size_t i = 0; i < overrides.size(); ++i) {
        const Override& o = overrides[i];
        const std::size_t dot = o.name.rfind('.');
        if (used[i] || !base::fold(o.name).starts_with("map.") || dot < 4) continue;
        const std::string tag = base::fold(o.name.substr(4, dot - 4)), end = base::fold(o.name.substr(dot + 1));
        const auto number = std::find(std::begin(kEnds), std::end(kEnds), end);
        const auto row =
            std::find_if(rows.begin(), rows.end(), [&](const wiring::MapRow& r) { return base::fold(r.tag) == tag; });
        if (number == std::end(kEnds) || row == rows.end()) continue;
        used[i] = true;
        std::array<std::pair<std::size_t, std::size_t>, 4> ends;
        if (!ends_of(row->scaling, ends)) {
            diagnostics.error(Code::BadScaling, o.place,
                              fmt::format("the row of '{}' has no scaling with ends", row->tag),
                              "such as 0 m..1 m -> 4000..20000");
            continue;
        }
        const auto [begin, behind] = base::at(ends, static_cast<int>(number - std::begin(kEnds)));
        row->scaling.replace(begin, behind - begin, o.value);
    }
    return rows;
}

}  // namespace vyard::session
