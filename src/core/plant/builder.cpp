#include "core/plant/builder.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <set>

#include "core/plant/assemblies.hpp"
#include "core/plant/own_kind.hpp"
#include "core/plant/step.hpp"
#include "core/plant/value_reader.hpp"

namespace vyard::plant {

using base::Code;
using base::Dimension;

namespace {

using Form = DefinitionValue::Form;

std::vector<std::string> placement_names(Placement placement) {
    switch (placement) {
        case Placement::Panel: return {"place"};
        case Placement::Surface: return {"at", "heading", "elevation", "after", "beside", "side"};
        case Placement::Mounted: return {"on", "at", "side", "heading"};
        case Placement::Plan: return {"at", "heading", "elevation"};
    }
    return {};
}

/// Kinds that carry items.
const std::vector<std::string>& carrying_kinds() {
    static const std::vector<std::string> kinds = [] {
        std::vector<std::string> out;
        for (const Kind& k : all_kinds()) {
            if (k.carries) out.push_back(k.name);
        }
        return out;
    }();
    return kinds;
}

/// m. How far from a surface an item may be when it looks for the next one.
constexpr double kNeighbour_m = 0.5;

/// "belt, chute or lift"
std::string alternatives(const std::vector<std::string>& names) {
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " or " : ", ") + names[i];
    return out;
}

/// Identifiers as in the logic, joined by dots.
bool is_name(const std::string& name) {
    bool start = true;
    for (const char c : name) {
        const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
        const bool digit = c >= '0' && c <= '9';
        if (start ? !letter : !letter && !digit && c != '.') return false;
        start = c == '.';
    }
    return !name.empty() && !start;
}

class Builder {
  public:
    Builder(const PlantDefinition& definition, base::Diagnostics& diagnostics)
        : definition_(definition), diagnostics_(diagnostics) {}

    CheckedPlant run() {
        model_->step_s = definition_.step_s;
        model_->initial.random.state = definition_.seed;
        own_kinds();
        read_.read_colours(definition_);
        read_.read_items(definition_);
        declare();
        allocate();
        for (std::size_t d = 0; d < model_->devices.size(); ++d) read_parameters(d);
        for (const DeviceModel& d : model_->devices) {
            if (d.kind->own != nullptr)
                start_own_device(*d.kind, model_->parameters.data() + d.model_offset,
                                 model_->initial.devices.data() + d.state_offset);
        }
        for (std::size_t d = 0; d < model_->devices.size(); ++d) place(static_cast<int>(d));
        neighbours();
        points();
        allow();
        doubts();
        return {model_, std::move(left_out_)};
    }

  private:
    void error(Code code, const base::Place& place, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place, std::move(message), std::move(hint));
    }

    /// What of a device in its plant is hardly meant.
    void doubts() {
        if (diagnostics_.has_errors()) return;
        for (std::size_t d = 0; d < model_->devices.size(); ++d) {
            const DeviceModel& device = model_->devices[d];
            if (device.kind->doubt == nullptr) continue;
            std::string doubt = device.kind->doubt(parameters_of(d), *model_);
            if (!doubt.empty())
                diagnostics_.warning(Code::OutOfReach, device.place, fmt::format("'{}': {}", device.name, doubt));
        }
    }

    void own_kinds() {
        for (const OwnKindDefinition& d : definition_.own_kinds) {
            if (model_->find_kind(d.name) != nullptr) {
                error(Code::DuplicateName, d.place, fmt::format("there is a kind '{}' already", d.name));
                continue;
            }
            if (auto kind = make_own_kind(d, diagnostics_)) model_->own_kinds.push_back(std::move(kind));
        }
    }

