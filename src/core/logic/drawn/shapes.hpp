// What stands in the rows of one network: boxes, contacts, coils, words; and which characters are lines.
#pragma once

#include "core/logic/drawn/grid.hpp"

namespace vyard::logic {

/// Rows of the grid, first to one behind the last.
struct Rows {
    int first = 0, last = 0;
};

struct Word {
    int row = 0, begin = 0, end = 0;  ///< Columns, one behind the last.
    bool claimed = false;
};

class Shapes {
  public:
    Shapes(const Grid& grid, Rows rows, DrawnForm form);

    enum class Use : std::uint8_t { Blank, Text, Line, Shape };
    Use use(int row, int column) const { return within(row, column) ? place(row, column).use : Use::Blank; }
    /// The element that takes up a place; -1 for none.
    int owner(int row, int column) const { return within(row, column) ? place(row, column).owner : -1; }

    int left_rail() const { return left_rail_; }    ///< Its column; -1 for none.
    int right_rail() const { return right_rail_; }  ///< Its column; -1 for none.
    /// Whether the place is part of a rail. A right rail may be ragged by a column or two.
    bool in_rail(int row, int column) const {
        if (column < 0 || row < rows_.first || row >= rows_.last) return false;
        return column == left_rail_ || column == right_ends_[static_cast<std::size_t>(row - rows_.first)];
    }

    std::vector<DrawnElement> elements;  ///< Boxes, contacts and coils, without names.
    std::vector<Word> words;
    std::vector<std::pair<int, int>> crooked;  ///< Where the side of what should be a box is missing: row, column.

  private:
    struct Taken {
        Use use = Use::Blank;
        int owner = -1;
    };
    bool within(int row, int column) const {
        return row >= rows_.first && row < rows_.last && column >= 0 && column < width_;
    }
    const Taken& place(int row, int column) const { return base::at(taken_, (row - rows_.first) * width_ + column); }
    Taken& taken(int row, int column) { return base::at(taken_, (row - rows_.first) * width_ + column); }
    void take(int row, int begin, int end, int element);
    void find_boxes();
    bool box_at(int row, int column);
    bool crooked_box(int top, int left, int right);
    int lower_edge(int top, int left, int right, int& order) const;
    void find_rails();
    void find_symbols(int row);
    void add_symbol(DrawnElement symbol, int row, int begin, int end);
    bool contact_at(int row, int column);
    bool coil_at(int row, int column);
    bool beside_line(int row, int column, std::uint8_t link) const;
    void find_lines();
    bool single_line(int row, int column) const;
    bool joins(int row, int column) const;
    void find_words(int row);

    const Grid& grid_;
    Rows rows_;
    DrawnForm form_;
    int width_;
    int left_rail_ = -1, right_rail_ = -1;
    std::vector<int> right_ends_;  ///< By row: the column of the right rail there; -1 for none.
    std::vector<Taken> taken_;
};

}  // namespace vyard::logic
