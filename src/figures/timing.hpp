// A timing chart: chosen channels of a trace as lanes under one time axis.
#pragma once

#include "core/trace/trace.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

/// What happened at one time: numbered on the time axis, and listed below it.
struct TimeMark {
    enum class Kind : std::uint8_t { Hand, Fault, BrokenRule, Mishap };
    base::Nanoseconds time{};
    std::string text;
    Kind kind = Kind::Hand;
};

struct TimingView {
    std::string title;
    std::vector<std::uint32_t> channels;  ///< Top to bottom.
    base::Nanoseconds from{}, to{};
    std::vector<base::Nanoseconds> cursors{};  ///< Lines A, B ... through all lanes.
    std::vector<TimeMark> marks{};             ///< In the order of their times.
};
/// "0 s to 12 s", with the cursors and how far each is from the one before.
std::string span_text(const TimingView& view);

/// Where lanes stand on a page that has more than them: left of `left` their names, right of `right` their last values.
struct LanePlace {
    double left = 210, right = 1190, top = 58;
};
/// The channels of the view as lanes, without a title or an axis of time.
void draw_lanes(Canvas& canvas, const trace::Trace& trace, const TimingView& view, const LanePlace& place);
double lanes_height(const trace::Trace& trace, const std::vector<std::uint32_t>& channels);
/// Lines and numbers of a time axis, and the cursors, from `top` to `bottom`.
void draw_time_axis(Canvas& canvas, const TimingView& view, const LanePlace& place, double bottom);
/// A step of 1, 2 or 5 times a power of ten that divides `span` into about `count` parts.
double nice_step(double span, double count);

std::unique_ptr<Canvas> draw_timing(const trace::Trace& trace, const TimingView& view, double width = 1280);

}  // namespace vyard::figures