    // --- devices ---
    void declare() {
        std::map<std::string, base::Place> seen;
        for (const DeviceDefinition& d : definition_.devices) {
            const Kind* kind = model_->find_kind(d.kind);
            if (kind == nullptr) {
                left_out_.push_back(d.name);
                const bool own = std::any_of(definition_.own_kinds.begin(), definition_.own_kinds.end(),
                                             [&](const OwnKindDefinition& k) { return k.name == d.kind; });
                if (own) continue;  // its own mistakes are reported
                std::vector<std::string> known;
                for (const Kind& k : all_kinds()) known.push_back(k.name);
                for (const auto& k : model_->own_kinds) known.push_back(k->name);
                for (const AssemblyDefinition& a : definition_.assemblies) known.push_back(a.name);
                error(Code::UnknownKind, d.kind_place, fmt::format("no device kind is named '{}'", d.kind),
                      base::name_hint(d.kind, known));
                continue;
            }
            if (!is_name(d.name)) {
                error(Code::WrongValue, d.place,
                      fmt::format("'{}' cannot be a name; names are letters, digits and underscores", d.name),
                      "conditions and orders could not name it");
                continue;
            }
            const auto [first, fresh] = seen.emplace(base::fold(d.name), d.place);
            if (!fresh) {
                error(Code::DuplicateName, d.place,
                      fmt::format("'{}' is declared twice; first at {}", d.name, first->second.text()));
                continue;
            }
            DeviceModel device;
            device.name = d.name;
            device.kind = kind;
            device.place = d.place;
            device.points.fill(kNone);
            model_->devices.push_back(std::move(device));
            sources_.push_back(&d);
        }
    }

    void allocate() {
        std::uint32_t model_at = 0, state_at = 0;
        const auto rounded = [](std::size_t n) { return static_cast<std::uint32_t>((n + 7) / 8 * 8); };
        for (DeviceModel& d : model_->devices) {
            d.model_offset = model_at;
            d.state_offset = state_at;
            model_at += rounded(d.kind->model_size);
            state_at += rounded(d.kind->state_size);
        }
        model_->parameters.resize(model_at);
        model_->initial.devices.resize(state_at);
        model_->vessels.assign(model_->devices.size(), {});
        const auto add = [](bool has, auto& list) {
            if (!has) return kNone;
            list.push_back({});
            return static_cast<int>(list.size()) - 1;
        };
        for (DeviceModel& d : model_->devices) {
            if (d.kind->extends) model_->reach_m.push_back(std::numeric_limits<double>::infinity());
            d.extension = add(d.kind->extends, model_->initial.extension_m);
            d.drive = add(d.kind->drives, model_->initial.drive_ratio);
            d.liquid = add(d.kind->holds_liquid, model_->initial.liquids);
            d.air = add(d.kind->gives_air, model_->initial.pressure_pa);
            d.kind->make_model(model_->parameters.data() + d.model_offset);
            d.kind->make_state(model_->initial.devices.data() + d.state_offset);
        }
    }

    std::byte* parameters_of(std::size_t d) { return model_->parameters.data() + model_->devices[d].model_offset; }

    void read_parameters(std::size_t d) {
        DeviceModel& device = model_->devices[d];
        const DeviceDefinition& source = *sources_[d];
        const Kind& kind = *device.kind;
        const std::vector<std::string> placing = placement_names(kind.placement);
        for (const DefinitionKey& key : source.keys) {
            const bool places = std::find(placing.begin(), placing.end(), key.name) != placing.end();
            const bool known = places || std::any_of(kind.parameters.begin(), kind.parameters.end(),
                                                     [&](const ParameterSpec& p) { return p.name == key.name; });
            if (known) continue;
            std::vector<std::string> names = placing;
            for (const ParameterSpec& p : kind.parameters) names.push_back(p.name);
            error(Code::UnknownKey, key.place, fmt::format("{} has no '{}'", base::with_article(kind.name), key.name),
                  base::name_hint(key.name, names));
        }
        for (const ParameterSpec& p : kind.parameters) {
            const auto key = std::find_if(source.keys.begin(), source.keys.end(),
                                          [&](const DefinitionKey& k) { return k.name == p.name; });
            if (key != source.keys.end()) {
                if (const auto value = parameter(p, key->value, device)) {
                    p.store(parameters_of(d), *value);
                    if (p.type == ParameterType::Device && p.name == "from") device.from = std::get<int>(*value);
                    if (p.type == ParameterType::Device && p.name == "into") device.into = std::get<int>(*value);
                } else {
                    unusable_.insert(static_cast<int>(d));
                    // It may decide which points there are.
                    if (p.type == ParameterType::Choice || p.type == ParameterType::Whole)
                        left_out_.push_back(device.name);
                }
            } else if (p.required) {
                unusable_.insert(static_cast<int>(d));
                error(Code::MissingKey, source.place,
                      fmt::format("{} '{}' needs '{}': {}", kind.name, device.name, p.name, p.help));
            } else {
                store_default(p, d);
            }
        }
        check_together(d, source.place);
    }

