// Where power stands in a drawing, character by character: what its pictures, in a terminal or on paper, have in
// common.
#pragma once

#include <map>

#include "core/logic/seen.hpp"

namespace vyard::logic {

/// Valid as long as the network that it was made of.
class SeenCells {
  public:
    explicit SeenCells(const SeenNetwork& seen);

    /// The line at a place; null for none.
    const DrawnCell* line_at(int row, int column) const;
    /// The contact, coil or box at a place; null for none.
    const DrawnElement* symbol_at(int row, int column) const;
    /// Whether the line has power there. Where lines cross it is the one across that is meant, or the upright one.
    bool live(const DrawnCell& cell, bool upright) const;
    /// The upright part of a cell where it has one, else the other.
    bool live(const DrawnCell& cell) const { return live(cell, !across(cell)); }
    bool on(const DrawnElement& e) const;

  private:
    static bool across(const DrawnCell& cell);
    bool carries(int net) const { return net >= 0 && base::at(seen_.nets, net) == Live::On; }
    bool fed(const DrawnCell& cell) const;

    const SeenNetwork& seen_;
    std::map<std::pair<int, int>, const DrawnCell*> cells_;
};

}  // namespace vyard::logic
