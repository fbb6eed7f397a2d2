// What is done to items besides carrying them: laid down, taken away, shifted, turned and swapped by hand or by
// devices.
#pragma once

#include <optional>
#include <string>

#include "core/plant/model.hpp"

namespace vyard::plant {

/// Makes it one of another type, of that one's colour.
void become(Item& item, const PlantModel& model, int type);

/// An item of `type` as it would lie at a place of a surface, with the surface's heading; not yet in the plant.
Item make_item(const PlantModel& model, const PlantState& state, int type, int surface, double along_m,
               double left_m = 0.0);

/// Puts an item of `type` on a device that carries, its middle `along_m` from the start. False when there is no room.
bool place_item(const PlantModel& model, PlantState& state, int type, int device, double along_m,
                std::optional<int> colour = std::nullopt, double left_m = 0.0, Heading turned = {});

/// The number of the item on `device` nearest to `along_m`, or the foremost when not given; of a device that grips the
/// one it holds; of kNone the one that lies longest on the floor. kNone when there is none, or, asked for one `near`,
/// none within its own length of the place.
int find_item(const PlantModel& model, const PlantState& state, int device, std::optional<double> along_m,
              bool near = true);
/// "brick 12 at 1.205 m on 'infeed'".
std::string item_text(const PlantModel& model, const PlantState& state, int item, int device);

/// Takes that item away. False when there is none.
bool take_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m);

/// Shifts that item along and to the left of its device's heading, or turns it; false when there is none or no room.
bool shift_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, Vector2 by);
bool turn_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, double radians);

/// Puts another type in the item's place; false when there is none or no room.
bool swap_item(const PlantModel& model, PlantState& state, int device, std::optional<double> along_m, int type);

}  // namespace vyard::plant
