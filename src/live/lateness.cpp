#include "live/lateness.hpp"

#include <algorithm>
#include <cmath>

namespace vyard::live {

void Lateness::count(base::Nanoseconds late, bool overrun) {
    const auto ns = std::max<std::int64_t>(late.count(), 0);
    ++counts_[std::min(static_cast<std::size_t>(ns / kWidth_ns), kClasses - 1)];
    ++steps_;
    if (overrun) ++overruns_;
    most_ = std::max(most_, base::Nanoseconds(ns));
}

base::Nanoseconds Lateness::within(double part) const {
    const auto wanted = static_cast<std::uint64_t>(std::ceil(part * static_cast<double>(steps_)));
    std::uint64_t seen = 0;
    for (std::size_t i = 0; i + 1 < kClasses && steps_ > 0; ++i) {
        seen += counts_[i];
        if (seen >= wanted) return std::min(base::Nanoseconds(static_cast<std::int64_t>(i + 1) * kWidth_ns), most_);
    }
    return most_;
}

}  // namespace vyard::live
