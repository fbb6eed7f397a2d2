// What moves items: surfaces carry them, solids stop and push them, gravity takes them when nothing carries them.
//
// Items and solids are boxes along the axes; each step moves x, then y. Along an axis the item in front goes first, so
// a queue moves as one; whoever would overlap stops at the touch. Cost: items x (items + solids) per step.
#pragma once

#include "core/plant/model.hpp"

namespace vyard::plant {

/// Moves solids by what they want, as far as what they push lets them, then items.
void advance_transport(const PlantModel& model, PlantState& state, double dt_s);

/// Height of a surface under a point of the plan.
double surface_height(const SurfaceModel& surface, const SurfaceState& state, double x_m, double y_m);

/// Whether a box would overlap an item, or a solid that is present; touching is free.
bool space_is_free(const PlantModel& model, const PlantState& state, const Item& item);

inline Rectangle footprint(const Item& item) {
    return {item.x_m - item.half_x_m, item.y_m - item.half_y_m, item.x_m + item.half_x_m, item.y_m + item.half_y_m};
}

}  // namespace vyard::plant
