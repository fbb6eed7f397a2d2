#include "figures/trend.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace vyard::figures {

namespace {

constexpr double kTop = 86, kBottom = 44, kAxis = 72, kText = 12, kGap = 14;
constexpr std::array<Colour, 6> kColours = {palette::kBlue,   palette::kVermilion, palette::kGreen,
                                            palette::kPurple, palette::kOrange,    palette::kInk};

bool is_curve(const trace::Trace& trace, std::uint32_t c) {
    const trace::Channel& channel = trace.channels()[c];
    const logic::Elementary type = channel.signal.type;
    return type != logic::Elementary::Bool && !logic::is_text(type) && channel.names == nullptr;
}

/// "" when it is not known.
std::string unit_of(const trace::Channel& channel) {
    const session::Signal& signal = channel.signal;
    if (signal.of_plant() && signal.reading.dimension != base::Dimension::Plain)
        return base::display_unit(signal.reading.dimension);
    return signal.type == logic::Elementary::Time || signal.type == logic::Elementary::Ltime ? "s" : "";
}

struct Axis {
    std::string unit, title;
    std::vector<std::uint32_t> channels;
    double low = 0, high = 0, step = 1;
};

std::vector<Axis> make_axes(const trace::Trace& trace, const TimingView& view) {
    std::vector<Axis> out;
    for (const std::uint32_t c : view.channels) {
        if (!is_curve(trace, c)) continue;
        const std::string unit = unit_of(trace.channels()[c]);
        const auto found = std::find_if(out.begin(), out.end(), [&](const Axis& a) { return a.unit == unit; });
        if (found != out.end() && !unit.empty()) {
            found->channels.push_back(c);
        } else {
            out.push_back({unit, unit.empty() ? trace.channels()[c].name : unit, {c}, 0, 0, 1});
        }
    }
    return out;
}

class TrendDrawing {
  public:
    TrendDrawing(const trace::Trace& trace, const TimingView& view, Canvas& canvas, double plot_height)
        : trace_(trace), view_(view), canvas_(canvas), axes_(make_axes(trace, view)), bottom_(kTop + plot_height) {
        const std::size_t left = (axes_.size() + 1) / 2, right = axes_.size() / 2;
        place_ = {24 + kAxis * static_cast<double>(std::max<std::size_t>(left, 1)),
                  canvas.width() - 34 - kAxis * static_cast<double>(std::max<std::size_t>(right, 1)), kTop};
        for (const std::uint32_t c : view.channels) {
            if (!is_curve(trace, c)) lanes_.channels.push_back(c);
        }
        lanes_.from = view.from;
        lanes_.to = view.to;
        lanes_.cursors = view.cursors;
        // Names of lanes need room.
        if (!lanes_.channels.empty()) place_.left = std::max(place_.left, 190.0);
    }

    void run() {
        canvas_.text(24, 32, view_.title, 18, palette::kInk, Align::Left, true);
        canvas_.text(canvas_.width() - 24, 32, span_text(view_), 14, palette::kInk, Align::Right);
        const double end = lanes_.channels.empty() ? bottom_ : canvas_.height() - kBottom;
        draw_time_axis(canvas_, lanes_, place_, end);
        canvas_.rectangle({place_.left, kTop, place_.right - place_.left, bottom_ - kTop}, {1, 1, 1, 0},
                          palette::kFaint, 1);
        std::size_t colour = 0;
        double legend = place_.left;
        for (std::size_t a = 0; a < axes_.size(); ++a) {
            scale(axes_[a]);
            const Colour first = kColours[colour % kColours.size()];
            axis(a, first);
            for (const std::uint32_t c : axes_[a].channels) {
                const Colour ink = kColours[colour % kColours.size()];
                curve(axes_[a], c, ink);
                legend = label(legend, c, axes_[a], ink);
                ++colour;
            }
        }
        if (!lanes_.channels.empty()) draw_lanes(canvas_, trace_, lanes_, {place_.left, place_.right, bottom_ + kGap});
    }

  private:
    double px(base::Nanoseconds time) const {
        const double share = base::to_seconds(time - view_.from) / base::to_seconds(view_.to - view_.from);
        return place_.left + std::clamp(share, 0.0, 1.0) * (place_.right - place_.left);
    }
    static double py(const Axis& axis, double value, double bottom) {
        return bottom - (value - axis.low) / (axis.high - axis.low) * (bottom - kTop);
    }
    double number(std::uint32_t c, const logic::Value& value) const {
        const double plain = logic::number_of(value);
        const session::Signal& signal = trace_.channels()[c].signal;
        if (signal.of_plant()) return base::displayed(plain, signal.reading.dimension);
        const logic::Elementary type = signal.type;
        return type == logic::Elementary::Time || type == logic::Elementary::Ltime ? plain / 1e9 : plain;
    }
    /// Calls with each moment of the view, the value at its beginning first.
    template <class Each>
    void moments(std::uint32_t c, const Each& each) const {
        each(view_.from, number(c, trace_.value_at(c, view_.from)));
        const auto& all = trace_.of(c);
        auto m = std::upper_bound(all.begin(), all.end(), view_.from,
                                  [](base::Nanoseconds t, const trace::Moment& moment) { return t < moment.time; });
        for (; m != all.end() && m->time <= view_.to; ++m) each(m->time, number(c, trace_.value(c, *m)));
    }

