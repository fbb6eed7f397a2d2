#include "core/plant/clearance.hpp"

#include <limits>

#include "core/plant/transport.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

bool space_is_free(const PlantModel& model, const PlantState& state, const Item& item, int except) {
    const auto clear = [&](const Item& other) {
        const double reach = model.form_of(item).radius_m + model.form_of(other).radius_m, dx = other.x_m - item.x_m,
                     dy = other.y_m - item.y_m;
        return other.gone || dx * dx + dy * dy >= reach * reach || !same_height(model, item, other) ||
               !overlap(model.footprint(item), model.footprint(other), kTouch_m);
    };
    for (std::size_t i = 0; i < state.items.size(); ++i) {
        if (static_cast<int>(i) != except && !clear(state.items[i])) return false;
    }
    for (std::size_t s = 0; s < model.solids.size(); ++s) {
        if (state.solids[s].present && same_height(model, item, model.solids[s]) &&
            overlap(model.footprint(item), model.solids[s].now(state.solids[s]), kTouch_m))
            return false;
    }
    return true;
}

namespace {

/// Calls f(other) for each item that could be met by item `i` within the life of the lists, and for those that came
/// after the lists were made; g(solid) for each solid that is present. Cost: neighbours.
template <class F, class G>
void each_close(const PlantModel& model, const PlantState& state, std::size_t i, F f, G g) {
    const std::size_t listed = state.near.listed();
    const auto solid = [&](std::size_t s) {
        if (state.solids[s].present) g(s);
    };
    if (i >= listed) {
        for (std::size_t j = 0; j < state.items.size(); ++j) {
            if (j != i) f(state.items[j]);
        }
        for (std::size_t s = 0; s < model.solids.size(); ++s) solid(s);
        return;
    }
    for (const int j : state.near.items(i)) f(base::at(state.items, j));
    for (std::size_t j = listed; j < state.items.size(); ++j) f(state.items[j]);
    for (const int s : state.near.solids(i)) solid(static_cast<std::size_t>(s));
}

}  // namespace

double free_way_of_item(const PlantModel& model, const PlantState& state, std::size_t i, Vector2 way, double wanted_m) {
    const Item& item = state.items[i];
    const OrientedBox body = model.footprint(item);
    double allowed = wanted_m;
    each_close(
        model, state, i,
        [&](const Item& other) {
            if (same_height(model, item, other))
                allowed = std::min(allowed, free_way(body, model.footprint(other), way));
        },
        [&](std::size_t s) {
            if (same_height(model, item, model.solids[s]))
                allowed = std::min(allowed, free_way(body, model.solids[s].now(state.solids[s]), way));
        });
    return allowed;
}

void sink_item(const PlantModel& model, PlantState& state, std::size_t i, double way_m) {
    Item& item = state.items[i];
    const OrientedBox body = model.footprint(item);
    double low_m = 0.0, high_m = std::numeric_limits<double>::infinity();
    const auto meet = [&](const OrientedBox& area, double bottom_m, double top_m) {
        if (!overlap(body, area, kTouch_m)) return;
        if (top_m <= item.z_m + kCatch_m) low_m = std::max(low_m, top_m);
        if (bottom_m >= model.top_m(item) - kCatch_m)
            high_m = std::min(high_m, bottom_m - model.form_of(item).height_m);
    };
    each_close(
        model, state, i,
        [&](const Item& other) {
            if (!other.gone) meet(model.footprint(other), other.z_m, model.top_m(other));
        },
        [&](std::size_t s) {
            meet(model.solids[s].now(state.solids[s]), model.solids[s].bottom_m, model.solids[s].top_m);
        });
    for (std::size_t s = 0; s < model.surfaces.size(); ++s) {
        if (!model.surfaces[s].contains(state.surfaces[s], item.x_m, item.y_m)) continue;
        const double height_m = surface_height(model.surfaces[s], state.surfaces[s], item.x_m, item.y_m);
        if (height_m <= item.z_m + kStepUp_m) low_m = std::max(low_m, std::min(height_m, item.z_m));
    }
    item.z_m = way_m > 0.0 ? std::max(item.z_m - way_m, std::min(low_m, item.z_m))
                           : std::min(item.z_m - way_m, std::max(high_m, item.z_m));
}

}  // namespace vyard::plant
