// The motion that positioning axes share: a trapezoidal profile (constant acceleration, constant speed) for the wanted
// position; the true one follows it as a first-order lag. The difference is the following error, which stops the axis
// when it grows too large.
#pragma once

#include <algorithm>
#include <cmath>

#include "core/plant/declaration.hpp"

namespace vyard::plant {

struct AxisLimits {
    double travel_m = 1.0, top_m_s = 0.5, acceleration_m_s2 = 1.0, lag_s = 0.01, most_error_m = 0.02;
    double start_m = 0.1, homing_m_s = 0.05;
};

enum class AxisMode : int { Idle, Homing, Moving, Jogging, Stopping };

struct AxisMotion {
    double wanted_m = 0.0, true_m = 0.0;    ///< From the low end.
    double offset_m = 0.0;                  ///< Where it counts from, above the low end.
    double target_m = 0.0;                  ///< From the low end.
    double speed_m_s = 0.0;                 ///< Of the wanted position.
    double limit_m_s = 0.0, jog_m_s = 0.0;  ///< What is asked for now.
    AxisMode mode = AxisMode::Idle;
    bool homed = false, fault = false, reached = false;
    bool jammed = false, unhomed = false;  ///< Faults of the device.
    bool moves = false;                    ///< It moved in the last step by more than a thousandth of a millimetre.

    double counted_m() const { return true_m - offset_m; }
    bool in_position() const { return reached && std::abs(target_m - true_m) < 0.0005; }
    void stand(const AxisLimits& limits) {
        wanted_m = true_m = std::min(limits.start_m, limits.travel_m);
        offset_m = true_m;  // it counts from where it stood
    }
    /// It jogs, or is stopped too late, and goes on at an end. (Homing looks for one, a move never goes beyond.)
    bool against_end(const AxisLimits& limits) const {
        return (mode == AxisMode::Jogging || mode == AxisMode::Stopping) &&
               ((speed_m_s < 0.0 && wanted_m <= 0.0) || (speed_m_s > 0.0 && wanted_m >= limits.travel_m));
    }
    void let_go() {
        mode = AxisMode::Idle;
        speed_m_s = 0.0;
        wanted_m = true_m;
        moves = false;
    }
    void go_home() {
        mode = AxisMode::Homing;
        homed = reached = false;
    }
    void go_to(const AxisLimits& limits, double counted) {
        mode = AxisMode::Moving;
        target_m = std::clamp(counted + offset_m, 0.0, limits.travel_m);
        reached = false;
    }
    void jog(double speed) {
        mode = AxisMode::Jogging;
        jog_m_s = speed;
        reached = false;
    }
    void stop() { mode = mode == AxisMode::Idle ? AxisMode::Idle : AxisMode::Stopping; }
    /// A step of what it is told; a following error that is too large makes a fault.
    void advance(const AxisLimits& limits, double dt_s);
};

/// Declares the parameters, actuals and faults that all axes have.
template <class K>
void declare_axis(Declaration<K>& kind) {
    using base::Dimension;
    using M = typename K::Model;
    kind.quantity("travel", &M::travel_m, Dimension::Length, "", 0.001, 100.0, "between its ends")
        .quantity("speed", &M::top_m_s, Dimension::Speed, "0.5 m/s", 0.001, 10.0, "at most")
        .quantity("acceleration", &M::acceleration_m_s2, Dimension::Acceleration, "1 m/s2", 0.001, 100.0, "up and down")
        .quantity("homing_speed", &M::homing_m_s, Dimension::Speed, "0.05 m/s", 0.001, 10.0, "towards its low end")
        .quantity("initial", &M::start_m, Dimension::Length, "0.1 m", 0.0, 100.0,
                  "where it stands at power-up, above its low end")
        .quantity("time_constant", &M::lag_s, Dimension::Time, "0.01 s", 0.0, 1.0, "of the position loop")
        .quantity("following_error_limit", &M::most_error_m, Dimension::Length, "20 mm", 0.0001, 1.0,
                  "following error at which it stops with a fault")
        .actual(
            "actual_position", PointType::Analog, Dimension::Length, "true, from its low end",
            [](const M&, const typename K::State& s, const PlantModel&, const PlantState&, int) { return s.true_m; })
        .actual("following_error", PointType::Analog, Dimension::Length, "wanted less true position",
                [](const M&, const typename K::State& s, const PlantModel&, const PlantState&, int) {
                    return s.wanted_m - s.true_m;
                })
        .moves("it moves", [](const M&, const typename K::State& s, const PlantModel&, const PlantState&,
                              int) { return s.moves ? 1.0 : 0.0; })
        .fault("jammed", "does not move: the following error grows until it stops", &K::State::jammed)
        .fault("unhomed", "has lost its count and must be homed", &K::State::unhomed);
}

}  // namespace vyard::plant
