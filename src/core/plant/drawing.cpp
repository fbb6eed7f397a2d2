#include "core/plant/drawing.hpp"

#include <cmath>

#include "core/plant/plant.hpp"

namespace vyard::plant {

Pose Drawing::pose() const {
    return device->surface == kNone ? device->pose : base::at(state.surfaces, device->surface).pose;
}

OrientedBox Drawing::area() const {
    const DeviceModel& d = *device;
    switch (d.kind->placement) {
        case Placement::Surface: return pose().box(0, d.length_m, d.width_m / 2, d.width_m / 2);
        case Placement::Plan:
            if (d.kind->from_corner) return d.pose.box(0, d.length_m, 0, d.width_m);
            return {d.pose.origin(), d.length_m / 2, d.width_m / 2, d.pose.heading};
        default: return d.pose.box(-d.length_m / 2, d.length_m / 2, d.width_m / 2, d.width_m / 2);
    }
}

const std::byte* Drawing::model_bytes() const {
    return model.parameters.data() + device->model_offset;
}
const std::byte* Drawing::state_bytes() const {
    return state.devices.data() + device->state_offset;
}

double Drawing::actual(std::string_view wanted) const {
    const auto& actuals = device->kind->actuals;
    for (std::size_t i = 0; i < actuals.size(); ++i) {
        if (actuals[i].name != wanted) continue;
        return read(model, state, {Reading::Source::Actual, index, static_cast<int>(i), actuals[i].type, {}});
    }
    return 0.0;
}

void Drawing::surface_label(std::string text) {
    const Rectangle r = area().bounds();
    const bool upright = std::abs(pose().heading.sin) > 0.9;
    const Vector2 at = upright ? Vector2{r.x1_m, (r.y0_m + r.y1_m) / 2} : Vector2{(r.x0_m + r.x1_m) / 2, r.y0_m};
    label(at, std::move(text), upright ? Side::Right : Side::Below);
}

void Drawing::rollers() {
    box(area(), {Tone::Mist}, {});
    const Pose p = pose();
    const double half_m = device->width_m / 2;
    double from_m = 0.0;
    for (int s = device->surface; s < device->surface + device->surface_count; ++s) {
        const double length_m = base::at(model.surfaces, s).length_m;
        const bool runs = base::at(state.surfaces, s).speed_m_s != 0.0;
        box(p.box(from_m, from_m + length_m, half_m, half_m), {Tone::Mist}, {Tone::Ink, runs ? 2.0 : 1.0});
        for (double along = from_m + 0.06; along < from_m + length_m; along += 0.12)
            line(p.at(along, half_m * 0.84), p.at(along, -half_m * 0.84), {runs ? Tone::Runs : Tone::Faint, 1.5});
        from_m += length_m;
    }
}

void Drawing::chevrons(Line l) {
    const Pose p = pose();
    for (double along = 0.15; along < device->length_m - 0.05; along += 0.3) {
        path({p.at(along - 0.04, device->width_m * 0.18), p.at(along + 0.04, 0),
              p.at(along - 0.04, -device->width_m * 0.18)},
             l);
    }
}

}  // namespace vyard::plant
