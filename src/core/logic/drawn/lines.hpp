// Which lines of a network are one: '+' joins, '|' and '-' that meet do not, rails are one line each.
#pragma once

#include <vector>

#include "core/logic/drawn/shapes.hpp"

namespace vyard::logic {

/// An end of a horizontal line at which nothing drawn stands.
struct LooseEnd {
    int row = 0, column = 0;
    bool left = false;  ///< Its left end, else its right one.
};

class Lines {
  public:
    Lines(const Grid& grid, Rows rows, const Shapes& shapes);

    /// The line that leaves (row, column) by `link`, as a number; -1 when none does. `link` is the side that is asked
    /// for: kRight for what would go on to the right of it.
    int line_at(int row, int column, LineLinks link) const;
    /// The lines that a cell belongs to, across and upright; -1 twice for what is no line.
    std::pair<int, int> lines_of(int row, int column) const {
        if (!line(row, column)) return {-1, -1};
        return {root(across(row, column)), root(upright(row, column))};
    }
    /// To which sides the line of a cell goes on, as LineLinks.
    std::uint8_t sides(int row, int column) const;
    int left_rail() const { return root(left_rail_); }
    int right_rail() const { return root(right_rail_); }

    std::vector<LooseEnd> loose;
    std::vector<std::pair<int, int>> broken;  ///< Joints and uprights that end nowhere: row, column.

  private:
    int across(int row, int column) const { return ((row - rows_.first) * width_ + column) * 2; }
    int upright(int row, int column) const { return across(row, column) + 1; }
    int root(int node) const;
    void unite(int a, int b);
    bool line(int row, int column) const { return shapes_.use(row, column) == Shapes::Use::Line; }
    bool has(int row, int column, std::uint8_t link) const {
        return line(row, column) && (grid_.at(row, column).links & link) != 0;
    }
    void join_cell(int row, int column);
    bool join_right(int row, int column);
    bool join_down(int row, int column);
    bool pin_side(int row, int column, int beside) const;
    void find_ends(int row, int column);
    bool reaches_up(int row, int column) const;
    bool reaches_down(int row, int column) const;
    bool reaches_side(int row, int column, bool left) const;

    const Grid& grid_;
    Rows rows_;
    const Shapes& shapes_;
    int width_;
    int left_rail_, right_rail_;
    mutable std::vector<int> parent_;
};

}  // namespace vyard::logic