    /// What single parameters cannot show.
    void check_together(std::size_t d, const base::Place& place) {
        const Kind& kind = *model_->devices[d].kind;
        if (kind.check == nullptr || unusable_.contains(static_cast<int>(d))) return;
        const std::string wrong = kind.check(parameters_of(d));
        if (wrong.empty()) return;
        unusable_.insert(static_cast<int>(d));
        error(Code::WrongValue, place, fmt::format("{} '{}': {}", kind.name, model_->devices[d].name, wrong));
    }

    void store_default(const ParameterSpec& p, std::size_t d) {
        if (p.type == ParameterType::Device || p.type == ParameterType::Colour) {
            p.store(parameters_of(d), kNone);
            return;
        }
        if (p.type == ParameterType::Numbers || p.type == ParameterType::Items) return;
        if (p.type == ParameterType::Choice) {
            const auto found = std::find(p.choices.begin(), p.choices.end(), p.default_text);
            VYARD_CHECK(found != p.choices.end());
            p.store(parameters_of(d), static_cast<int>(found - p.choices.begin()));
            return;
        }
        const auto reading =
            base::read_quantity(p.default_text, p.type == ParameterType::Whole ? Dimension::Plain : p.dimension);
        VYARD_CHECK(reading.fault == base::QuantityFault::None);
        if (p.type == ParameterType::Whole) {
            p.store(parameters_of(d), static_cast<int>(reading.si_value));
        } else {
            p.store(parameters_of(d), reading.si_value);
        }
    }

    std::optional<ParameterValue> parameter(const ParameterSpec& p, const DefinitionValue& value, DeviceModel& device) {
        switch (p.type) {
            case ParameterType::Quantity:
                if (const auto si = read_.quantity(value, p.dimension, p.low, p.high)) return *si;
                return std::nullopt;
            case ParameterType::Whole:
                if (value.form != Form::Number || value.number != std::floor(value.number)) {
                    error(Code::WrongValue, value.place, fmt::format("'{}' takes a whole number", p.name));
                    return std::nullopt;
                }
                if (value.number < p.low || value.number > p.high) {
                    error(Code::OutOfRange, value.place,
                          fmt::format("{} is out of range; accepted: {} to {}", value.number, p.low, p.high));
                    return std::nullopt;
                }
                return static_cast<int>(value.number);
            case ParameterType::Choice: {
                const auto found = std::find(p.choices.begin(), p.choices.end(), value.text);
                if (value.form == Form::Text && found != p.choices.end())
                    return static_cast<int>(found - p.choices.begin());
                const std::string nearest = base::nearest_name(value.text, p.choices);
                error(Code::WrongValue, value.place,
                      fmt::format("'{}' takes one of: {}", p.name, fmt::join(p.choices, ", ")),
                      nearest.empty() ? "" : fmt::format("did you mean '{}'?", nearest));
                return std::nullopt;
            }
            case ParameterType::Device:
                if (const auto found = device_named(value, p.choices, p.name)) return *found;
                return std::nullopt;
            case ParameterType::Items: return read_.item_list(value);
            case ParameterType::Numbers: return read_.number_list(p, value);
            case ParameterType::Colour:
                if (const auto found = read_.find_colour(value)) return *found;
                return std::nullopt;
            case ParameterType::Names: return read_.names(p, value, device);
        }
        return std::nullopt;
    }

    std::optional<int> device_named(const DefinitionValue& value, const std::vector<std::string>& kinds,
                                    const std::string& key) {
        if (value.form != Form::Text) {
            error(Code::WrongValue, value.place, fmt::format("'{}' names a device, written as a string", key));
            return std::nullopt;
        }
        const int found = model_->find_device(value.text);
        if (found == kNone) {
            std::vector<std::string> known;
            for (const DeviceModel& d : model_->devices) {
                if (serves(d, kinds)) known.push_back(d.name);
            }
            error(Code::UnknownDevice, value.place, fmt::format("no device is named '{}'", value.text),
                  base::name_hint(value.text, known));
            return std::nullopt;
        }
        if (!serves(base::at(model_->devices, found), kinds)) {
            error(Code::WrongDevice, value.place,
                  fmt::format("'{}' is a {}; '{}' needs a {}", value.text, base::at(model_->devices, found).kind->name,
                              key, alternatives(kinds)));
            return std::nullopt;
        }
        return found;
    }
    static bool serves(const DeviceModel& d, const std::vector<std::string>& kinds) {
        return kinds.empty() || std::find(kinds.begin(), kinds.end(), d.kind->name) != kinds.end();
    }