    /// From a round number to a round number, around all that is shown.
    void scale(Axis& axis) {
        bool any = false;
        for (const std::uint32_t c : axis.channels) {
            moments(c, [&](base::Nanoseconds, double v) {
                if (!std::isfinite(v)) return;
                axis.low = any ? std::min(axis.low, v) : v;
                axis.high = any ? std::max(axis.high, v) : v;
                any = true;
            });
        }
        const double span = axis.high - axis.low;
        if (span <= 1e-12 * std::max(std::abs(axis.low), std::abs(axis.high)) || span == 0.0) {
            const double around = axis.low == 0.0 ? 1.0 : std::abs(axis.low) * 0.1;
            axis.low -= around;
            axis.high += around;
        }
        axis.step = nice_step(axis.high - axis.low, 6);
        axis.low = std::floor(axis.low / axis.step + 1e-9) * axis.step;
        axis.high = std::ceil(axis.high / axis.step - 1e-9) * axis.step;
    }

    /// The first and third stand on the left, the others on the right.
    void axis(std::size_t number, Colour ink) {
        const Axis& a = axes_[number];
        const bool left = number % 2 == 0;
        const double out = kAxis * static_cast<double>(number / 2);
        const double x = left ? place_.left - out : place_.right + out, way = left ? -1 : 1;
        canvas_.line(x, kTop, x, bottom_, ink, 1.4);
        for (double v = a.low; v <= a.high + a.step * 1e-6; v += a.step) {
            const double y = py(a, v, bottom_);
            canvas_.line(x, y, x + way * 5, y, ink, 1.2);
            if (number == 0 && v > a.low && v < a.high)
                canvas_.line(place_.left, y, place_.right, y, faded(palette::kFaint, 0.3), 0.8);
            canvas_.text(x + way * 9, y + 4, fmt::format("{:g}", std::abs(v) < a.step * 1e-9 ? 0.0 : v), kText, ink,
                         left ? Align::Right : Align::Left);
        }
        canvas_.text(x + way * 4, kTop - 12, shortened(a.title, kAxis + 30), kText, ink,
                     left ? Align::Right : Align::Left, true);
    }

    /// A column of pixels after the other: from the value that stood, to the least and the most that came.
    void curve(const Axis& a, std::uint32_t c, Colour ink) {
        std::vector<std::pair<double, double>> points;
        double column = -1, low = 0, high = 0, last = 0;
        const auto close = [&] {
            if (column < 0) return;
            points.emplace_back(column, py(a, high, bottom_));
            if (low != high) points.emplace_back(column, py(a, low, bottom_));
            points.emplace_back(column, py(a, last, bottom_));
        };
        moments(c, [&](base::Nanoseconds time, double v) {
            if (!std::isfinite(v)) return;
            const double x = std::floor(px(time) * 2) / 2;
            if (x != column) {
                close();
                if (column >= 0) points.emplace_back(x, py(a, last, bottom_));  // it stood until here
                column = x;
                low = high = v;
            }
            low = std::min(low, v);
            high = std::max(high, v);
            last = v;
        });
        close();
        if (column >= 0) points.emplace_back(px(view_.to), py(a, last, bottom_));
        canvas_.path(points, ink, 1.6);
    }

    double label(double x, std::uint32_t c, const Axis& a, Colour ink) {
        const std::string text =
            a.unit.empty() ? trace_.channels()[c].name : fmt::format("{}, {}", trace_.channels()[c].name, a.unit);
        canvas_.line(x, 56, x + 22, 56, ink, 3);
        canvas_.text(x + 28, 60, text, kText, palette::kInk);
        return x + 28 + canvas_.text_width(text, kText) + 22;
    }
    std::string shortened(std::string text, double room) const {
        while (text.size() > 4 && canvas_.text_width(text, kText, true) > room) text = ".." + text.substr(3);
        return text;
    }

    const trace::Trace& trace_;
    const TimingView& view_;
    Canvas& canvas_;
    std::vector<Axis> axes_;
    TimingView lanes_;
    LanePlace place_;
    double bottom_;
};

}  // namespace

std::size_t axes_of(const trace::Trace& trace, const TimingView& view) {
    return make_axes(trace, view).size();
}

std::unique_ptr<Canvas> draw_trend(const trace::Trace& trace, const TimingView& view, double width, double height) {
    std::vector<std::uint32_t> lanes;
    for (const std::uint32_t c : view.channels) {
        if (!is_curve(trace, c)) lanes.push_back(c);
    }
    const double below = lanes.empty() ? 0 : kGap + lanes_height(trace, lanes);
    auto canvas = std::make_unique<Canvas>(width, height + below);
    TrendDrawing(trace, view, *canvas, height - kTop - kBottom).run();
    return canvas;
}

}  // namespace vyard::figures
