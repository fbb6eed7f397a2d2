// An example of each kind of device: what a plant file says of it, and a small figure of it at work. For the reference.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

struct KindExample {
    std::string_view kind;
    std::string_view text;                ///< Its own table of plant.toml, as the reference shows it.
    std::string_view around;              ///< What else the figure needs.
    std::vector<std::string_view> drive;  ///< Points that are TRUE, or "point=value", from the start.
    double after_s = 1.0;                 ///< When the figure is drawn.
};

const std::vector<KindExample>& kind_examples();
/// Null when there is none of that name.
const KindExample* find_kind_example(std::string_view kind);

std::unique_ptr<Canvas> draw_kind(const KindExample& example);

}  // namespace vyard::figures
