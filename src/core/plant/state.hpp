// All that changes in a plant during a run: flat, copyable values with dense numbers into the model's lists.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

#include "core/base/base.hpp"
#include "core/plant/faults.hpp"
#include "core/plant/geometry.hpp"
#include "core/plant/mishaps.hpp"
#include "core/plant/nearby.hpp"
#include "core/plant/random.hpp"
#include "core/plant/wire_text.hpp"

namespace vyard::plant {

constexpr unsigned kMostColours = (1U << 14) - 1;  ///< Of a plant.

/// A thing that is carried. Its centre in plan, its bottom in height.
struct Item {
    std::uint32_t id = 0;
    std::uint32_t held_in = 0;     ///< The step in which something held it last.
    std::int32_t support = kNone;  ///< Surface it lies on, or kNone.
    std::int32_t below = kNone;    ///< Number of the item it lies on, or kNone.
    double x_m = 0.0, y_m = 0.0, z_m = 0.0;
    Heading heading;
    double speed_m_s = 0.0;          ///< Down, while nothing carries it; along its way, while it slides.
    std::uint32_t soaked_steps = 0;  ///< For how long it has been under the surface of a tank's liquid.
    std::int16_t type = 0;           ///< Number in PlantModel::item_types, which has its size, mass and code.
    std::uint16_t colour : 14 = 0;   ///< Number in PlantModel::colours.
    bool on_floor : 1 = false;
    bool gone : 1 = false;  ///< Leaves the plant before anything moves again.

    void paint(int number) { colour = static_cast<std::uint16_t>(number) & kMostColours; }
};
static_assert(sizeof(Item) == 72);  // what a copy of a run costs is mostly items

struct SurfaceState {
    Pose pose;                ///< Now: lifts and turntables move.
    double speed_m_s = 0.0;   ///< Along its heading.
    double across_m_s = 0.0;  ///< To its left.
    double turn_rad = 0.0;    ///< Asked for in this step, about SurfaceModel::pivot; what is not possible is not done.
};

struct SolidState {
    bool present = false;   ///< Stands in the way of items.
    double offset_m = 0.0;  ///< From rest, along its push heading.
    double wanted_m = 0.0;  ///< Travel asked for in this step; what is not possible is not done.
};

struct Liquid {
    double volume_m3 = 0.0;
    double temperature_c = 20.0;
    double concentration = 0.0;  ///< Share of what is dissolved, 0 to 1.
};

/// The way of a surface, or an item, in a step.
struct Stride {
    Vector2 way, unit;
    double size_m = 0.0;
};

/// Room that a step works in, kept so that steps do not allocate. It says nothing of the plant, and is not copied.
struct StepScratch {
    std::vector<Stride> strides;     ///< By surface.
    std::vector<std::uint8_t> done;  ///< By item.
    std::vector<Vector2> went;       ///< By item.
    std::vector<int> chain;          ///< By item: who asked first, of those on its belt that ask each other to go.
    std::vector<Item> turned;
    std::vector<int> riders;
    std::vector<int> waiting, going;  ///< Items on the way to the head of a row.
    std::vector<int> pushed_by;       ///< By item: the device that pushed it in this step.
    std::vector<double> rose;         ///< By item.
    std::vector<double> wanted;       ///< By solid: what it wanted in the last step.

    StepScratch() = default;
    StepScratch(const StepScratch&) {}
    StepScratch& operator=(const StepScratch&) { return *this; }
    StepScratch(StepScratch&&) = default;
    StepScratch& operator=(StepScratch&&) = default;
    ~StepScratch() = default;
};

struct PlantState {
    std::vector<std::byte> devices;  ///< States of all devices, at DeviceModel::state_offset.
    std::vector<double> wires;       ///< What each point's wire shows: BOOL as 0 and 1; of a text how often it changed.
                                     ///< What was put on it is the same, but for those of `faulted_points`.
    std::vector<TextWire> texts;     ///< At PointModel::text.
    std::vector<Item> items;         ///< In order of arrival.
    std::vector<SurfaceState> surfaces;
    std::vector<SolidState> solids;
    std::vector<double> extension_m;  ///< At DeviceModel::extension: how far an actuator is out.
    std::vector<double> drive_ratio;  ///< At DeviceModel::drive: share of full speed a motor turns at.
    std::vector<Liquid> liquids;      ///< At DeviceModel::liquid: of a tank, or a hopper (only its volume counts).
    std::vector<double> pressure_pa;  ///< At DeviceModel::air: of an air supply.
    base::Rare<FaultedPoint> faulted_points;
    base::Rare<DeviceFault> device_faults;   ///< Those that come and go.
    std::vector<std::uint32_t> going_wrong;  ///< By device: bits of its mishaps that go on.
    std::vector<std::uint8_t> beyond_range;  ///< At RangedPoint::number.
    base::Rare<Mishap> mishaps;              ///< Since the start, in order of their first time.
    base::Rare<Fall> falls;
    std::uint32_t mishaps_counted = 0;  ///< Times that a mishap began that is not allowed.
    Random random;
    std::uint32_t next_item = 1;
    std::uint32_t step_number = 1;
    bool leaving = false;  ///< Some item is marked gone.
    Nearby near;
    StepScratch scratch;

    double shown(int point) const { return base::at(wires, point); }
    /// The one way onto a wire of a number or a BOOL; its defects act afterwards (fault_inputs, fault_outputs).
    void put(int point, double value) {
        if (!faulted_points.empty()) {
            if (FaultedPoint* faulted = defects_of(point)) {
                faulted->put = value;
                return;
            }
        }
        base::at(wires, point) = value;
    }
    /// The same of a text, at its number in `texts`.
    void put_text(int point, int text, std::string_view characters) {
        TextWire& wire = base::at(texts, text);
        if (!wire.put.set(characters) || wire.defective) return;
        wire.shown = wire.put;
        base::at(wires, point) += 1.0;
    }
    /// Null for a whole wire.
    FaultedPoint* defects_of(int point) {
        const auto found = std::find_if(faulted_points.begin(), faulted_points.end(),
                                        [&](const FaultedPoint& p) { return p.point == point; });
        return found == faulted_points.end() ? nullptr : &*found;
    }

    bool held(const Item& item) const { return item.held_in == step_number; }
    void hold(Item& item) {
        item.held_in = step_number;
        const auto number = static_cast<std::size_t>(&item - items.data());
        if (number < near.listed()) near.rouse(number);
    }
    /// It is gone before anything moves again.
    void take_away(Item& item) {
        item.gone = true;
        leaving = true;
    }
};

}  // namespace vyard::plant
