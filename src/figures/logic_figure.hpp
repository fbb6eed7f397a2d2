// Logic on paper: networks, charts and text of program units, with their power flow and values at one time of a run.
#pragma once

#include "core/session/session.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

struct LogicUnit {
    int controller = 0;
    std::string path;  ///< Within the controller.
    std::string name;  ///< As people give it: with the controller where there are several.
};

/// All units that have a body, or of which something is `drawn`, controller by controller.
std::vector<LogicUnit> logic_units(const session::SessionModel& model, bool drawn);

struct LogicFigure {
    std::string title{};                                     ///< Above it all; "" for none.
    bool state = false;                                      ///< With power and values.
    bool addresses = false;                                  ///< Above the names of tags that have one.
    bool descriptions = false;                               ///< Below the symbols of tags that have one.
    const session::Session* before = nullptr;                ///< Marks what was not so then; null for none.
    const std::vector<logic::Coverage>* coverage = nullptr;  ///< By controller: marks what was never exercised.
};

/// What a unit shows, with marks of what was not so at an earlier time, unless that is null.
std::optional<logic::SeenUnit> seen_at(const session::Session& session, const LogicUnit& unit,
                                       const session::Session* before);

/// One unit below the other, each from a new page where there are pages.
std::unique_ptr<Canvas> draw_logic(const session::Session& session, const std::vector<LogicUnit>& units,
                                   LogicFigure what);

}  // namespace vyard::figures
