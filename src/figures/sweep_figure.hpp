// The outcomes of a sweep: a column a value, a row a procedure (or a value of a second name), a coloured field each.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

struct SweepFigure {
    std::string title;
    std::vector<std::string> notes;  ///< Under the title: margins.
    std::string x_name, y_name;      ///< "dip_eye.at, m"
    std::vector<double> x;
    std::vector<std::string> rows;
    std::vector<std::vector<std::string>> cells;  ///< [row][column]: passed, failed, cannot be built, or "".
    std::optional<std::size_t> present;           ///< The column of the value as it is in the yard.
};

std::unique_ptr<Canvas> draw_sweep(const SweepFigure& figure);

}  // namespace vyard::figures
