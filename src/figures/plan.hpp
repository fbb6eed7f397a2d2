// The plan of a plant at one instant of a run: to scale, with items, what runs, what is lit, levels, faults.
#pragma once

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// Draws the plan on a page of its own, `width` x `height` pixels.
std::unique_ptr<Canvas> draw_plan(const session::Session& session, double width = 1280, double height = 800);

}  // namespace vyard::figures
