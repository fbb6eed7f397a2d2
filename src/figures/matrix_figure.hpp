// A matrix of outcomes: a row a fault, a column a procedure, a coloured field each; in as many blocks beside one
// another as the page has room for.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "figures/canvas.hpp"

namespace vyard::figures {

struct MatrixFigure {
    std::string title, subtitle;
    std::vector<std::string> rows, columns;
    std::vector<std::vector<std::string>> cells;  ///< [row][column], an outcome or "".
    std::vector<std::string> outcomes;            ///< From the worst on: they have the colours, in this order.
};

std::unique_ptr<Canvas> draw_matrix(const MatrixFigure& figure);

}  // namespace vyard::figures
