// The plant as built: immutable after build_plant() returns.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"
#include "core/plant/geometry.hpp"
#include "core/plant/state.hpp"

namespace vyard::plant {

struct Kind;

enum class PointDirection : std::uint8_t { Input, Output };  ///< Seen from the controller.
enum class PointType : std::uint8_t { Boolean, Number, Analog };

constexpr int kMaxPoints = 8;  ///< Points a device may have.

struct PointModel {
    std::string name;  ///< "dip_eye.signal"
    int device = 0;
    int spec = 0;  ///< Index in the kind's list.
    PointDirection direction = PointDirection::Input;
    PointType type = PointType::Boolean;
    base::Dimension dimension = base::Dimension::Plain;
};

struct DeviceModel {
    std::string name;
    const Kind* kind = nullptr;
    base::Place place;
    std::uint32_t model_offset = 0;
    std::uint32_t state_offset = 0;
    std::array<int, kMaxPoints> points{};  ///< Number of each declared point, kNone when this device lacks it.
    bool in_plan = false;                  ///< Has a place in the plan (a panel device has none).
    Pose pose;
    double length_m = 0.0, width_m = 0.0;  ///< For drawing; along and across the heading.
    int mounted_on = kNone;
    bool on_left = true;                 ///< Side of what it is mounted on, seen along it.
    int surface = kNone;                 ///< Its carrying surface, if it has one.
    std::vector<std::string> positions;  ///< Of a selector.
};

/// Carries items. A rectangle whose top falls by `drop_m` over its length.
struct SurfaceModel {
    int device = 0;
    Pose pose;  ///< Start of the centre line.
    Rectangle area;
    double length_m = 0.0;
    double drop_m = 0.0;
    double slide_m_s2 = 0.0;  ///< Acceleration of what slides on it; 0 for a driven surface.
    bool sliding = false;
};

/// Stands in the way of items, and may push them.
struct SolidModel {
    int device = 0;
    Rectangle area;  ///< At rest.
    double bottom_m = 0.0, top_m = 0.0;
    int heading = 0;  ///< Of its push.
};

struct ItemType {
    std::string name;
    double length_m = 0.0, width_m = 0.0, height_m = 0.0;
    double mass_kg = 0.0;
    int colour = 0;
};

struct PlantModel {
    std::vector<DeviceModel> devices;
    std::vector<PointModel> points;
    std::vector<SurfaceModel> surfaces;
    std::vector<SolidModel> solids;
    std::vector<ItemType> item_types;
    std::vector<std::string> colours;      ///< A colour's code is its number here plus one; 0 reads "none".
    std::vector<std::byte> parameters;     ///< Models of all devices, at DeviceModel::model_offset.
    std::vector<double> cross_section_m2;  ///< Per device; of tanks.
    std::vector<int> actuating;            ///< Devices with an actuate step, in order of the file.
    std::vector<int> sensing;
    PlantState initial;
    double step_s = 0.005;

    /// kNone when there is none of that name (folded).
    int find_device(std::string_view name) const;
    int find_point(std::string_view name) const;
    int find_item_type(std::string_view name) const;
    /// The only point of a device, so that the device's name may stand for it; kNone when it has none or several.
    int only_point(int device) const;
    std::vector<std::string> device_names() const;
    std::vector<std::string> point_names() const;
};

}  // namespace vyard::plant
