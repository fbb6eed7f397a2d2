// The pieces that a figure of logic is put together from: networks, charts, lines of text. Each knows its size before
// it is drawn, so that pages can be divided between pieces.
#pragma once

#include <functional>
#include <map>
#include <set>

#include "core/logic/logic.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

struct Piece {
    double width = 0, height = 0;
    bool new_page = false;                                  ///< Starts one, where there are pages.
    std::function<void(Canvas&, double x, double y)> draw;  ///< `x`, `y`: its upper left corner.
};

/// What is shown beside the logic itself.
struct LogicMarks {
    bool state = false;                                           ///< Power and values; else the logic alone.
    std::map<std::string, std::string> forced;                    ///< Values by folded names.
    std::function<std::string(const std::string& name)> address;  ///< Above names, where it gives one; null for none.
    std::function<std::string(const std::string& name)> description;  ///< Below symbols likewise.
    std::vector<logic::CoverGap> gaps;                                ///< Never exercised.

    /// What was never done at a place of the source, and the first of a line if `column` is 0; "" for nothing.
    std::string gap(int line, int column = 0) const;
};

/// A mark of what changed, or was never exercised, around a symbol.
void mark_box(Canvas& canvas, const Box& box, Colour colour);

/// Columns and rows of a drawing are this far apart.
constexpr double kColumn = 8.4, kRow = 25;

Piece network_piece(const logic::Grid& grid, const logic::SeenNetwork& seen, const LogicMarks& marks);
Piece chart_piece(const logic::SeenChart& chart, const LogicMarks& marks);
Piece text_piece(const std::vector<logic::SeenLine>& lines, const LogicMarks& marks);

/// Live lines and what is TRUE.
inline constexpr Colour kLive = palette::kGreen;
inline constexpr Colour kValue = palette::kBlue;
inline constexpr Colour kForced = palette::kYellow;
inline constexpr Colour kChanged{0.60, 0.24, 0.48};  // a darker purple, for letters
inline constexpr Colour kNever = palette::kVermilion;

}  // namespace vyard::figures
