// What controllers that are executed elsewhere ask of one another by themselves, over the bus, in place of the plant's
// jumpers between them.
#pragma once

#include <string>
#include <vector>

#include "core/wiring/joins.hpp"

namespace vyard::wiring {

/// A controller that another one asks, as the yard names it.
struct Asked {
    std::string controller;
    base::Place place;
};

/// Marks the jumpers to controller `c` from those that it asks by itself. Reports names of none, those that cannot be
/// asked (nothing can connect to them), that no jumper leads from, and jumpers with a delay or a condition, which the
/// bus does not have.
void mark_direct(const std::vector<controller::ControllerModel>& controllers, int c, const std::vector<Asked>& asked,
                 Wiring& wiring, base::Diagnostics& diagnostics);

/// Once all register maps are there: what `c` reads from where. Where it is executed elsewhere, those jumpers are its
/// own business: they are taken off the wiring, and the tags they go to off its link.
void resolve_direct(std::vector<controller::ControllerModel>& controllers, int c, const std::vector<Asked>& asked,
                    Wiring& wiring, base::Diagnostics& diagnostics);

}  // namespace vyard::wiring
