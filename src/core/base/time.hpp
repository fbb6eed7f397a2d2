// Time of a run: whole nanoseconds since its start. Integers, so that adding steps never drifts and two runs agree
// to the byte.
#pragma once

#include <chrono>
#include <cstdint>
#include <string>

namespace vyard::base {

using Nanoseconds = std::chrono::nanoseconds;
using namespace std::chrono_literals;

inline double to_seconds(Nanoseconds time) {
    return static_cast<double>(time.count()) / 1e9;  // a division, so that 0.3 s reads 0.3
}

/// Rounds to the nearest nanosecond; `seconds` within +-9e9.
Nanoseconds from_seconds(double seconds);

/// Shortest text an engineer reads at a glance: "850 ms", "1.25 s", "0 s", "15 us".
std::string time_text(Nanoseconds time);

/// Seconds with milliseconds, for lists in which times stand under one another: "12.345 s".
std::string clock_text(Nanoseconds time);

}  // namespace vyard::base
