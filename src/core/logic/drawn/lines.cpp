#include "core/logic/drawn/lines.hpp"

#include <numeric>

namespace vyard::logic {

Lines::Lines(const Grid& grid, Rows rows, const Shapes& shapes)
    : grid_(grid), rows_(rows), shapes_(shapes), width_(grid.width() + 1) {
    const int cells = (rows.last - rows.first) * width_ * 2;
    left_rail_ = cells;
    right_rail_ = cells + 1;
    parent_.resize(static_cast<std::size_t>(cells) + 2);
    std::iota(parent_.begin(), parent_.end(), 0);
    const auto each = [&](auto&& visit) {
        for (int r = rows_.first; r < rows_.last; ++r) {
            for (int c = 0; c < grid_.width(r); ++c) {
                if (line(r, c)) visit(r, c);
            }
        }
    };
    each([&](int r, int c) { join_cell(r, c); });
    each([&](int r, int c) { find_ends(r, c); });
}

int Lines::root(int node) const {
    while (parent_[static_cast<std::size_t>(node)] != node) {
        int& up = parent_[static_cast<std::size_t>(node)];
        up = parent_[static_cast<std::size_t>(up)];
        node = up;
    }
    return node;
}

void Lines::unite(int a, int b) {
    a = root(a);
    b = root(b);
    parent_[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
}

void Lines::join_cell(int row, int column) {
    const Cell& cell = grid_.at(row, column);
    if (cell.joint()) unite(across(row, column), upright(row, column));
    if (shapes_.in_rail(row, column)) {
        const int rail = column == shapes_.left_rail() ? left_rail_ : right_rail_;
        unite(across(row, column), rail);
        unite(upright(row, column), rail);
    }
    join_right(row, column);
    join_down(row, column);
}

/// Joins with what stands to the right, behind uprights that only cross; whether there is something.
bool Lines::join_right(int row, int column) {
    if (!has(row, column, kRight) && !(shapes_.in_rail(row, column) && line(row, column))) return false;
    int next = column + 1;
    while (line(row, next) && grid_.at(row, next).vertical() && !shapes_.in_rail(row, next)) ++next;
    const bool rail = line(row, next) && shapes_.in_rail(row, next);
    if (!has(row, next, kLeft) && !rail) return false;
    if (next > column + 1 && shapes_.in_rail(row, column)) return false;
    if (shapes_.in_rail(row, column) && rail) return false;
    unite(across(row, column), across(row, next));
    return true;
}

/// The same downwards; at least one of the ends must be an upright, as a '+' over a '-' does not touch it.
bool Lines::join_down(int row, int column) {
    if (!has(row, column, kDown)) return false;
    int next = row + 1;
    while (line(next, column) && grid_.at(next, column).horizontal() && !shapes_.in_rail(row, column)) ++next;
    if (!has(next, column, kUp)) return false;
    if (next > row + 1 && !grid_.at(row, column).vertical() && !grid_.at(next, column).vertical()) return false;
    unite(upright(row, column), upright(next, column));
    return true;
}

int Lines::line_at(int row, int column, LineLinks link) const {
    if (!line(row, column)) return -1;
    if (!shapes_.in_rail(row, column) && (grid_.at(row, column).links & link) == 0) return -1;
    return root(across(row, column));
}

/// Whether the shape at (row, column) has a side for a line that comes from `beside`.
bool Lines::pin_side(int row, int column, int beside) const {
    const int number = shapes_.owner(row, column);
    if (number < 0) return false;
    const DrawnElement& e = base::at(shapes_.elements, number);
    if (e.kind != ElementKind::Box || e.height == 0) return true;
    const bool within = row > e.row && row < e.row + e.height - 1;
    return within && (beside < e.column || beside >= e.column + e.width);
}

bool Lines::reaches_side(int row, int column, bool left) const {
    const int step = left ? -1 : 1;
    int next = column + step;
    if (pin_side(row, next, column)) return true;
    while (line(row, next) && grid_.at(row, next).vertical() && !shapes_.in_rail(row, next)) next += step;
    if (next != column + step && shapes_.in_rail(row, column)) return false;
    return has(row, next, left ? kRight : kLeft) || (line(row, next) && shapes_.in_rail(row, next));
}

bool Lines::reaches_up(int row, int column) const {
    int next = row - 1;
    while (line(next, column) && grid_.at(next, column).horizontal()) --next;
    if (!has(next, column, kDown)) return false;
    return next == row - 1 || grid_.at(row, column).vertical() || grid_.at(next, column).vertical();
}

bool Lines::reaches_down(int row, int column) const {
    int next = row + 1;
    while (line(next, column) && grid_.at(next, column).horizontal()) ++next;
    if (!has(next, column, kUp)) return false;
    return next == row + 1 || grid_.at(row, column).vertical() || grid_.at(next, column).vertical();
}

std::uint8_t Lines::sides(int row, int column) const {
    const Cell& cell = grid_.at(row, column);
    const bool rail = shapes_.in_rail(row, column);
    if (!rail && !cell.joint()) return cell.links;
    int out = 0;
    // What touches a rail is joined to it, whatever character it is.
    const bool left = (rail || (cell.links & kLeft) != 0) && reaches_side(row, column, true);
    const bool right = (rail || (cell.links & kRight) != 0) && reaches_side(row, column, false);
    if (left && !(rail && column == shapes_.left_rail())) out |= kLeft;
    if (right && !(rail && column != shapes_.left_rail())) out |= kRight;
    if ((cell.links & kUp) != 0 && (reaches_up(row, column) || (rail && cell.vertical()))) out |= kUp;
    if ((cell.links & kDown) != 0 && (reaches_down(row, column) || (rail && cell.vertical()))) out |= kDown;
    return static_cast<std::uint8_t>(out);
}

void Lines::find_ends(int row, int column) {
    const Cell& cell = grid_.at(row, column);
    if (shapes_.in_rail(row, column)) return;
    if (cell.horizontal()) {
        if (!reaches_side(row, column, true)) loose.push_back({row, column, true});
        if (!reaches_side(row, column, false)) loose.push_back({row, column, false});
        return;
    }
    if (cell.vertical()) {
        if (!reaches_up(row, column) || !reaches_down(row, column)) broken.emplace_back(row, column);
        return;
    }
    // A '+' joins what touches it; a character with sides of its own needs them all.
    int sides = 0, wanted = 0;
    const auto count = [&](std::uint8_t link, bool there) {
        if ((cell.links & link) == 0) return;
        ++wanted;
        sides += there ? 1 : 0;
    };
    count(kLeft, reaches_side(row, column, true));
    count(kRight, reaches_side(row, column, false));
    count(kUp, reaches_up(row, column));
    count(kDown, reaches_down(row, column));
    if (cell.drawn ? sides < wanted : sides < 2) broken.emplace_back(row, column);
}

}  // namespace vyard::logic
