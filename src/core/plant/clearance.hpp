// What room there is for an item, for hands and for devices that carry.
#pragma once

#include "core/plant/model.hpp"

namespace vyard::plant {

/// Whether a box would overlap an item, or a solid that is present; touching is free. `except` is an item that does not
/// count.
bool space_is_free(const PlantModel& model, const PlantState& state, const Item& item, int except = kNone);

/// How far item `i` can go along the unit vector `way`, at most `wanted_m`, before it touches anything.
double free_way_of_item(const PlantModel& model, const PlantState& state, std::size_t i, Vector2 way, double wanted_m);

/// Lowers item `i` by `way_m` (raises it, when negative) as far as what is under (or over) it lets it.
void sink_item(const PlantModel& model, PlantState& state, std::size_t i, double way_m);

}  // namespace vyard::plant
