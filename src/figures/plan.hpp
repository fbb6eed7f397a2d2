// The plan of a plant at one instant of a run: to scale, with items, what runs, what is lit, levels, faults.
#pragma once

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// A page has a title, a legend and the faults; bare is the plan and the tiles alone, for small figures.
enum class PlanFrame : std::uint8_t { Page, Bare };

struct PlanView {
    double width = 1280, height = 800;  ///< Pixels.
    PlanFrame frame = PlanFrame::Page;
    std::string title{};  ///< "" for the yard's name.
};

/// Draws the plan on a page of its own.
std::unique_ptr<Canvas> draw_plan(const session::Session& session, const PlanView& view = {});

}  // namespace vyard::figures
