#include "core/wiring/wiring.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>

namespace vyard::wiring {

using base::Code;
using controller::ControllerModel;
using logic::Elementary;
using logic::Variable;
using plant::PointDirection;
using plant::PointModel;
using plant::PointType;

namespace {

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
    while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
    return text;
}

const char* point_type_text(PointType type) {
    switch (type) {
        case PointType::Boolean: return "BOOL";
        case PointType::Number: return "a whole number";
        case PointType::Analog: return "analog";
        case PointType::Text: break;
    }
    return "a text";
}

class WiringBuilder {
  public:
    WiringBuilder(const std::vector<ControllerModel>& controllers, const plant::PlantModel& plant,
                  base::Diagnostics& diagnostics, const std::vector<std::string>& left_out)
        : controllers_(controllers), plant_(plant), diagnostics_(diagnostics), left_out_(left_out) {}

    void row(const MapRow& row) {
        const auto [c, v] = find_tag(controllers_, row.tag);
        const int point = find_point(row.point);
        if (c < 0 && !controllers_.empty() && !is_left_out(row.tag)) {
            diagnostics_.error(Code::UnknownTag, row.tag_place, fmt::format("no tag is named '{}'", row.tag),
                               base::name_hint(row.tag, tag_names()));
        }
        if (point == plant::kNone && !is_left_out(row.point)) {
            diagnostics_.error(Code::UnknownPoint, row.point_place, fmt::format("no point is named '{}'", row.point),
                               base::name_hint(row.point, plant_.point_names()));
        }
        if (c < 0 || point == plant::kNone || joined_twice(row, c, v, point)) return;
        const Variable& variable =
            controllers_[static_cast<std::size_t>(c)].program->variables[static_cast<std::size_t>(v)];
        const PointModel& p = plant_.points[static_cast<std::size_t>(point)];
        const auto scaling = read_scaling(row, variable, p);
        if (!direction_fits(row, variable, p) || !scaling || !types_meet(row, variable, p, *scaling)) return;
        Join join{c, v, point, variable.type, variable.offset, variable.bit, p.text, *scaling, row.scaling, row.note};
        (p.direction == PointDirection::Input ? wiring.inputs : wiring.outputs).push_back(std::move(join));
    }

    /// What the map leaves out, as warnings: a wire nobody connected.
    void warn_unjoined(const base::Place& map_place) {
        for (std::size_t p = 0; p < plant_.points.size(); ++p) {
            if (points_.contains(static_cast<int>(p))) continue;
            diagnostics_.warning(Code::UnjoinedPoint, map_place,
                                 fmt::format("point '{}' is joined to no tag", plant_.points[p].name));
        }
        for (std::size_t c = 0; c < controllers_.size(); ++c) {
            const auto& variables = controllers_[c].program->variables;
            for (std::size_t v = 0; v < variables.size(); ++v)
                warn_tag(static_cast<int>(c), static_cast<int>(v), variables[v]);
        }
    }

    Wiring wiring;

  private:
    /// The name itself, or the device of a point, has mistakes of its own.
    bool is_left_out(const std::string& name) const {
        const std::string device = name.substr(0, name.rfind('.'));
        return std::any_of(left_out_.begin(), left_out_.end(), [&](const std::string& l) {
            return base::fold(l) == base::fold(name) || base::fold(l) == base::fold(device);
        });
    }

    void warn_tag(int c, int v, const Variable& variable) {
        const bool joined = tags_.contains({c, v});
        const bool wired = variable.address.area == logic::Area::Input || variable.address.area == logic::Area::Output;
        if (wired && !joined) {
            diagnostics_.warning(
                Code::UnjoinedTag, variable.place,
                fmt::format("'{}' at {} is joined to no point", variable.path, variable.address.text()));
        } else if (variable.is_tag && !joined && !wired && !variable.constant && variable.read && !variable.written) {
            diagnostics_.warning(
                Code::NeverWritten, variable.place,
                fmt::format("'{}' is read, but neither the logic nor the map ever writes it", variable.path));
        } else if (variable.is_tag && !joined && !variable.read && !variable.written) {
            diagnostics_.warning(Code::UnusedVariable, variable.place,
                                 fmt::format("'{}' is never used", variable.path));
        }
    }

