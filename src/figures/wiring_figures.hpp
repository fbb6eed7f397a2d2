// Two figures of the wiring: the areas bit by bit with who takes them, and the modules of a rack with their terminals.
#pragma once

#include <memory>

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// A row a byte, bit 7 to bit 0; as long as the areas are. `controller` is one of the model's.
std::unique_ptr<Canvas> draw_addresses(const session::SessionModel& model, int controller);

/// A box a module, a line a channel: its number as faults name it, address, tag, point.
std::unique_ptr<Canvas> draw_rack(const session::SessionModel& model);

}  // namespace vyard::figures