    // --- places ---
    const DefinitionValue* key_of(int d, const char* name) const {
        for (const DefinitionKey& key : base::at(sources_, d)->keys) {
            if (key.name == name) return &key.value;
        }
        return nullptr;
    }

    void place(int d) {
        if (placed_.contains(d)) return;
        DeviceModel& device = base::at(model_->devices, d);
        if (!placing_.insert(d).second) {
            error(Code::PlacementLoop, device.place,
                  fmt::format("'{}' is placed after itself, by way of others", device.name));
            placed_.insert(d);
            return;
        }
        bool ok = true;
        switch (device.kind->placement) {
            case Placement::Panel: ok = place_on_panel(d, device); break;
            case Placement::Surface: ok = place_surface(d, device); break;
            case Placement::Mounted: ok = place_mounted(d, device); break;
            case Placement::Plan: ok = place_in_plan(d, device); break;
        }
        placing_.erase(d);
        if (!placed_.insert(d).second) return;
        if (!ok || refers_to_unusable(d)) unusable_.insert(d);
        if (unusable_.contains(d)) return;  // its mistakes are reported; what depends on it is left out too
        const Pose drawn = device.pose;
        const bool placed = key_of(d, "place") != nullptr;
        device.in_plan = device.kind->placement != Placement::Panel || placed;
        if (device.kind->place == nullptr) return;
        Placing placing{*model_, device, d};
        device.kind->place(placing, parameters_of(static_cast<std::size_t>(d)),
                           model_->initial.devices.data() + device.state_offset);
        if (placed && device.kind->placement == Placement::Panel) device.pose = drawn;
    }

    bool refers_to_unusable(int d) const {
        for (const ParameterSpec& p : base::at(model_->devices, d).kind->parameters) {
            const DefinitionValue* value = p.type == ParameterType::Device ? key_of(d, p.name.c_str()) : nullptr;
            if (value != nullptr && unusable_.contains(model_->find_device(value->text))) return true;
        }
        return false;
    }

    /// Devices named by parameters are built first, so that a kind can look at their geometry.
    void place_references(int d) {
        for (const ParameterSpec& p : base::at(model_->devices, d).kind->parameters) {
            if (p.type != ParameterType::Device) continue;
            const DefinitionValue* value = key_of(d, p.name.c_str());
            const int other = value != nullptr ? model_->find_device(value->text) : kNone;
            if (other != kNone && other != d) place(other);
        }
    }

    std::optional<int> surface_named(const DefinitionValue& value, const char* key) {
        const auto other = device_named(value, carrying_kinds(), key);
        if (!other) return std::nullopt;
        place(*other);
        if (base::at(model_->devices, *other).surface == kNone) return std::nullopt;  // its own mistake was reported
        return other;
    }

    bool place_surface(int d, DeviceModel& device) {
        const DefinitionValue* after = key_of(d, "after");
        const DefinitionValue* beside = key_of(d, "beside");
        const DefinitionValue* at = key_of(d, "at");
        device.pose.z_m = 0.8;  // a working height, when nothing else says one
        if (after != nullptr) {
            const auto other = surface_named(*after, "after");
            if (!other) return false;
            const DeviceModel& before = base::at(model_->devices, *other);
            const SurfaceModel& s = base::at(model_->surfaces, before.surface + before.surface_count - 1);
            const Vector2 end = s.pose.at(s.length_m, 0.0);
            device.pose = {end.x_m, end.y_m, s.pose.z_m - s.drop_m, s.pose.heading};
        } else if (beside != nullptr) {
            if (!place_beside(d, device, *beside, at)) return false;
        } else if (at != nullptr) {
            const auto xy = read_.coordinates(*at);
            if (!xy) return false;
            device.pose.x_m = xy->x_m;
            device.pose.y_m = xy->y_m;
            if (!heading_and_elevation(d, device)) return false;
            return in_assembly(d, device);
        } else {
            error(Code::MissingKey, device.place, fmt::format("{} '{}' needs a place", device.kind->name, device.name),
                  "at = [\"0 m\", \"0 m\"], or after = \"another\", or beside = \"another\" and at = \"1 m\"");
            return false;
        }
        return heading_and_elevation(d, device);
    }