    int find_point(const std::string& name) const {
        const int point = plant_.find_point(name);
        if (point != plant::kNone) return point;
        const int device = plant_.find_device(name);
        return device == plant::kNone ? plant::kNone : plant_.only_point(device);
    }

    std::vector<std::string> tag_names() const {
        std::vector<std::string> names;
        for (const ControllerModel& c : controllers_) {
            for (const Variable& v : c.program->variables) {
                if (v.is_tag) names.push_back(v.path);
            }
        }
        return names;
    }

    bool joined_twice(const MapRow& row, int c, int v, int point) {
        const auto [tag, tag_fresh] = tags_.try_emplace({c, v}, row.tag_place);
        const auto [wire, point_fresh] = points_.try_emplace(point, row.point_place);
        if (!tag_fresh)
            diagnostics_.error(Code::MappedTwice, row.tag_place,
                               fmt::format("tag '{}' is joined twice; first at {}", row.tag, tag->second.text()));
        if (!point_fresh)
            diagnostics_.error(Code::MappedTwice, row.point_place,
                               fmt::format("point '{}' is joined twice; first at {}", row.point, wire->second.text()));
        return !tag_fresh || !point_fresh;
    }

    bool direction_fits(const MapRow& row, const Variable& v, const PointModel& p) {
        const bool input = p.direction == PointDirection::Input;
        const logic::Area wrong = input ? logic::Area::Output : logic::Area::Input;
        if (v.address.area != wrong && !(input && v.constant)) return true;
        diagnostics_.error(
            Code::WrongDirection, row.point_place,
            fmt::format("'{}' is an {} of the controller, but '{}' lies at {}", p.name, input ? "input" : "output",
                        v.path, v.constant ? "a CONSTANT" : v.address.text()));
        return false;
    }

    bool types_meet(const MapRow& row, const Variable& v, const PointModel& p, const Scaling& scaling) {
        const bool tag_bool = v.type == Elementary::Bool;
        if (p.type == PointType::Text && logic::is_text(v.type)) return true;
        const bool number = logic::is_number(v.type) || logic::is_bit_string(v.type);
        if (p.type == PointType::Boolean
                ? tag_bool
                : p.type != PointType::Text && number &&
                      (p.type == PointType::Number || logic::is_real(v.type) || scaling.linear))
            return true;
        const bool needs_scaling = p.type == PointType::Analog && number;
        diagnostics_.error(Code::TypeMismatch, row.tag_place,
                           fmt::format("tag '{}' is {}, point '{}' is {}", v.path, logic::type_name(v.type), p.name,
                                       point_type_text(p.type)),
                           needs_scaling ? fmt::format("give a scaling, such as 0 {0}..1 {0} -> 4000..20000",
                                                       base::display_unit(p.dimension))
                                         : "");
        return false;
    }

    std::optional<Scaling> read_scaling(const MapRow& row, const Variable& v, const PointModel& p) {
        const std::string_view text = trimmed(row.scaling);
        Scaling scaling;
        if (text.empty()) return scaling;
        const bool invert = text == "invert";
        if (p.type == PointType::Text) {
            diagnostics_.error(
                Code::BadScaling, row.scaling_place,
                fmt::format("a scaling '{}' does not suit point '{}', which is {}", text, p.name, "a text"),
                "texts go as they are");
            return std::nullopt;
        }
        if (invert != (p.type == PointType::Boolean)) {
            diagnostics_.error(Code::BadScaling, row.scaling_place,
                               fmt::format("a scaling '{}' does not suit point '{}', which is {}", text, p.name,
                                           point_type_text(p.type)),
                               p.type == PointType::Boolean ? "BOOL points take 'invert' or nothing"
                                                            : "a scaling has the form 0 m..1 m -> 4000..20000");
            return std::nullopt;
        }
        if (invert) {
            scaling.invert = true;
            return scaling;
        }
        return read_linear(row, text, v, p);
    }

