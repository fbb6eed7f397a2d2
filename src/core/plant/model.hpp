// The plant as built: immutable after build_plant() returns.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"
#include "core/plant/geometry.hpp"
#include "core/plant/state.hpp"

namespace vyard::plant {

struct Kind;
struct Step;

enum class PointDirection : std::uint8_t { Input, Output };  ///< Seen from the controller.
enum class PointType : std::uint8_t { Boolean, Number, Analog, Text };

/// A wired contact: what a normally open or normally closed contact shows.
enum class Contact : int { NormallyOpen = 0, NormallyClosed = 1 };
inline double contact_value(Contact contact, bool actuated) {
    return actuated == (contact == Contact::NormallyOpen) ? 1.0 : 0.0;
}

/// The electrical signal of a transmitter. `AsTheCard`: whatever its module is set to.
enum class WireSignal : int { AsTheCard = 0, Current4To20 = 1, Current0To20 = 2, Voltage0To10 = 3 };
struct ElectricalRange {
    bool current = true;  ///< mA, else V.
    double low = 4.0, high = 20.0;
};
/// Null of AsTheCard.
std::optional<ElectricalRange> electrical_range(WireSignal signal);

constexpr int kMaxPoints = 20;  ///< Points a device may have.

struct PointModel {
    std::string name;  ///< "dip_eye.signal"
    int device = 0;
    int spec = 0;  ///< Index in the kind's list.
    PointDirection direction = PointDirection::Input;
    PointType type = PointType::Boolean;
    base::Dimension dimension = base::Dimension::Plain;
    double low = 0.0, high = 0.0;  ///< Of its signal's range; both 0 when it has none.
    int text = kNone;              ///< Of a text: its number in PlantState::texts.
    /// Of an output: what its device takes and does not cut off; both 0 when it takes all.
    double takes_low = 0.0, takes_high = 0.0;
    std::optional<Contact> contact{};                ///< Of a wired contact.
    WireSignal wire_signal = WireSignal::AsTheCard;  ///< Of an analog input with a range.
};

/// What is asked in every step stands first, so that it lies together.
struct alignas(64) DeviceModel {
    Pose pose;
    std::array<int, kMaxPoints> points{};  ///< Number of each declared point, kNone when this device lacks it.
    const Kind* kind = nullptr;
    std::uint32_t model_offset = 0;
    std::uint32_t state_offset = 0;
    int surface = kNone;    ///< Its carrying surface, if it has one; of several, the first.
    int surface_count = 0;  ///< They follow one another along its heading.
    /// Its numbers in the lists of PlantState that are named so; kNone in those it has no part in.
    int extension = kNone, drive = kNone, liquid = kNone, air = kNone;
    std::string name;
    base::Place place;
    bool in_plan = false;                  ///< Has a place in the plan (a panel device has none).
    double length_m = 0.0, width_m = 0.0;  ///< For drawing; along and across the heading.
    int mounted_on = kNone;
    int from = kNone, into = kNone;      ///< Devices that it leads liquid or bulk between.
    bool on_left = true;                 ///< Side of what it is mounted on, seen along it.
    std::vector<std::string> positions;  ///< Of a selector.
};

/// Carries items. A rectangle whose top falls by `drop_m` over its length, or a disc about its pivot.
struct SurfaceModel {
    int device = 0;
    Pose pose;  ///< Start of the centre line, at power-up.
    double length_m = 0.0, half_width_m = 0.0;
    bool disc = false;
    bool turns = false;
    double turn_radius_m = 0.0;  ///< From the pivot to its farthest corner; of one that turns.
    double drop_m = 0.0;
    double slide_m_s2 = 0.0;  ///< Acceleration of what slides on it; 0 for a driven surface.
    bool sliding = false;
    Vector2 pivot;                ///< What it turns about.
    int zone = kNone;             ///< Where the items are that one that turns carries.
    std::vector<int> neighbours;  ///< Surfaces that an item can pass to; ascending.

    bool contains(const SurfaceState& now, double x_m, double y_m) const {
        if (disc) return length(Vector2{x_m, y_m} - pivot) <= half_width_m;
        const double along = now.pose.along(x_m, y_m);
        return along >= 0.0 && along <= length_m && std::abs(now.pose.left(x_m, y_m)) <= half_width_m;
    }
    /// The box it covers; of a disc the one around it.
    OrientedBox area(const Pose& now) const {
        if (disc) return {pivot, half_width_m, half_width_m, {}};
        return now.box(0.0, length_m, half_width_m, half_width_m);
    }
};

/// Stands in the way of items, and may push them.
struct SolidModel {
    int device = 0;
    OrientedBox area;  ///< At rest.
    double bottom_m = 0.0, top_m = 0.0;
    Vector2 push;  ///< Unit vector of its travel.
    int zone = 0;  ///< Where its items are.

