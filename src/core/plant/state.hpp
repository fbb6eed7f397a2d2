// All that changes in a plant during a run: flat, copyable values with dense numbers into the model's lists.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace vyard::plant {

constexpr int kNone = -1;

/// A thing that is carried. Its centre in plan, its bottom in height.
struct Item {
    std::uint32_t id = 0;
    std::int16_t type = 0;         ///< Number in PlantModel::item_types.
    std::int16_t colour = 0;       ///< Number in PlantModel::colours.
    std::int32_t support = kNone;  ///< Surface it lies on, or kNone.
    double x_m = 0.0, y_m = 0.0, z_m = 0.0;
    double half_x_m = 0.0, half_y_m = 0.0, height_m = 0.0;
    double fall_m_s = 0.0;   ///< Downward speed while nothing carries it.
    double slide_m_s = 0.0;  ///< Speed down a chute.
    double soaked_s = 0.0;   ///< Time under the surface of a tank's liquid.
    bool held = false;       ///< By a clamp, in this step.
    bool on_floor = false;
};

struct SurfaceState {
    double speed_m_s = 0.0;  ///< Along its heading.
    double z_m = 0.0;        ///< Of its start.
};

struct SolidState {
    bool present = false;   ///< Stands in the way of items.
    double offset_m = 0.0;  ///< From rest, along its push heading.
    double wanted_m = 0.0;  ///< Travel asked for in this step; what is not possible is not done.
};

/// A defect of one point: it shows `value` whatever the device or the controller says.
struct PointFault {
    std::int32_t point = 0;
    double value = 0.0;
};

struct PlantState {
    std::vector<std::byte> devices;  ///< States of all devices, at DeviceModel::state_offset.
    std::vector<double> points;      ///< What each wire carries; BOOL as 0 and 1.
    std::vector<Item> items;         ///< In order of arrival.
    std::vector<SurfaceState> surfaces;
    std::vector<SolidState> solids;
    std::vector<double> extension_m;  ///< Per device: how far an actuator is out.
    std::vector<double> drive_ratio;  ///< Per device: share of full speed a motor turns at.
    std::vector<double> volume_m3;    ///< Per device: liquid in a tank.
    std::vector<PointFault> point_faults;
    std::uint32_t next_item = 1;
};

}  // namespace vyard::plant
