// Figures of the wiring: the areas bit by bit with who takes them, the modules of a rack with their terminals, and the
// registers of links.
#pragma once

#include <memory>

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// A row a byte, bit 7 to bit 0; as long as the areas are. `controller` is one of the model's.
std::unique_ptr<Canvas> draw_addresses(const session::SessionModel& model, int controller);

/// A box a module, a line a channel: its number as faults name it, address, tag, point.
std::unique_ptr<Canvas> draw_rack(const session::SessionModel& model);

/// The four tables of each controller that has a link, side by side, a line a tag: its numbers from 0 and from 1, what
/// goes which way, and what lies free between.
std::unique_ptr<Canvas> draw_registers(const session::SessionModel& model);

/// What these have in common: the heads of their pages, and what colours mean at the foot.
void figure_title(Canvas& canvas, const std::string& name, const std::string& what);
void figure_legend(Canvas& canvas, const std::vector<std::pair<Colour, std::string>>& colours);

}  // namespace vyard::figures
