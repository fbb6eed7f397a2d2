// Drawn logic as lines of text, with what it shows at one moment: lines that have power are heavy, contacts that let
// it pass have heavy bars, coils whose variable is TRUE are filled.
#pragma once

#include <string>

#include "core/logic/logic.hpp"

namespace vyard::report {

struct LogicTextStyle {
    bool ascii = false;       ///< Without box-drawing characters: = and # have power.
    std::size_t columns = 0;  ///< Lines of text are cut so that their values begin within so many; 0 for no limit.
};

/// Each network under its heading, and below it the values that stand at its lines and boxes. Cost: the characters of
/// the drawing.
std::string drawing_text(const logic::SeenDrawing& drawing, LogicTextStyle style);

/// A whole unit: its chart, its drawings, and its lines of text with the values of their names to the right.
std::string unit_text(const logic::SeenUnit& unit, LogicTextStyle style);

}  // namespace vyard::report
