// Plan geometry: metres, x to the right, y up the page, z up from the floor. Bodies are boxes that stand at any heading
// in the plan and upright in height.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/plant/tuning.hpp"

namespace vyard::plant {

struct Vector2 {
    double x_m = 0.0, y_m = 0.0;

    friend Vector2 operator+(Vector2 a, Vector2 b) { return {a.x_m + b.x_m, a.y_m + b.y_m}; }
    friend Vector2 operator-(Vector2 a, Vector2 b) { return {a.x_m - b.x_m, a.y_m - b.y_m}; }
    friend Vector2 operator*(Vector2 a, double by) { return {a.x_m * by, a.y_m * by}; }
    bool operator==(const Vector2&) const = default;
};

inline double dot(Vector2 a, Vector2 b) {
    return a.x_m * b.x_m + a.y_m * b.y_m;
}
inline double length(Vector2 a) {
    return std::sqrt(dot(a, a));
}

inline Vector2 unit_or_zero(Vector2 a) {
    const double size = length(a);
    return size > 0.0 ? a * (1.0 / size) : Vector2{};
}

/// Where something looks: an angle from the x axis, counter-clockwise, kept as its cosine and sine. Quarter turns are
/// exact, so that rows of belts stay rows.
struct Heading {
    double cos = 1.0, sin = 0.0;

    static Heading of(double radians) {
        const double quarters = radians / (std::numbers::pi / 2.0);
        const double nearest = std::nearbyint(quarters);
        if (std::abs(quarters - nearest) < 1e-9) return quarter(static_cast<int>(nearest));
        return {std::cos(radians), std::sin(radians)};
    }
    static Heading quarter(int turns) {
        constexpr Heading kQuarters[] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
        return kQuarters[turns & 3];
    }
    Vector2 ahead() const { return {cos, sin}; }
    Vector2 left() const { return {-sin, cos}; }
    Heading turned(Heading by) const { return {cos * by.cos - sin * by.sin, sin * by.cos + cos * by.sin}; }
    double radians() const { return std::atan2(sin, cos); }
    bool operator==(const Heading&) const = default;
};

/// An upright rectangle in the plan that bounds others.
struct Rectangle {
    double x0_m = 0.0, y0_m = 0.0, x1_m = 0.0, y1_m = 0.0;
};

/// A rectangle at any heading.
struct OrientedBox {
    Vector2 centre;
    double half_length_m = 0.0, half_width_m = 0.0;  ///< Along and across the heading.
    Heading heading;

    double radius_m() const { return std::sqrt(half_length_m * half_length_m + half_width_m * half_width_m); }
    OrientedBox moved(Vector2 by) const { return {centre + by, half_length_m, half_width_m, heading}; }
    bool contains(Vector2 p) const {
        const Vector2 d = p - centre;
        return std::abs(dot(d, heading.ahead())) <= half_length_m && std::abs(dot(d, heading.left())) <= half_width_m;
    }
    /// A bound of the distance of a point: the farther of the two along the box's axes; negative inside.
    double distance_at_least(Vector2 p) const {
        const Vector2 d = p - centre;
        return std::max(std::abs(dot(d, heading.ahead())) - half_length_m,
                        std::abs(dot(d, heading.left())) - half_width_m);
    }
    std::array<Vector2, 4> corners() const {
        const Vector2 a = heading.ahead() * half_length_m, l = heading.left() * half_width_m;
        return {centre + a + l, centre + a - l, centre - a - l, centre - a + l};
    }
    Rectangle bounds() const {
        const double x = std::abs(heading.cos) * half_length_m + std::abs(heading.sin) * half_width_m;
        const double y = std::abs(heading.sin) * half_length_m + std::abs(heading.cos) * half_width_m;
        return {centre.x_m - x, centre.y_m - y, centre.x_m + x, centre.y_m + y};
    }
    /// Half of what it covers on a line of unit direction `axis`.
    double half_extent(Vector2 axis) const {
        return half_length_m * std::abs(dot(heading.ahead(), axis)) +
               half_width_m * std::abs(dot(heading.left(), axis));
    }
};

/// Whether two boxes overlap by more than `tolerance`, by the separating axis theorem (Gottschalk et al. 1996).
bool overlap(const OrientedBox& a, const OrientedBox& b, double tolerance);

/// A bound of the distance of two boxes: the widest gap along one of their axes; negative when they overlap.
double gap_at_least(const OrientedBox& a, const OrientedBox& b);

/// How far `body` can go along the unit vector `way` before it touches `other`; infinite when it never does. What it
/// overlaps already by more than kCatch_m does not hold it.
double free_way(const OrientedBox& body, const OrientedBox& other, Vector2 way);

/// The axis of the faces that meet first when `body` goes along `way` to `other`; of either sign.
Vector2 contact_normal(const OrientedBox& body, const OrientedBox& other, Vector2 way);

/// Where a device stands: the start of its centre line for surfaces, its own point for others.
struct Pose {
    double x_m = 0.0, y_m = 0.0, z_m = 0.0;
    Heading heading;

    Vector2 origin() const { return {x_m, y_m}; }
    /// `along` in front of the pose, `left` to its left.
    Vector2 at(double along_m, double left_m) const {
        return origin() + heading.ahead() * along_m + heading.left() * left_m;
    }
    /// The box from `from` to `to` along the heading, `right` to `left` across it.
    OrientedBox box(double from_m, double to_m, double right_m, double left_m) const {
        return {at((from_m + to_m) / 2.0, (left_m - right_m) / 2.0), (to_m - from_m) / 2.0, (left_m + right_m) / 2.0,
                heading};
    }
    /// Distance of a point in front of the pose, along its heading.
    double along(double x, double y) const { return dot(Vector2{x, y} - origin(), heading.ahead()); }
    /// Distance of a point to the left of the heading line.
    double left(double x, double y) const { return dot(Vector2{x, y} - origin(), heading.left()); }
};

}  // namespace vyard::plant
