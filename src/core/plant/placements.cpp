#include "core/plant/placements.hpp"

#include <fmt/format.h>

#include "core/plant/step.hpp"

namespace vyard::plant {

using base::Code;
using base::Dimension;

namespace {

using Form = DefinitionValue::Form;

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

class Placer {
  public:
    Placer(PlantModel& model, const std::vector<const DeviceDefinition*>& sources, std::set<int>& unusable,
           ValueReader& read, base::Diagnostics& diagnostics)
        : model_(model), sources_(sources), unusable_(unusable), read_(read), diagnostics_(diagnostics) {}

    void run() {
        for (std::size_t d = 0; d < model_.devices.size(); ++d) place(static_cast<int>(d));
        neighbours();
    }

  private:
    void error(Code code, const base::Place& place, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place, std::move(message), std::move(hint));
    }

    const DefinitionValue* key_of(int d, const char* name) const {
        for (const DefinitionKey& key : base::at(sources_, d)->keys) {
            if (key.name == name) return &key.value;
        }
        return nullptr;
    }

    void place(int d) {
        if (placed_.contains(d)) return;
        DeviceModel& device = base::at(model_.devices, d);
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
        Placing placing{model_, device, d};
        device.kind->place(placing, model_.parameters.data() + device.model_offset,
                           model_.initial.devices.data() + device.state_offset);
        if (placed && device.kind->placement == Placement::Panel) device.pose = drawn;
    }

    bool refers_to_unusable(int d) const {
        for (const ParameterSpec& p : base::at(model_.devices, d).kind->parameters) {
            const DefinitionValue* value = p.type == ParameterType::Device ? key_of(d, p.name.c_str()) : nullptr;
            if (value != nullptr && unusable_.contains(model_.find_device(value->text))) return true;
        }
        return false;
    }

    /// Devices named by parameters are built first, so that a kind can look at their geometry.
    void place_references(int d) {
        for (const ParameterSpec& p : base::at(model_.devices, d).kind->parameters) {
            if (p.type != ParameterType::Device) continue;
            const DefinitionValue* value = key_of(d, p.name.c_str());
            const int other = value != nullptr ? model_.find_device(value->text) : kNone;
            if (other != kNone && other != d) place(other);
        }
    }

    std::optional<int> surface_named(const DefinitionValue& value, const char* key) {
        const auto other = read_.device_named(value, carrying_kinds(), key);
        if (!other) return std::nullopt;
        place(*other);
        if (base::at(model_.devices, *other).surface == kNone) return std::nullopt;  // its own mistake was reported
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
            const DeviceModel& before = base::at(model_.devices, *other);
            const SurfaceModel& s = base::at(model_.surfaces, before.surface + before.surface_count - 1);
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
        return base::at(model_.surfaces, base::at(model_.devices, device).surface);
    }

    bool place_beside(int d, DeviceModel& device, const DefinitionValue& beside, const DefinitionValue* at) {
        const auto other = surface_named(beside, "beside");
        if (!other) return false;
        if (at == nullptr) {
            error(Code::MissingKey, device.place, "'beside' needs 'at', a distance along the other", "at = \"1.2 m\"");
            return false;
        }
        const SurfaceModel& s = surface_of(*other);
        const double total_m = base::at(model_.devices, *other).length_m;
        const auto along = read_.quantity(*at, Dimension::Length, 0.0, total_m);
        const auto left = side(d);
        if (!along || !left) return false;
        const double half = base::at(model_.devices, *other).width_m / 2.0;
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
        const double total_m = base::at(model_.devices, *other).length_m;
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
        for (SurfaceModel& s : model_.surfaces) {
            const auto [centre, radius] = circle(s);
            for (std::size_t o = 0; o < model_.surfaces.size(); ++o) {
                const auto [other, other_radius] = circle(model_.surfaces[o]);
                if (length(other - centre) <= radius + other_radius + kNeighbour_m)
                    s.neighbours.push_back(static_cast<int>(o));
            }
        }
    }

    PlantModel& model_;
    const std::vector<const DeviceDefinition*>& sources_;
    std::set<int>& unusable_;
    ValueReader& read_;
    base::Diagnostics& diagnostics_;
    std::set<int> placing_, placed_;
};

}  // namespace

void place_devices(PlantModel& model, const std::vector<const DeviceDefinition*>& sources, std::set<int>& unusable,
                   ValueReader& read, base::Diagnostics& diagnostics) {
    Placer(model, sources, unusable, read, diagnostics).run();
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
