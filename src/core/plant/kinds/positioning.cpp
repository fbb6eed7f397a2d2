#include "core/plant/kinds/positioning.hpp"

namespace vyard::plant {

namespace {

constexpr double kHome_m = 1e-4;  ///< How near its low end the home switch sees it.

double next_speed(const AxisLimits& limits, const AxisMotion& axis, double dt_s) {
    const double change = limits.acceleration_m_s2 * dt_s;
    double aim = 0.0;
    if (axis.mode == AxisMode::Homing) aim = -limits.homing_m_s;
    if (axis.mode == AxisMode::Jogging) aim = axis.jog_m_s;
    if (axis.mode == AxisMode::Moving) {
        const double way = axis.target_m - axis.wanted_m;
        // The speed from which it can still stop at the target, braking from the next step on.
        const double brakes =
            std::sqrt(change * change / 4.0 + 2.0 * limits.acceleration_m_s2 * std::abs(way)) - change / 2.0;
        aim = std::copysign(std::min({axis.limit_m_s, brakes, std::abs(way) / dt_s}), way);
    }
    return axis.speed_m_s + std::clamp(aim - axis.speed_m_s, -change, change);
}

void arrive(const AxisLimits& limits, AxisMotion& axis) {
    if (axis.mode == AxisMode::Homing && axis.true_m <= kHome_m) {
        axis.mode = AxisMode::Idle;
        axis.homed = true;
        axis.speed_m_s = axis.offset_m = axis.wanted_m = 0.0;
    }
    if (axis.mode == AxisMode::Moving && std::abs(axis.target_m - axis.wanted_m) < 1e-7 &&
        std::abs(axis.speed_m_s) < 0.01 * limits.top_m_s + 1e-6) {
        axis.mode = AxisMode::Idle;
        axis.speed_m_s = 0.0;
        axis.wanted_m = axis.target_m;
        axis.reached = true;
    }
    if (axis.mode == AxisMode::Stopping && axis.speed_m_s == 0.0) axis.mode = AxisMode::Idle;
}

}  // namespace

void AxisMotion::advance(const AxisLimits& limits, double dt_s) {
    speed_m_s = next_speed(limits, *this, dt_s);
    wanted_m = std::clamp(wanted_m + speed_m_s * dt_s, 0.0, limits.travel_m);
    arrive(limits, *this);
    const double share = limits.lag_s > 0.0 ? -std::expm1(-dt_s / limits.lag_s) : 1.0;
    const double way_m = jammed ? 0.0 : (wanted_m - true_m) * share;
    true_m += way_m;
    moves = std::abs(way_m) > 1e-6;
    if (std::abs(wanted_m - true_m) <= limits.most_error_m) return;
    fault = true;
    reached = false;
}

}  // namespace vyard::plant