    std::optional<Scaling> read_linear(const MapRow& row, std::string_view text, const Variable& v,
                                       const PointModel& p) {
        const std::size_t arrow = text.find("->");
        double point_ends[2] = {0, 0}, tag_ends[2] = {0, 0};
        const bool ok = arrow != std::string_view::npos &&
                        read_range(row, text.substr(0, arrow), p.dimension, point_ends) &&
                        read_range(row, text.substr(arrow + 2), base::Dimension::Plain, tag_ends);
        if (arrow == std::string_view::npos) {
            diagnostics_.error(Code::BadScaling, row.scaling_place, fmt::format("'{}' is no scaling", text),
                               "a scaling has the form 0 m..1 m -> 4000..20000");
        }
        if (!ok) return std::nullopt;
        if (point_ends[0] == point_ends[1] || tag_ends[0] == tag_ends[1]) {
            diagnostics_.error(Code::BadScaling, row.scaling_place, "a scaling needs two different ends on both sides");
            return std::nullopt;
        }
        for (const double end : tag_ends) {
            if (logic::is_real(v.type) ||
                (end == static_cast<double>(static_cast<std::int64_t>(end)) &&
                 logic::literal_fits(v.type, static_cast<std::uint64_t>(std::abs(end)), end < 0)))
                continue;
            diagnostics_.error(
                Code::BadScaling, row.scaling_place,
                fmt::format("{} does not fit {}, the type of '{}'", end, logic::type_name(v.type), v.path));
            return std::nullopt;
        }
        Scaling s;
        s.linear = true;
        s.gain = (tag_ends[1] - tag_ends[0]) / (point_ends[1] - point_ends[0]);
        s.offset = tag_ends[0] - s.gain * point_ends[0];
        std::tie(s.tag_low, s.tag_high) = std::minmax(tag_ends[0], tag_ends[1]);
        std::tie(s.point_low, s.point_high) = std::minmax(point_ends[0], point_ends[1]);
        return s;
    }

    bool read_range(const MapRow& row, std::string_view text, base::Dimension dimension, double (&ends)[2]) {
        const std::size_t dots = text.find("..");
        if (dots == std::string_view::npos) {
            diagnostics_.error(Code::BadScaling, row.scaling_place, fmt::format("'{}' is no range", trimmed(text)),
                               "a scaling has the form 0 m..1 m -> 4000..20000");
            return false;
        }
        const std::string_view parts[] = {trimmed(text.substr(0, dots)), trimmed(text.substr(dots + 2))};
        for (int i = 0; i < 2; ++i) {
            const auto reading = base::read_quantity(parts[i], dimension);
            if (reading.fault != base::QuantityFault::None) {
                diagnostics_.error(Code::BadScaling, row.scaling_place,
                                   base::quantity_message(parts[i], reading, dimension));
                return false;
            }
            ends[i] = reading.si_value;
        }
        return true;
    }

    const std::vector<ControllerModel>& controllers_;
    const plant::PlantModel& plant_;
    base::Diagnostics& diagnostics_;
    const std::vector<std::string>& left_out_;
    std::map<std::pair<int, int>, base::Place> tags_;
    std::map<int, base::Place> points_;
};

}  // namespace

const Join* Wiring::of_tag(int controller, int variable) const {
    for (const auto* list : {&inputs, &outputs}) {
        for (const Join& j : *list) {
            if (j.controller == controller && j.variable == variable) return &j;
        }
    }
    return nullptr;
}

const Join* Wiring::of_point(int point) const {
    for (const auto* list : {&inputs, &outputs}) {
        for (const Join& j : *list) {
            if (j.point == point) return &j;
        }
    }
    return nullptr;
}

