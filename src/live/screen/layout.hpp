// Which panels there are, and where: shown, hidden, alone, wider. Remembered beside the yard.
#pragma once

#include <array>
#include <string>

#include "live/screen/surface.hpp"

namespace vyard::live {

enum class Panel : int { Plant, Watch, Logic, Operator, Messages };
constexpr int kPanels = 5;

struct Layout {
    std::array<bool, kPanels> shown{true, true, true, true, true};
    double left = 0.60;       ///< Share of the width: plant and logic; watch list and operator's panel have the rest.
    double upper_left = 0.5;  ///< Share of the height of the left side that the plant has, beside logic.
    double upper_right = 0.5;
    double messages = 0.22;          ///< Share of the height.
    bool alone = false;              ///< The chosen panel has all of the screen.
    Panel last_left = Panel::Plant;  ///< Of plant and logic, where there is room for one alone.

    /// As text for a file, and back; what is wrong in it is left as it is.
    std::string text() const;
    void read(const std::string& text);
};

struct Placed {
    std::array<Area, kPanels> areas{};  ///< Of width 0: not on the screen now.
    int prompt_y = 0, status_y = 0;
    bool too_small = false;  ///< Prompt and status alone.

    const Area& of(Panel p) const { return areas[static_cast<std::size_t>(p)]; }
    bool has(Panel p) const { return of(p).width > 0; }
};

constexpr int kLeastWidth = 40, kLeastHeight = 10;  ///< For any panel.

/// Where everything stands on a screen of that size; `chosen` is shown if any is.
Placed place(const Layout& layout, int width, int height, Panel chosen);

}  // namespace vyard::live
