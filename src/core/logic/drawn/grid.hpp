// The characters of a drawing in rows and columns, with the place of each in the source. Comments are taken out.
// ASCII and box-drawing characters mean the same from here on.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

enum LineLinks : std::uint8_t { kNoLink = 0, kLeft = 1, kRight = 2, kUp = 4, kDown = 8 };

struct Cell {
    char character = ' ';          ///< '?' for one that is neither ASCII nor a line.
    std::uint8_t links = kNoLink;  ///< Where a line could go on from here.
    bool drawn = false;            ///< A box-drawing character: never part of a text.
    std::uint32_t offset = 0;      ///< In the source.
    std::uint8_t size = 1;         ///< Bytes.

    bool blank() const { return character == ' '; }
    bool horizontal() const { return links == (kLeft | kRight); }
    bool vertical() const { return links == (kUp | kDown); }
    bool joint() const { return links != kNoLink && !horizontal() && !vertical(); }
};

class Grid {
  public:
    /// `text` stands at `offset` of the source, its first row in line `line`.
    Grid(std::string_view text, std::size_t offset, int line);

    int rows() const { return static_cast<int>(rows_.size()); }
    /// Columns of a row up to its last character that is not blank.
    int width(int row) const { return static_cast<int>(rows_[static_cast<std::size_t>(row)].size()); }
    int width() const { return width_; }
    /// Blank outside of the drawing.
    const Cell& at(int row, int column) const {
        static constexpr Cell kBlank{};
        if (row < 0 || row >= rows() || column < 0 || column >= width(row)) return kBlank;
        return rows_[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)];
    }
    /// Column of the first character that is not blank; -1 for none.
    int first(int row) const;
    /// The comment on a row, without its marks; "" for none.
    const std::string& comment(int row) const { return comments_[static_cast<std::size_t>(row)]; }
    bool commented(int row) const { return commented_[static_cast<std::size_t>(row)]; }
    /// A comment that began above goes on here.
    bool within_comment(int row) const { return within_[static_cast<std::size_t>(row)]; }
    /// The row as it is in the source.
    std::string written(int row) const;

    Span span(int row, int column, int columns = 1) const;
    /// The characters of [begin, end) of a row as they are in the source.
    DrawnText text(int row, int begin, int end) const;

  private:
    void add_row(std::string_view row, std::size_t offset, int& depth);

    std::string_view text_;
    std::size_t offset_;
    int line_;
    int width_ = 0;
    std::vector<std::vector<Cell>> rows_;
    std::vector<std::size_t> row_offsets_;  ///< From the drawing's own start.
    std::vector<std::string> comments_;
    std::vector<bool> commented_, within_;
};

}  // namespace vyard::logic
