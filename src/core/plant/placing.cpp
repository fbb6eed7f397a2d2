// What a device adds to the world when it is built.
#include "core/plant/step.hpp"

namespace vyard::plant {

int Placing::add_surface(double length_m, double width_m, double from_m) {
    SurfaceModel s;
    s.device = index;
    s.pose = device.pose;
    const Vector2 start = device.pose.at(from_m, 0.0);
    s.pose.x_m = start.x_m;
    s.pose.y_m = start.y_m;
    s.length_m = length_m;
    s.half_width_m = width_m / 2.0;
    model.surfaces.push_back(s);
    model.initial.surfaces.push_back({s.pose, 0.0, 0.0, 0.0});
    const int number = static_cast<int>(model.surfaces.size()) - 1;
    if (device.surface == kNone) device.surface = number;
    ++device.surface_count;
    device.length_m = from_m + length_m;
    device.width_m = width_m;
    return number;
}

int Placing::add_solid(const OrientedBox& area, double bottom_m, double top_m, Vector2 push, double travel_m,
                       bool present) {
    OrientedBox swept = area.moved(push * (travel_m / 2.0));
    swept.half_length_m += std::abs(dot(push, area.heading.ahead())) * travel_m / 2.0;
    swept.half_width_m += std::abs(dot(push, area.heading.left())) * travel_m / 2.0;
    const int zone = add_zone(swept);
    model.solids.push_back({index, area, bottom_m, top_m, push, zone});
    model.initial.solids.push_back({present, 0.0, 0.0});
    return static_cast<int>(model.solids.size()) - 1;
}

int Placing::add_zone(const OrientedBox& area) {
    model.zones.push_back({area});
    return static_cast<int>(model.zones.size()) - 1;
}

const SurfaceModel& Placing::mounted_surface() const {
    const DeviceModel& other = mounted_device();
    int found = other.surface;
    for (int s = other.surface; s < other.surface + other.surface_count; ++s) {
        const SurfaceModel& candidate = base::at(model.surfaces, s);
        if (candidate.disc || candidate.pose.along(device.pose.x_m, device.pose.y_m) >= -kTouch_m) found = s;
    }
    return base::at(model.surfaces, found);
}

}  // namespace vyard::plant
