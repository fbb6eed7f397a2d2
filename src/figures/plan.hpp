// The plan of a plant at one instant of a run: to scale, with items, what runs, what is lit, levels, faults.
#pragma once

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// A page has a title, a legend and the faults; bare is the plan and the tiles alone, for small figures.
enum class PlanFrame : std::uint8_t { Page, Bare };

/// Draws the plan on a page of its own, `width` x `height` pixels.
std::unique_ptr<Canvas> draw_plan(const session::Session& session, double width = 1280, double height = 800,
                                  PlanFrame frame = PlanFrame::Page);

}  // namespace vyard::figures
