#include "core/plant/geometry.hpp"

namespace vyard::plant {

namespace {

constexpr double kParallel = 1e-9;  ///< Of a sine: below this two directions count as one.

/// The span of way over which two boxes overlap, narrowed axis by axis.
struct Sweep {
    double enter = -std::numeric_limits<double>::infinity();
    double exit = std::numeric_limits<double>::infinity();

    /// On an axis: distance of the centres, reach of both, speed of approach per way. False when they never meet.
    bool narrow(double distance, double reach, double speed) {
        if (std::abs(speed) < kParallel) return std::abs(distance) < reach - kTouch_m;
        const double near = (distance - reach) / speed, far = (distance + reach) / speed;
        enter = std::max(enter, std::min(near, far));
        exit = std::min(exit, std::max(near, far));
        return true;
    }
};

/// Calls f(axis, reach of both) for each axis that can separate the boxes, until it returns false.
template <class F>
bool all_axes(const OrientedBox& a, const OrientedBox& b, F f) {
    const Vector2 along = a.heading.ahead(), across = a.heading.left();
    const double sine = a.heading.cos * b.heading.sin - a.heading.sin * b.heading.cos;
    const double cosine = a.heading.cos * b.heading.cos + a.heading.sin * b.heading.sin;
    if (std::abs(sine) < kParallel)
        return f(along, a.half_length_m + b.half_length_m) && f(across, a.half_width_m + b.half_width_m);
    if (std::abs(cosine) < kParallel)
        return f(along, a.half_length_m + b.half_width_m) && f(across, a.half_width_m + b.half_length_m);
    return f(along, a.half_length_m + b.half_extent(along)) && f(across, a.half_width_m + b.half_extent(across)) &&
           f(b.heading.ahead(), b.half_length_m + a.half_extent(b.heading.ahead())) &&
           f(b.heading.left(), b.half_width_m + a.half_extent(b.heading.left()));
}

}  // namespace

bool overlap(const OrientedBox& a, const OrientedBox& b, double tolerance) {
    const Vector2 between = b.centre - a.centre;
    return all_axes(a, b, [&](Vector2 axis, double reach) { return std::abs(dot(between, axis)) < reach - tolerance; });
}

double gap_at_least(const OrientedBox& a, const OrientedBox& b) {
    const Vector2 between = b.centre - a.centre;
    double widest = -std::numeric_limits<double>::infinity();
    all_axes(a, b, [&](Vector2 axis, double reach) {
        widest = std::max(widest, std::abs(dot(between, axis)) - reach);
        return true;
    });
    return widest;
}

double free_way(const OrientedBox& body, const OrientedBox& other, Vector2 way) {
    constexpr double kNever = std::numeric_limits<double>::infinity();
    const Vector2 between = other.centre - body.centre;
    Sweep sweep;
    if (!all_axes(body, other,
                  [&](Vector2 axis, double reach) { return sweep.narrow(dot(between, axis), reach, dot(way, axis)); }))
        return kNever;
    // Behind, past, or only grazing it: not in the way.
    if (sweep.exit <= kTouch_m || sweep.exit <= sweep.enter + kTouch_m || sweep.enter < -kCatch_m) return kNever;
    return std::max(sweep.enter, 0.0);
}

Vector2 contact_normal(const OrientedBox& body, const OrientedBox& other, Vector2 way) {
    const Vector2 between = other.centre - body.centre;
    Vector2 normal = way;
    double last = -std::numeric_limits<double>::infinity();
    all_axes(body, other, [&](Vector2 axis, double reach) {
        const double speed = dot(way, axis);
        if (std::abs(speed) < kParallel) return true;
        const double enter = dot(between, axis) / speed - reach / std::abs(speed);
        if (enter > last) {
            last = enter;
            normal = axis;
        }
        return true;
    });
    return normal;
}

}  // namespace vyard::plant
