// What a screen shows, as a grid of characters with meanings instead of colours: panels draw on it, a terminal paints
// it, tests read it. Knows nothing of terminals.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace vyard::live {

/// What a character means; a terminal has a colour for each, or an attribute where it has none.
enum class Ink : unsigned char {
    Plain,
    Dim,  ///< Of little weight: frames, hints.
    Title,
    True,    ///< Has power, runs, TRUE.
    Active,  ///< Seen, pressed, on.
    Alert,   ///< Faults, broken rules, what is in the way.
    Water,
    Light,  ///< Lit.
    Forced,
    Changed,  ///< Not long ago.
    Chosen,   ///< Where the keys act.
    Bar,      ///< The status line.
    Item,     ///< In the colour of Cell::rgb.
};

struct Cell {
    char32_t letter = U' ';
    Ink ink = Ink::Plain;
    unsigned rgb = 0;  ///< Of Ink::Item, 0xRRGGBB.

    bool operator==(const Cell&) const = default;
};

struct Area {
    int x = 0, y = 0, width = 0, height = 0;
    bool contains(int px, int py) const { return px >= x && px < x + width && py >= y && py < y + height; }
};

class Surface {
  public:
    Surface(int width, int height) : width_(width), height_(height), cells_(count()) {}

    int width() const { return width_; }
    int height() const { return height_; }
    const Cell& at(int x, int y) const { return cells_[index(x, y)]; }

    /// Outside of the grid, and of the clip, nothing is written.
    void put(int x, int y, Cell cell);
    /// UTF-8; what does not fit into `room` columns is cut off with "..". How many columns it took.
    int text(int x, int y, std::string_view text, Ink ink = Ink::Plain, int room = 1 << 20);
    void fill(const Area& area, Cell cell);
    /// Changes what the characters mean, and leaves them.
    void tint(const Area& area, Ink ink);
    /// A frame with a title in its upper line; what is inside.
    Area frame(const Area& area, std::string_view title, bool chosen);
    /// Only here is written from now on.
    void clip(const Area& area) { clip_ = area; }
    void unclip() { clip_ = {0, 0, width_, height_}; }

    /// A line as UTF-8, without blanks at its end.
    std::string line(int y) const;

  private:
    std::size_t count() const { return static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_); }
    std::size_t index(int x, int y) const {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x);
    }

    int width_, height_;
    std::vector<Cell> cells_;
    Area clip_{0, 0, width_, height_};
};

/// Letters of a UTF-8 text; what is no UTF-8 becomes a question mark.
std::u32string letters_of(std::string_view text);
std::string utf8_of(char32_t letter);
/// A stand-in of 7 bits for the box-drawing characters, blocks and marks that panels use; '?' for other letters.
char ascii_of(char32_t letter);
/// A block that is filled from below: 0 a line, 1 all of it.
char32_t bar_of(double share);
/// Columns of a text, one a letter.
int columns_of(std::string_view text);
/// Cut to so many columns.
std::string cut(std::string_view text, int columns);

}  // namespace vyard::live
