#include "core/plant/items.hpp"

#include <fmt/format.h>

#include <limits>

#include "core/plant/clearance.hpp"
#include "core/plant/kind.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

bool carries(const DeviceModel& d, int surface) {
    return surface != kNone && surface >= d.surface && surface < d.surface + d.surface_count;
}

int surface_at(const PlantModel& model, const DeviceModel& d, double along_m) {
    double begin_m = 0.0;
    for (int s = d.surface; s < d.surface + d.surface_count - 1; ++s) {
        begin_m += base::at(model.surfaces, s).length_m;
        if (along_m < begin_m) return s;
    }
    return d.surface + d.surface_count - 1;
}

/// Puts `changed` in the place of item `i` when there is room for it.
bool change(const PlantModel& model, PlantState& state, int i, const Item& changed) {
    if (!space_is_free(model, state, changed, i)) return false;
    base::at(state.items, i) = changed;
    state.near.forget();
    return true;
}

}  // namespace

void become(Item& item, const PlantModel& model, int type) {
    item.type = static_cast<std::int16_t>(type);
    item.paint(model.type_of(item).colour);
}

Item make_item(const PlantModel& model, const PlantState& state, int type, int surface, double along_m, double left_m) {
    const SurfaceModel& s = base::at(model.surfaces, surface);
    const SurfaceState& now = base::at(state.surfaces, surface);
    const Vector2 p = now.pose.at(along_m, left_m);
    Item item;
    item.id = state.next_item;
    item.support = surface;
    item.x_m = p.x_m;
    item.y_m = p.y_m;
    item.z_m = surface_height(s, now, p.x_m, p.y_m);
    item.heading = now.pose.heading;
    become(item, model, type);
    return item;
}

bool place_item(const PlantModel& model, PlantState& state, int type, int device, double along_m,
                std::optional<int> colour, double left_m, Heading turned) {
    const DeviceModel& d = base::at(model.devices, device);
    const int surface = surface_at(model, d, along_m);
    const Pose& first = base::at(state.surfaces, d.surface).pose;
    const Pose& own = base::at(state.surfaces, surface).pose;
    const double begin_m = first.along(own.x_m, own.y_m);
    Item item = make_item(model, state, type, surface, along_m - begin_m, left_m);
    item.heading = item.heading.turned(turned);
    if (colour) item.paint(*colour);
    if (state.items.size() >= kMaxItems || !space_is_free(model, state, item)) return false;
    ++state.next_item;
    state.items.push_back(item);
    state.near.forget();
    return true;
}

int find_item(const PlantModel& model, const PlantState& state, int device, std::optional<double> along_m, bool near) {
    const DeviceModel* d = device == kNone ? nullptr : &base::at(model.devices, device);
    const std::uint32_t held =
        d != nullptr && d->kind->held != nullptr ? d->kind->held(state.devices.data() + d->state_offset) : 0;
    int best = kNone;
    double best_score = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        const Item& item = state.items[i];
        const bool there = d == nullptr ? item.on_floor : item.id == held || carries(*d, item.support);
        if (item.gone || !there) continue;
        double score = 0.0;
        if (d != nullptr && d->surface != kNone) {
            const double along = base::at(state.surfaces, d->surface).pose.along(item.x_m, item.y_m);
            score = along_m ? std::abs(along - *along_m) : -along;
        }
        if (score >= best_score || (along_m && near && score > 2.0 * model.form_of(item).half_length_m)) continue;
        best_score = score;
        best = static_cast<int>(i);
    }
    return best;
}

std::string item_text(const PlantModel& model, const PlantState& state, int item, int device) {
    const Item& i = base::at(state.items, item);
    const std::string name = fmt::format("{} {}", model.type_of(i).name, i.id);
    if (device == kNone) return fmt::format("{} on the floor", name);
    const DeviceModel& d = base::at(model.devices, device);
    if (d.surface == kNone) return fmt::format("{} in '{}'", name, d.name);
    return fmt::format("{} at {:.3f} m on '{}'", name, base::at(state.surfaces, d.surface).pose.along(i.x_m, i.y_m),
                       d.name);
}

bool take_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m) {
    const int i = find_item(model, state, device, along_m);
    if (i == kNone) return false;
    state.take_away(base::at(state.items, i));
    remove_gone(state);
    return true;
}

bool shift_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, Vector2 by) {
    const int i = find_item(model, state, device, along_m);
    if (i == kNone) return false;
    const DeviceModel& d = base::at(model.devices, device);
    const Heading heading = base::at(state.surfaces, d.surface).pose.heading;
    Item item = base::at(state.items, i);
    item.x_m += heading.cos * by.x_m - heading.sin * by.y_m;
    item.y_m += heading.sin * by.x_m + heading.cos * by.y_m;
    return change(model, state, i, item);
}

bool turn_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, double radians) {
    const int i = find_item(model, state, device, along_m);
    if (i == kNone) return false;
    Item item = base::at(state.items, i);
    item.heading = item.heading.turned(Heading::of(radians));
    return change(model, state, i, item);
}

bool swap_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, int type) {
    const int i = find_item(model, state, device, along_m);
    if (i == kNone) return false;
    Item item = base::at(state.items, i);
    become(item, model, type);
    return change(model, state, i, item);
}

}  // namespace vyard::plant
