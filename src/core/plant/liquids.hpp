// Liquids in tanks: how much, how warm, and of what mixture. Ideal mixing: what flows in is spread at once.
#pragma once

#include "core/plant/step.hpp"

namespace vyard::plant {

/// Level in a tank above its bottom, m: volume over cross-section, or by its table.
double tank_level_m(const PlantModel& model, const PlantState& state, int tank);

/// The level at its rim, m.
double highest_level_m(const PlantModel& model, int tank);

/// Adds liquid to a tank. Volumes add, and temperature and concentration are means by volume (one liquid of constant
/// density and heat capacity).
void add_liquid(Liquid& to, double volume_m3, double temperature_c, double concentration);

/// Moves up to `volume_m3` from one tank to another; kNone is a supply of liquid at 20 degC without what is dissolved,
/// or the drain. What could be moved.
double move_liquid(Step& step, int from, int into, double volume_m3);

}  // namespace vyard::plant
