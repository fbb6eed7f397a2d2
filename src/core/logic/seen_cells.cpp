#include "core/logic/seen_cells.hpp"

#include "core/logic/drawn/grid.hpp"

namespace vyard::logic {

SeenCells::SeenCells(const SeenNetwork& seen) : seen_(seen) {
    for (const DrawnCell& c : seen.network->cells) cells_[{c.row, c.column}] = &c;
}

const DrawnCell* SeenCells::line_at(int row, int column) const {
    const auto found = cells_.find({row, column});
    return found == cells_.end() ? nullptr : found->second;
}

const DrawnElement* SeenCells::symbol_at(int row, int column) const {
    for (const DrawnElement& e : seen_.network->elements) {
        const bool symbol = e.kind == ElementKind::Contact || e.kind == ElementKind::Coil || e.kind == ElementKind::Box;
        if (symbol && row >= e.row && row < e.row + e.height && column >= e.column && column < e.column + e.width)
            return &e;
    }
    return nullptr;
}

bool SeenCells::on(const DrawnElement& e) const {
    return seen_.state(static_cast<int>(&e - seen_.network->elements.data())) == Live::On;
}

bool SeenCells::across(const DrawnCell& cell) {
    return cell.sides == (kLeft | kRight);
}

bool SeenCells::live(const DrawnCell& cell, bool upright) const {
    return upright ? carries(cell.upright) : carries(cell.across) && fed(cell);
}

/// Right behind an open contact a line is dead up to the joint at which others feed it.
bool SeenCells::fed(const DrawnCell& cell) const {
    int column = cell.column;
    if (!across(cell)) return true;
    const DrawnCell* line = &cell;
    while (line != nullptr && across(*line)) line = line_at(cell.row, --column);
    const DrawnElement* e = line != nullptr ? nullptr : symbol_at(cell.row, column);
    if (e == nullptr || e->kind != ElementKind::Contact || base::at(seen_.network->nets, cell.across).from.size() < 2)
        return true;
    return carries(e->pins[0].net) && on(*e);
}

}  // namespace vyard::logic
