#include "core/base/time.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdlib>

namespace vyard::base {

Nanoseconds from_seconds(double seconds) {
    return Nanoseconds(std::llround(seconds * 1e9));
}

std::string time_text(Nanoseconds time) {
    const std::int64_t ns = time.count();
    const std::int64_t size = std::llabs(ns);
    if (size >= 1'000'000'000 || size == 0) return fmt::format("{:.9g} s", static_cast<double>(ns) * 1e-9);
    if (size >= 1'000'000) return fmt::format("{:.9g} ms", static_cast<double>(ns) / 1e6);
    return fmt::format("{:.9g} us", static_cast<double>(ns) / 1e3);
}

std::string clock_text(Nanoseconds time) {
    return fmt::format("{:.3f} s", to_seconds(time));
}

}  // namespace vyard::base
