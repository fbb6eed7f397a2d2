// What a kind gets to work with: at building a Placing, which registers what a device adds to the world, and in each
// step a Step, one device's view of the plant.
#pragma once

#include <algorithm>
#include <string_view>

#include "core/plant/kind.hpp"

namespace vyard::plant {

/// At building: registers what the device adds to the world.
struct Placing {
    PlantModel& model;
    DeviceModel& device;
    int index;

    /// At the device's pose, or `from_m` in front of it.
    int add_surface(double length_m, double width_m, double from_m = 0.0);
    SurfaceModel& surface(int number) { return base::at(model.surfaces, number); }
    /// `travel_m` is the farthest it goes along `push`.
    int add_solid(const OrientedBox& area, double bottom_m, double top_m, Vector2 push, double travel_m, bool present);
    /// Where each_near() looks: every item that reaches into it, and some that do not.
    int add_zone(const OrientedBox& area);
    int add_zone(Vector2 centre, double radius_m) { return add_zone({centre, radius_m, radius_m, {}}); }
    /// The farthest that an actuator goes.
    void reaches(double farthest_m) { base::at(model.reach_m, device.extension) = farthest_m; }
    /// Nothing may be moved faster than the plant knows of.
    void moves_up_to(double speed_m_s) { model.top_speed_m_s = std::max(model.top_speed_m_s, speed_m_s); }
    /// The surface at the place of a mounted device.
    const SurfaceModel& mounted_surface() const;
    const DeviceModel& mounted_device() const { return base::at(model.devices, device.mounted_on); }
};

/// In a step: one device's view of the plant.
struct Step {
    const PlantModel& model;
    PlantState& state;
    double dt_s;
    const DeviceModel* device = nullptr;
    int index = 0;

    /// Value of an output point by its place in the declaration; 0 when this device lacks it.
    double output(int spec) const {
        const int point = base::at(device->points, spec);
        return point == kNone ? 0.0 : state.shown(point);
    }
    void input(int spec, double value) {
        const int point = base::at(device->points, spec);
        if (point != kNone) state.put(point, value);
    }
    std::string_view text_output(int spec) const {
        const int point = base::at(device->points, spec);
        return point == kNone ? std::string_view{} : base::at(state.texts, text_number(point)).shown.view();
    }
    void text_input(int spec, std::string_view text) {
        const int point = base::at(device->points, spec);
        if (point != kNone) state.put_text(point, text_number(point), text);
    }
    int text_number(int point) const { return base::at(model.points, point).text; }
    /// Calls f(item) for the items that may be in a zone, in order of arrival, those of this step last.
    template <class F>
    void each_near(int zone, F f) {
        if (!state.near.quiet(zone)) {
            for (const int i : state.near.zone(zone)) f(base::at(state.items, i));
        }
        for (std::size_t i = state.near.listed(); i < state.items.size(); ++i) f(state.items[i]);
    }
    /// Says in every step whether a mishap of the device goes on.
    void mishap(int number, bool on, int cause = kNone, const Item* item = nullptr) {
        const bool was = (base::at(state.going_wrong, index) >> static_cast<unsigned>(number) & 1U) != 0;
        if (on != was) change_mishap(model, state, index, number, on, cause, item);
    }
    /// One that lasts no time.
    void mishap_once(int number, const Item* item = nullptr) { count_mishap(model, state, index, number, kNone, item); }
    Liquid& liquid(int of) { return base::at(state.liquids, model.device(of).liquid); }
    const Liquid& liquid(int of) const { return liquid_of(model, state, of); }
    SurfaceState& surface(int number) { return base::at(state.surfaces, number); }
    double& extension_m() { return base::at(state.extension_m, device->extension); }
    double& drive_ratio() { return base::at(state.drive_ratio, device->drive); }
    double& pressure_pa() { return base::at(state.pressure_pa, device->air); }
};

}  // namespace vyard::plant