    OrientedBox now(const SolidState& state) const {
        return state.offset_m == 0.0 ? area : area.moved(push * state.offset_m);
    }
};

/// A box in the plan in which a device looks for items.
struct ZoneModel {
    OrientedBox area;
};

enum class Material : std::uint8_t { Other, Metal };

constexpr std::size_t kMostItemTypes = 32000;

struct ItemType {
    std::string name;
    double length_m = 0.0, width_m = 0.0, height_m = 0.0;
    double mass_kg = 0.0;
    int colour = 0;
    int code = 0;
    std::string label;  ///< What a code reader sees as a text.
    Material material = Material::Other;
};

/// What of an item's type is asked in every step: its outline.
struct ItemForm {
    double half_length_m = 0.0, half_width_m = 0.0, height_m = 0.0;
    double radius_m = 0.0;  ///< Of the circle around it in the plan.
};

struct NumberList {
    static constexpr int kMost = 32;
    std::array<double, kMost> values{};
    int count = 0;
    double at(int i) const { return base::at(values, i); }
};

/// What a tank is like inside: straight, or with a volume for each of some levels, both rising, straight between them.
struct Vessel {
    double area_m2 = 0.0;  ///< Of a straight one.
    NumberList levels_m, volumes_m3;
    double full_m3 = 0.0;           ///< To the rim.
    double relative_density = 1.0;  ///< Of its liquid, against water.

    double level_m(double volume_m3) const;
    double volume_m3(double level_m) const;
    /// Of the surface of the liquid.
    double surface_m2(double volume_m3) const;

  private:
    int part_of(const NumberList& list, double value) const;
};

/// A point whose value can be beyond what its device takes or measures.
struct RangedPoint {
    int point = 0, device = 0;
    int mishap = 0;  ///< Number in the kind's list.
    int number = 0;  ///< In PlantState::beyond_range.
    bool input = false;
    double low = 0.0, high = 0.0;
};

/// A part of a step that a device does.
struct StepCall {
    void (*act)(const std::byte* model, std::byte* state, Step&) = nullptr;
    std::uint32_t model_offset = 0;
    std::uint32_t state_offset = 0;
    int device = 0;
};

struct PlantModel {
    std::vector<std::shared_ptr<const Kind>> own_kinds;  ///< Of this plant alone.
    std::vector<DeviceModel> devices;
    std::vector<PointModel> points;
    std::vector<SurfaceModel> surfaces;
    std::vector<SolidModel> solids;
    std::vector<ZoneModel> zones;
    std::vector<ItemType> item_types;
    std::vector<ItemForm> item_forms;      ///< By item type.
    std::vector<std::string> colours;      ///< A colour's code is its number here plus one; 0 reads "none".
    std::vector<std::byte> parameters;     ///< Models of all devices, at DeviceModel::model_offset.
    std::vector<std::int16_t> item_lists;  ///< Lists of parameters, one after the other.
    std::vector<Vessel> vessels;           ///< Per device; of tanks and hoppers.
    std::vector<double> reach_m;           ///< At DeviceModel::extension: the farthest it goes.
    std::vector<StepCall> actuating;       ///< Of devices with an actuate step, in order of the file.
    std::vector<StepCall> sensing;
    std::vector<RangedPoint> ranged;
    std::vector<AllowedMishap> allowed;
    PlantState initial;
    double step_s = 0.005;
    double top_speed_m_s = kLeastTopSpeed_m_s;  ///< No item is moved faster in the plan.

    const ItemType& type_of(const Item& item) const { return base::at(item_types, item.type); }
    const ItemForm& form_of(const Item& item) const { return base::at(item_forms, item.type); }
    /// What an item covers in the plan, and how high its top is.
    OrientedBox footprint(const Item& item) const {
        const ItemForm& form = form_of(item);
        return {{item.x_m, item.y_m}, form.half_length_m, form.half_width_m, item.heading};
    }
    double top_m(const Item& item) const { return item.z_m + form_of(item).height_m; }

    /// kNone when there is none of that name (folded).
    int find_device(std::string_view name) const;
    int find_point(std::string_view name) const;
    int find_item_type(std::string_view name) const;
    /// The only point of a device, so that the device's name may stand for it; kNone when it has none or several.
    int only_point(int device) const;
    /// The kind of that name: of this plant, or one that all have; null when there is none.
    const Kind* find_kind(std::string_view name) const;
    std::vector<std::string> device_names() const;
    std::vector<std::string> point_names() const;
    const DeviceModel& device(int number) const { return base::at(devices, number); }
};

/// What a device shares with others; 0 of one that does not have it.
inline double extension_of_m(const PlantModel& model, const PlantState& state, int device) {
    const int n = model.device(device).extension;
    return n == kNone ? 0.0 : base::at(state.extension_m, n);
}
inline double drive_ratio_of(const PlantModel& model, const PlantState& state, int device) {
    const int n = model.device(device).drive;
    return n == kNone ? 0.0 : base::at(state.drive_ratio, n);
}
inline double pressure_of_pa(const PlantModel& model, const PlantState& state, int device) {
    const int n = model.device(device).air;
    return n == kNone ? 0.0 : base::at(state.pressure_pa, n);
}
/// Whether a surface of a device carries what lies on it along.
inline bool surface_moves(const PlantModel& model, const PlantState& state, int device) {
    const DeviceModel& d = model.device(device);
    for (int s = d.surface; s < d.surface + d.surface_count; ++s) {
        const SurfaceState& now = base::at(state.surfaces, s);
        if (now.speed_m_s != 0.0 || now.across_m_s != 0.0) return true;
    }
    return false;
}
/// Of a tank or a hopper.
inline const Liquid& liquid_of(const PlantModel& model, const PlantState& state, int device) {
    return base::at(state.liquids, model.device(device).liquid);
}

}  // namespace vyard::plant