    const SurfaceModel& surface_of(int device) const {
        return base::at(model_->surfaces, base::at(model_->devices, device).surface);
    }

    bool place_beside(int d, DeviceModel& device, const DefinitionValue& beside, const DefinitionValue* at) {
        const auto other = surface_named(beside, "beside");
        if (!other) return false;
        if (at == nullptr) {
            error(Code::MissingKey, device.place, "'beside' needs 'at', a distance along the other", "at = \"1.2 m\"");
            return false;
        }
        const SurfaceModel& s = surface_of(*other);
        const double total_m = base::at(model_->devices, *other).length_m;
        const auto along = read_.quantity(*at, Dimension::Length, 0.0, total_m);
        const auto left = side(d);
        if (!along || !left) return false;
        const double half = base::at(model_->devices, *other).width_m / 2.0;
        const Vector2 edge = s.pose.at(*along, *left ? half : -half);
        device.pose = {edge.x_m, edge.y_m, s.pose.z_m, s.pose.heading.turned(Heading::quarter(*left ? 1 : 3))};
        return true;
    }

    std::optional<bool> side(int d) {
        const DefinitionValue* value = key_of(d, "side");
        if (value == nullptr) return true;
        if (value->form == Form::Text && (value->text == "left" || value->text == "right"))
            return value->text == "left";
        error(Code::WrongValue, value->place, "'side' takes one of: left, right (seen along the belt)");
        return std::nullopt;
    }

    bool heading_and_elevation(int d, DeviceModel& device) {
        if (const DefinitionValue* heading = key_of(d, "heading")) {
            const auto angle = read_.quantity(*heading, Dimension::Angle, -7.0, 7.0);
            if (!angle) return false;
            device.pose.heading = Heading::of(*angle);
        }
        if (const DefinitionValue* elevation = key_of(d, "elevation")) {
            const auto z = read_.quantity(*elevation, Dimension::Length, 0.0, 100.0);
            if (!z) return false;
            device.pose.z_m = *z;
        }
        return true;
    }

    /// Coordinates count from where the assembly stands, innermost first.
    bool in_assembly(int d, DeviceModel& device) {
        const auto& origins = base::at(sources_, d)->origins;
        for (auto o = origins.rbegin(); o != origins.rend(); ++o) {
            Heading heading;
            Vector2 at;
            if (o->heading) {
                const auto angle = read_.quantity(*o->heading, Dimension::Angle, -7.0, 7.0);
                if (!angle) return false;
                heading = Heading::of(*angle);
            }
            if (o->at) {
                const auto xy = read_.coordinates(*o->at);
                if (!xy) return false;
                at = *xy;
            }
            const Vector2 p = at + heading.ahead() * device.pose.x_m + heading.left() * device.pose.y_m;
            device.pose.x_m = p.x_m;
            device.pose.y_m = p.y_m;
            device.pose.heading = device.pose.heading.turned(heading);
        }
        return true;
    }

    bool place_mounted(int d, DeviceModel& device) {
        const DefinitionValue* on = key_of(d, "on");
        const DefinitionValue* at = key_of(d, "at");
        if (on == nullptr && at != nullptr && at->form == Form::List && device.kind->stands_free) {
            const auto xy = read_.coordinates(*at);
            const auto left = side(d);
            if (!xy || !left) return false;
            device.pose.x_m = xy->x_m;
            device.pose.y_m = xy->y_m;
            device.on_left = *left;
            if (const DefinitionValue* heading = key_of(d, "heading")) {
                const auto angle = read_.quantity(*heading, Dimension::Angle, -7.0, 7.0);
                if (!angle) return false;
                device.pose.heading = Heading::of(*angle);
            }
            place_references(d);
            return in_assembly(d, device);
        }
        if (on == nullptr || at == nullptr) {
            error(Code::MissingKey, device.place,
                  fmt::format("{} '{}' needs 'on' and 'at'", device.kind->name, device.name),
                  device.kind->stands_free
                      ? "on = \"a belt\" and at = \"1.2 m\" along it; or at = [\"2 m\", \"0 m\"] in the plan"
                      : "on = \"a belt\" and at = \"1.2 m\" along it");
            return false;
        }
        const auto other = surface_named(*on, "on");
        if (!other) return false;
        const SurfaceModel& s = surface_of(*other);
        const double total_m = base::at(model_->devices, *other).length_m;
        const auto along = read_.quantity(*at, Dimension::Length, 0.0, total_m);
        const auto left = side(d);
        if (!along || !left) return false;
        const Vector2 p = s.pose.at(*along, 0.0);
        device.pose = {p.x_m, p.y_m, s.pose.z_m - s.drop_m * *along / s.length_m, s.pose.heading};
        device.mounted_on = *other;
        device.on_left = *left;
        place_references(d);
        return true;
    }

