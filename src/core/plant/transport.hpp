// What moves items: surfaces carry and turn them, solids stop and push them, gravity takes them when nothing carries
// them.
//
// Each step: solids push, surfaces turn, then each item finds what carries it, then each goes the way its support goes.
// The item in front goes first, so a queue moves as one; whoever would overlap stops at the touch. Who could touch whom
// comes from the lists of nearby.hpp. Cost: items x neighbours per step; a few additions for an item that has none.
#pragma once

#include "core/plant/model.hpp"

namespace vyard::plant {

/// Takes away what is gone, moves solids by what they want, as far as what they push lets them, then items.
void advance_transport(const PlantModel& model, PlantState& state, double dt_s);

/// Height of a surface under a point of the plan.
double surface_height(const SurfaceModel& surface, const SurfaceState& state, double x_m, double y_m);

/// Takes out the items that are marked gone; numbers in Item::below follow.
void remove_gone(PlantState& state);

/// Whether two stretches of height stand in each other's way.
inline bool same_height(double bottom_a_m, double top_a_m, double bottom_b_m, double top_b_m) {
    return bottom_a_m < top_b_m - kCatch_m && bottom_b_m < top_a_m - kCatch_m;
}
inline bool same_height(const PlantModel& model, const Item& a, const Item& b) {
    return same_height(a.z_m, model.top_m(a), b.z_m, model.top_m(b));
}
inline bool same_height(const PlantModel& model, const Item& a, const SolidModel& solid) {
    return same_height(a.z_m, model.top_m(a), solid.bottom_m, solid.top_m);
}

/// An item that lies across the edge of a surface, on a neighbour as well; null for none. For what raises, lowers or
/// turns the surface. Cost: items x neighbours of the surface.
const Item* item_across_edge(const PlantModel& model, const PlantState& state, int surface);

/// The way a driven surface carries what lies on it in a step.
inline Vector2 carried(const SurfaceState& s, double dt_s) {
    return s.pose.heading.ahead() * (s.speed_m_s * dt_s) + s.pose.heading.left() * (s.across_m_s * dt_s);
}

}  // namespace vyard::plant
