// Plan geometry: metres, x to the right, y up the page, z up from the floor. Headings are quarter turns
// (0 = +x, 1 = +y, 2 = -x, 3 = -y), so that every body is a box along the axes.
#pragma once

#include <algorithm>
#include <cmath>

namespace vyard::plant {

struct Vector2 {
    double x_m = 0.0, y_m = 0.0;
};

/// Unit vector of a heading.
inline Vector2 direction(int quarter_turns) {
    constexpr Vector2 kUnits[] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
    return kUnits[quarter_turns & 3];
}

/// A rectangle along the axes.
struct Rectangle {
    double x0_m = 0.0, y0_m = 0.0, x1_m = 0.0, y1_m = 0.0;

    bool contains(double x, double y) const { return x >= x0_m && x <= x1_m && y >= y0_m && y <= y1_m; }
    bool overlaps(const Rectangle& o, double tolerance) const {
        return x0_m < o.x1_m - tolerance && o.x0_m < x1_m - tolerance && y0_m < o.y1_m - tolerance &&
               o.y0_m < y1_m - tolerance;
    }
};

/// Where a device stands: the start of its centre line for surfaces, its own point for others.
struct Pose {
    double x_m = 0.0, y_m = 0.0, z_m = 0.0;
    int heading = 0;

    /// `along` in front of the pose, `left` to its left.
    Vector2 at(double along_m, double left_m) const {
        const Vector2 ahead = direction(heading), side = direction(heading + 1);
        return {x_m + ahead.x_m * along_m + side.x_m * left_m, y_m + ahead.y_m * along_m + side.y_m * left_m};
    }
    /// The rectangle from `from` to `to` along the heading, `right` to `left` across it.
    Rectangle box(double from_m, double to_m, double right_m, double left_m) const {
        const Vector2 a = at(from_m, -right_m), b = at(to_m, left_m);
        return {std::min(a.x_m, b.x_m), std::min(a.y_m, b.y_m), std::max(a.x_m, b.x_m), std::max(a.y_m, b.y_m)};
    }
    /// Distance of a point in front of the pose, along its heading.
    double along(double x, double y) const {
        const Vector2 ahead = direction(heading);
        return (x - x_m) * ahead.x_m + (y - y_m) * ahead.y_m;
    }
    /// Distance of a point to the left of the heading line.
    double left(double x, double y) const {
        const Vector2 side = direction(heading + 1);
        return (x - x_m) * side.x_m + (y - y_m) * side.y_m;
    }
};

}  // namespace vyard::plant