    /// Its place is for people alone: where it is drawn.
    bool place_on_panel(int d, DeviceModel& device) {
        place_references(d);
        const DefinitionValue* at = key_of(d, "place");
        if (at == nullptr) return true;
        const auto xy = read_.coordinates(*at);
        if (!xy) return false;
        device.pose.x_m = xy->x_m;
        device.pose.y_m = xy->y_m;
        return in_assembly(d, device);
    }

    bool place_in_plan(int d, DeviceModel& device) {
        const DefinitionValue* at = key_of(d, "at");
        if (at == nullptr) {
            error(Code::MissingKey, device.place, fmt::format("{} '{}' needs 'at'", device.kind->name, device.name),
                  "at = [\"2 m\", \"0 m\"]: its middle in the plan");
            return false;
        }
        const auto xy = read_.coordinates(*at);
        if (!xy) return false;
        device.pose.x_m = xy->x_m;
        device.pose.y_m = xy->y_m;
        place_references(d);
        return heading_and_elevation(d, device) && in_assembly(d, device);
    }

    /// Which surfaces an item can pass to; turning ones count with their whole circle.
    void neighbours() {
        const auto circle = [](const SurfaceModel& s) {
            const OrientedBox area = s.area(s.pose);
            return s.turns ? std::pair{s.pivot, s.turn_radius_m} : std::pair{area.centre, area.radius_m()};
        };
        for (SurfaceModel& s : model_->surfaces) {
            const auto [centre, radius] = circle(s);
            for (std::size_t o = 0; o < model_->surfaces.size(); ++o) {
                const auto [other, other_radius] = circle(model_->surfaces[o]);
                if (length(other - centre) <= radius + other_radius + kNeighbour_m)
                    s.neighbours.push_back(static_cast<int>(o));
            }
        }
    }

    // --- points ---
    void points() {
        int texts = 0;
        for (std::size_t d = 0; d < model_->devices.size(); ++d) {
            DeviceModel& device = model_->devices[d];
            VYARD_CHECK(device.kind->points.size() <= kMaxPoints);
            for (std::size_t s = 0; s < device.kind->points.size(); ++s) {
                const PointSpec& spec = device.kind->points[s];
                if (spec.present && !spec.present(parameters_of(d))) continue;
                device.points[s] = static_cast<int>(model_->points.size());
                const auto [low, high] = spec.range ? spec.range(parameters_of(d)) : std::pair{0.0, 0.0};
                const auto [least, most] = spec.takes ? spec.takes(parameters_of(d)) : std::pair{0.0, 0.0};
                const int text = spec.type == PointType::Text ? texts++ : kNone;
                model_->points.push_back(
                    {device.name + "." + spec.name, static_cast<int>(d), static_cast<int>(s), spec.direction, spec.type,
                     spec.dimension, low, high, text, least, most,
                     spec.contact ? std::optional(spec.contact(parameters_of(d))) : std::nullopt,
                     spec.wire_signal ? spec.wire_signal(parameters_of(d)) : WireSignal::AsTheCard});
            }
            const auto call = [&](auto* act) {
                return StepCall{act, device.model_offset, device.state_offset, static_cast<int>(d)};
            };
            if (device.kind->actuate != nullptr) model_->actuating.push_back(call(device.kind->actuate));
            if (device.kind->sense != nullptr) model_->sensing.push_back(call(device.kind->sense));
        }
        ranges();
        // Actuators look first, so that a switch on one sees where it went in the same step.
        std::stable_partition(model_->sensing.begin(), model_->sensing.end(),
                              [&](const StepCall& c) { return model_->device(c.device).kind->actuate != nullptr; });
        model_->initial.wires.assign(model_->points.size(), 0.0);
        model_->initial.texts.resize(static_cast<std::size_t>(texts));
        model_->initial.going_wrong.assign(model_->devices.size(), 0);
    }