Wiring build_wiring(const std::vector<MapRow>& rows, const std::vector<ControllerModel>& controllers,
                    const plant::PlantModel& plant, const base::Place& map_place, base::Diagnostics& diagnostics,
                    const std::vector<std::string>& left_out) {
    WiringBuilder builder(controllers, plant, diagnostics, left_out);
    for (const MapRow& row : rows) builder.row(row);
    if (!diagnostics.has_errors()) builder.warn_unjoined(map_place);
    return std::move(builder.wiring);
}

namespace {

/// An analog input shows a little more than its range on both sides, so that a broken wire (0 mA of 4-20 mA) is seen.
constexpr double kUnderRange = 0.25, kOverRange = 0.175;

double within_converter(const Scaling& s, double value) {
    const double span = s.tag_high - s.tag_low;
    return std::clamp(value, s.tag_low - kUnderRange * span, s.tag_high + kOverRange * span);
}

}  // namespace

void sample(const Wiring& wiring, int controller, const plant::PlantState& plant, controller::ControllerState& state) {
    for (const Join& j : wiring.inputs) {
        if (j.controller != controller) continue;
        if (j.text != plant::kNone) {
            logic::assign_text(state.memory.data() + j.offset, j.type,
                               plant.texts[static_cast<std::size_t>(j.text)].view());
            continue;
        }
        double value = plant.points[static_cast<std::size_t>(j.point)];
        if (j.scaling.linear) value = within_converter(j.scaling, j.scaling.offset + j.scaling.gain * value);
        if (j.scaling.invert) value = value != 0.0 ? 0.0 : 1.0;
        logic::write_number(state.memory.data(), j.type, j.offset, j.bit, value);
    }
}

namespace {

/// A tag's value as its point sees it.
double to_point(const Scaling& s, double value) {
    if (s.linear) value = std::clamp((value - s.offset) / s.gain, s.point_low, s.point_high);
    return s.invert ? (value != 0.0 ? 0.0 : 1.0) : value;
}

}  // namespace

void publish(const Wiring& wiring, int controller, const ControllerModel& model,
             const controller::ControllerState& state, plant::PlantState& plant) {
    for (const Join& j : wiring.outputs) {
        if (j.controller != controller) continue;
        double& point = plant.points[static_cast<std::size_t>(j.point)];
        if (j.text != plant::kNone) {
            // A controller that does not run says nothing.
            const std::string text =
                state.running ? logic::read_text(state.memory.data() + j.offset, j.type) : std::string();
            if (plant.texts[static_cast<std::size_t>(j.text)].set(text)) point += 1.0;
            continue;
        }
        if (state.running) {
            const double value = state.forces_on ? controller::published(model, state, j.variable)
                                                 : logic::read_number(state.memory.data(), j.type, j.offset, j.bit);
            point = to_point(j.scaling, value);
        } else {
            // No current at the terminal: FALSE and 0 at the point itself, whatever the scaling makes of a 0.
            const auto safe = controller::safe_value(model, j.variable);
            point = safe ? to_point(j.scaling, *safe) : 0.0;
        }
    }
}

std::pair<int, int> find_tag(const std::vector<ControllerModel>& controllers, std::string_view name) {
    const auto index_in = [&](std::size_t c, std::string_view path) {
        const auto& by_path = controllers[c].program->by_path;
        const auto found = by_path.find(base::fold(path));
        return found == by_path.end() ? -1 : found->second;
    };
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        if (const int v = index_in(c, name); v >= 0) return {static_cast<int>(c), v};
    }
    const std::size_t dot = name.find('.');
    if (dot == std::string_view::npos) return {-1, -1};
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        if (base::fold(controllers[c].name) != base::fold(name.substr(0, dot))) continue;
        if (const int v = index_in(c, name.substr(dot + 1)); v >= 0) return {static_cast<int>(c), v};
    }
    return {-1, -1};
}

}  // namespace vyard::wiring
