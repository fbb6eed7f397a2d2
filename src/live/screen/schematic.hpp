// The plant in a terminal: the same Scene and Frame that the plan on paper is drawn from, in characters. A character is
// taken to be twice as high as it is wide.
#pragma once

#include "figures/scene.hpp"
#include "live/screen/surface.hpp"

namespace vyard::live {

/// Draws into `area`: the plan to scale, and below it what has no place in it and no hand on it (motors, valves,
/// pipes).
void draw_schematic(Surface& surface, const Area& area, const figures::Scene& scene, const figures::Frame& frame);

}  // namespace vyard::live
