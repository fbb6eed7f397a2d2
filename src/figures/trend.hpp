// Long analog traces over one time: curves with an axis for each unit, and below them, over the same time, what is no
// number as lanes.
#pragma once

#include "figures/timing.hpp"

namespace vyard::figures {

constexpr std::size_t kMostAxes = 4;

/// The axes that the numbers of a view need: one for each unit; a number whose unit is not known (as of a trace read
/// from CSV) has one of its own.
std::size_t axes_of(const trace::Trace& trace, const TimingView& view);

/// At most kMostAxes axes. A column of pixels shows the least and the most of its time, so that no peak is lost
/// however long the trace is. Cost: the moments of the view.
std::unique_ptr<Canvas> draw_trend(const trace::Trace& trace, const TimingView& view, double width = 1280,
                                   double height = 480);

}  // namespace vyard::figures
