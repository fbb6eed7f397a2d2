// Drawn logic as lines of text, with what it shows at one moment: lines that have power are heavy, contacts that let
// it pass have heavy bars, coils whose variable is TRUE are filled.
#pragma once

#include <string>

#include "core/logic/logic.hpp"

namespace vyard::report {

struct LogicTextStyle {
    bool ascii = false;  ///< Without box-drawing characters: = and # have power.
};

/// One network under its heading, and below it the values that stand at its lines and boxes.
std::string network_text(const logic::SeenDrawing& drawing, const logic::SeenNetwork& network, LogicTextStyle style);

}  // namespace vyard::report