    /// Points whose values are watched against what their devices take and measure.
    void ranges() {
        for (std::size_t p = 0; p < model_->points.size(); ++p) {
            const PointModel& point = model_->points[p];
            const bool input = point.direction == PointDirection::Input;
            const Kind& kind = *model_->device(point.device).kind;
            const auto [low, high] =
                input ? std::pair{point.low, point.high} : std::pair{point.takes_low, point.takes_high};
            const int mishap = input ? kind.beyond_range : kind.cut_off;
            if (mishap == kNone || low >= high) continue;
            model_->ranged.push_back(
                {static_cast<int>(p), point.device, mishap, static_cast<int>(model_->ranged.size()), input, low, high});
        }
        model_->initial.beyond_range.assign(model_->ranged.size(), 0);
    }

    // --- mishaps that are allowed ---
    void allow() {
        for (const AllowedDefinition& a : definition_.allowed) {
            const std::size_t dot = a.mishap.rfind('.');
            const int device = dot == std::string::npos ? kNone : model_->find_device(a.mishap.substr(0, dot));
            if (device == kNone) {
                error(Code::UnknownDevice, a.place, fmt::format("'{}' is not a mishap of a device", a.mishap),
                      dot == std::string::npos ? std::string("write DEVICE.MISHAP, such as infeed.item_fell")
                                               : base::name_hint(a.mishap.substr(0, dot), model_->device_names()));
                continue;
            }
            const Kind& kind = *model_->device(device).kind;
            const int number = find_mishap(kind, a.mishap.substr(dot + 1));
            if (number != kNone && allowance(*model_, device, number) != nullptr) {
                error(Code::DuplicateName, a.place, fmt::format("'{}' is allowed already", a.mishap));
            } else if (number != kNone) {
                model_->allowed.push_back({device, number, a.reason});
            } else {
                std::vector<std::string> known;
                for (const MishapSpec& m : kind.mishaps) known.push_back(m.name);
                error(Code::UnknownName, a.place,
                      fmt::format("{} '{}' has no mishap '{}'", base::with_article(kind.name),
                                  model_->device(device).name, a.mishap.substr(dot + 1)),
                      known.empty() ? std::string("it has none") : base::name_hint(a.mishap.substr(dot + 1), known));
            }
        }
    }

    const PlantDefinition& definition_;
    base::Diagnostics& diagnostics_;
    std::shared_ptr<PlantModel> model_ = std::make_shared<PlantModel>();
    ValueReader read_{*model_, diagnostics_};
    std::vector<const DeviceDefinition*> sources_;
    std::set<int> placing_, placed_, unusable_;
    std::vector<std::string> left_out_;
};

}  // namespace

CheckedPlant check_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics) {
    PlantDefinition written_out = definition;
    write_out_assemblies(written_out, diagnostics);
    return Builder(written_out, diagnostics).run();
}

std::shared_ptr<const PlantModel> build_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    CheckedPlant checked = check_plant(definition, diagnostics);
    return diagnostics.error_count() > before ? nullptr : checked.model;
}

std::vector<std::pair<std::string, std::string>> placement_keys(Placement placement) {
    switch (placement) {
        case Placement::Panel:
            return {
                {"place",
                 "where it is drawn in the plan, [\"x\", \"y\"]; without it in its pipe, or in a tile below the plan"}};
        case Placement::Surface:
            return {
                {"at",
                 "start of the centre line in the plan, [\"x\", \"y\"]; with `beside`: the distance along the other"},
                {"heading", "angle from the x axis, counter-clockwise, \"90 deg\"; default \"0 deg\""},
                {"elevation", "of its top above the floor; default \"0.8 m\""},
                {"after", "starts where this surface ends, with its heading and elevation"},
                {"beside", "starts at the edge of this surface and leads away from it"},
                {"side", "left or right of the surface named by `beside`; default left"}};
        case Placement::Mounted:
            return {
                {"on", "the surface it stands at"},
                {"at",
                 "distance along that surface; of sensors that may stand freely, without `on`, a place in the "
                 "plan, [\"x\", \"y\"]"},
                {"side", "left or right of it; default left"},
                {"heading", "of one that stands freely: angle from the x axis, counter-clockwise; default \"0 deg\""}};
        case Placement::Plan:
            return {{"at", "its middle in the plan, [\"x\", \"y\"]"},
                    {"heading", "angle from the x axis, counter-clockwise; default \"0 deg\""},
                    {"elevation", "above the floor; default \"0 m\""}};
    }
    return {};
}

}  // namespace vyard::plant
