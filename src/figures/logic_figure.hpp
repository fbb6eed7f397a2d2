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

struct LogicFigure {
    bool state = false;      ///< With power and values.
    bool addresses = false;  ///< Above the names of tags that have one.
};

/// One unit below the other, each from a new page where there are pages.
std::unique_ptr<Canvas> draw_logic(const session::Session& session, const std::vector<LogicUnit>& units,
                                   LogicFigure what);

}  // namespace vyard::figures
