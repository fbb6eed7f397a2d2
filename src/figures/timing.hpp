// A timing chart: chosen channels of a trace as lanes under one time axis.
#pragma once

#include "core/trace/trace.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

struct TimingView {
    std::string title;
    std::vector<std::uint32_t> channels;  ///< Top to bottom.
    base::Nanoseconds from{}, to{};
};

std::unique_ptr<Canvas> draw_timing(const trace::Trace& trace, const TimingView& view, double width = 1280);

}  // namespace vyard::figures
