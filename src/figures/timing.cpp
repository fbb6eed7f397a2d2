#include "figures/timing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::figures {

using base::Nanoseconds;

namespace {

constexpr double kLeft = 210, kRight = 90, kTop = 58, kBottom = 44, kLane = 34, kTall = 74, kText = 12;

}  // namespace

std::string span_text(const TimingView& view) {
    std::string out = fmt::format("{:g} s to {:g} s", base::to_seconds(view.from), base::to_seconds(view.to));
    for (std::size_t i = 0; i < view.cursors.size(); ++i) {
        const char letter = static_cast<char>('A' + i), before = static_cast<char>(letter - 1);
        out.append(fmt::format("   {} {:g} s", letter, base::to_seconds(view.cursors[i])));
        if (i > 0)
            out.append(fmt::format("   {} - {} = {:g} s", letter, before,
                                   base::to_seconds(view.cursors[i] - view.cursors[i - 1])));
    }
    return out;
}

double nice_step(double span, double count) {
    const double raw = span / count, power = std::pow(10.0, std::floor(std::log10(raw)));
    for (const double factor : {1.0, 2.0, 5.0}) {
        if (raw <= factor * power) return factor * power;
    }
    return 10.0 * power;
}

namespace {

class TimingDrawing {
  public:
    TimingDrawing(const trace::Trace& trace, const TimingView& view, Canvas& canvas, const LanePlace& place)
        : trace_(trace),
          view_(view),
          canvas_(canvas),
          place_(place),
          from_s_(base::to_seconds(view.from)),
          span_s_(base::to_seconds(view.to - view.from)) {}

    void title() {
        canvas_.text(24, 32, view_.title, 18, palette::kInk, Align::Left, true);
        canvas_.text(canvas_.width() - 24, 32, span_text(view_), 14, palette::kInk, Align::Right);
    }

    void axis(double bottom) {
        const double step = nice_step(span_s_, 10);
        for (double t = std::ceil(from_s_ / step - 1e-9) * step; t <= from_s_ + span_s_ + 1e-9; t += step) {
            canvas_.line(px(t), place_.top, px(t), bottom, faded(palette::kFaint, 0.35), 0.8);
            canvas_.text(px(t), bottom + 18,
                         fmt::format("{:g}", std::abs(t) < 1e-12 ? 0.0 : std::round(t / step) * step), kText,
                         palette::kInk, Align::Centre);
        }
        canvas_.text(canvas_.width() - 24, bottom + 18, "time, s", kText, palette::kInk, Align::Right);
        for (std::size_t i = 0; i < view_.cursors.size(); ++i) {
            const double x = px(base::to_seconds(view_.cursors[i]));
            canvas_.line(x, place_.top, x, bottom, palette::kVermilion, 1.4, true);
            canvas_.text(x, bottom + 32, std::string(1, static_cast<char>('A' + i)), kText, palette::kVermilion,
                         Align::Centre, true);
        }
    }

    /// Numbers above the flags; those that stand close together as "3-5".
    void mark_numbers(const std::vector<TimeMark>& shown) {
        for (std::size_t i = 0; i < shown.size();) {
            const double x = px(base::to_seconds(shown[i].time));
            std::size_t end = i + 1;
            while (end < shown.size() && px(base::to_seconds(shown[end].time)) - x < 26) ++end;
            const std::string text = end == i + 1 ? std::to_string(i + 1) : fmt::format("{}-{}", i + 1, end);
            canvas_.text(x, place_.top - 9, text, kText - 2, palette::kBlue, Align::Centre);
            i = end;
        }
    }

    /// A flag above the lanes for each mark in the view, and what it was in a list.
    void marks(double list_y) {
        double column = 24, y = list_y;
        double widest = 0;
        const std::vector<TimeMark> shown = marks_shown(view_);
        mark_numbers(shown);
        for (std::size_t i = 0; i < shown.size(); ++i) {
            const TimeMark& m = shown[i];
            const double x = px(base::to_seconds(m.time));
            const Colour ink = m.kind == TimeMark::Kind::Hand ? palette::kBlue : palette::kVermilion;
            canvas_.line(x, place_.top - 6, x, place_.top, ink, 2);
            const std::string number = std::to_string(i + 1);
            const std::string text = fmt::format("{}  {:.3f} s  {}{}", number, base::to_seconds(m.time),
                                                 m.kind == TimeMark::Kind::BrokenRule ? "broken: "
                                                 : m.kind == TimeMark::Kind::Mishap   ? "mishap: "
                                                                                      : "",
                                                 m.text);
            if (y + 4 > canvas_.height()) {
                column += widest + 28;
                y = list_y;
                widest = 0;
            }
            canvas_.text(column, y, text, kText - 1, ink);
            widest = std::max(widest, canvas_.text_width(text, kText - 1));
            y += kMarkLine;
        }
    }
    static constexpr double kMarkLine = 17;

    static std::vector<TimeMark> marks_shown(const TimingView& view) {
        std::vector<TimeMark> out;
        for (const TimeMark& m : view.marks) {
            if (m.time >= view.from && m.time <= view.to) out.push_back(m);
        }
        return out;
    }
    /// Of the list below the axis; as many columns as the page has room for.
    static double list_height(const TimingView& view) {
        const auto count = static_cast<double>(marks_shown(view).size());
        return count == 0 ? 0 : std::ceil(count / 3) * kMarkLine + 16;
    }

    void lanes() {
        double y = place_.top;
        for (const std::uint32_t c : view_.channels) {
            const double height = height_of(trace_, c);
            canvas_.line(24, y + height, canvas_.width() - 24, y + height, faded(palette::kFaint, 0.4), 0.8);
            canvas_.text(place_.left - 12, y + height / 2 + 4, trace_.channels()[c].name, kText, palette::kInk,
                         Align::Right);
            if (boolean(trace_, c)) {
                bool_lane(c, y + 6, height - 12);
            } else if (labelled(trace_, c)) {
                label_lane(c, y + 6, height - 12);
            } else {
                number_lane(c, y + 8, height - 16);
            }
            y += height;
        }
    }

    static bool boolean(const trace::Trace& trace, std::uint32_t c) {
        return trace.channels()[c].signal.type == logic::Elementary::Bool;
    }
    /// Shown as a lane of labels: texts, and enumerations by their names.
    static bool labelled(const trace::Trace& trace, std::uint32_t c) {
        return logic::is_text(trace.channels()[c].signal.type) || trace.channels()[c].names != nullptr;
    }
    static double height_of(const trace::Trace& trace, std::uint32_t c) {
        return boolean(trace, c) || labelled(trace, c) ? kLane : kTall;
    }

  private:
    double px(double seconds) const {
        return place_.left + (seconds - from_s_) / span_s_ * (place_.right - place_.left);
    }

    /// The steps of a channel within the view: from, to, value.
    struct Piece {
        double from_s, to_s;
        logic::Value exact;
        double value;
    };
    std::vector<Piece> pieces(std::uint32_t c) const {
        std::vector<Piece> out;
        const double end_s = from_s_ + span_s_;
        const auto add = [&](double begin_s, logic::Value exact) {
            const double value = logic::number_of(exact);
            out.push_back({begin_s, end_s, std::move(exact), value});
        };
        add(from_s_, trace_.value_at(c, view_.from));
        for (const trace::Moment& m : trace_.of(c)) {
            if (m.time <= view_.from || m.time > view_.to) continue;
            out.back().to_s = base::to_seconds(m.time);
            add(out.back().to_s, trace_.value(c, m));
        }
        return out;
    }

    /// Each value as a box with its text in it, as far as it fits.
    void label_lane(std::uint32_t c, double y, double height) {
        for (const Piece& p : pieces(c)) {
            const double x = px(p.from_s), width = std::max(px(p.to_s) - x, 1.0);
            canvas_.rectangle({x, y, width, height}, faded(palette::kBlue, 0.12), palette::kBlue, 1);
            std::string text = trace::cell_text(trace_.channels()[c], p.exact);
            if (text.empty() && logic::is_text(p.exact.type)) text = "''";
            // What is cut says so.
            const auto fits = [&](const std::string& t) { return canvas_.text_width(t, kText - 1) <= width - 6; };
            if (!fits(text)) {
                while (!text.empty() && !fits(text + "\xE2\x80\xA6")) {
                    while (text.size() > 1 && (static_cast<unsigned char>(text.back()) & 0xC0U) == 0x80U)
                        text.pop_back();
                    text.pop_back();
                }
                if (!text.empty()) text += "\xE2\x80\xA6";
            }
            if (!text.empty()) canvas_.text(x + 4, y + height / 2 + 4, text, kText - 1, palette::kInk);
        }
    }

    void bool_lane(std::uint32_t c, double y, double height) {
        std::vector<std::pair<double, double>> points;
        for (const Piece& p : pieces(c)) {
            const double level = p.value != 0 ? y : y + height;
            if (p.value != 0)
                canvas_.rectangle({px(p.from_s), y, std::max(px(p.to_s) - px(p.from_s), 1.0), height},
                                  faded(palette::kBlue, 0.22), palette::kBlue, 0);
            points.emplace_back(px(p.from_s), level);
            points.emplace_back(px(p.to_s), level);
        }
        canvas_.path(points, palette::kBlue, 1.6);
        canvas_.text(place_.right + 10, y + height / 2 + 4, trace_.value_at(c, view_.to).bits != 0 ? "TRUE" : "FALSE",
                     kText, palette::kInk);
    }

    /// Each value over its step of the line, or under it, where there is room; as the logic calls it where that has
    /// room too.
    void whole_numbers(std::uint32_t c, const std::vector<Piece>& list, double y, double height, double bottom,
                       double span) {
        const logic::ValueNames* names = trace_.channels()[c].case_names.get();
        for (const Piece& p : list) {
            const double x = px(p.from_s), level = y + height * (1 - (p.value - bottom) / span);
            const auto fits = [&](const std::string& t) {
                return canvas_.text_width(t, kText - 1) + 4 <= px(p.to_s) - x;
            };
            std::string text = logic::value_text(p.exact);
            for (std::size_t i = 0; names != nullptr && i < names->size(); ++i) {
                const auto& [value, name] = (*names)[i];
                if (static_cast<double>(value) != p.value) continue;
                if (const std::string both = fmt::format("{} {}", text, name); fits(both)) text = both;
                break;
            }
            if (!fits(text)) continue;
            canvas_.text(x + 3, level - y > 14 ? level - 3 : level + 12, text, kText - 1, palette::kInk);
        }
    }

    void number_lane(std::uint32_t c, double y, double height) {
        const std::vector<Piece> list = pieces(c);
        const auto [low, high] = std::minmax_element(list.begin(), list.end(),
                                                     [](const Piece& a, const Piece& b) { return a.value < b.value; });
        const double bottom = low->value, span = std::max(high->value - low->value, 1e-12);
        std::vector<std::pair<double, double>> points;
        for (const Piece& p : list) {
            const double level = y + height * (1 - (p.value - bottom) / span);
            points.emplace_back(px(p.from_s), high == low ? y + height / 2 : level);
            points.emplace_back(px(p.to_s), high == low ? y + height / 2 : level);
        }
        canvas_.path(points, palette::kVermilion, 1.6);
        if (!logic::is_real(trace_.channels()[c].signal.type)) whole_numbers(c, list, y, height, bottom, span);
        const auto text = [&](const Piece& p) {
            const session::Signal& signal = trace_.channels()[c].signal;
            if (!logic::is_real(signal.type)) return logic::value_text(p.exact);
            if (!signal.of_plant()) return fmt::format("{:.4g}", p.value);
            const base::Dimension dimension = signal.reading.dimension;
            const char* unit = base::display_unit(dimension);
            return fmt::format("{:.4g}{}{}", base::displayed(p.value, dimension), *unit != '\0' ? " " : "", unit);
        };
        const double x = place_.right + 10;
        if (high->value > low->value) {
            canvas_.text(x, y + 8, text(*high), kText - 1, palette::kInk);
            canvas_.text(x, y + height, text(*low), kText - 1, palette::kInk);
        } else {
            canvas_.text(x, y + height / 2 + 4, text(*low), kText - 1, palette::kInk);
        }
    }

    const trace::Trace& trace_;
    const TimingView& view_;
    Canvas& canvas_;
    LanePlace place_;
    double from_s_, span_s_;
};

}  // namespace

double lanes_height(const trace::Trace& trace, const std::vector<std::uint32_t>& channels) {
    double height = 0;
    for (const std::uint32_t c : channels) height += TimingDrawing::height_of(trace, c);
    return height;
}

void draw_lanes(Canvas& canvas, const trace::Trace& trace, const TimingView& view, const LanePlace& place) {
    TimingDrawing(trace, view, canvas, place).lanes();
}

void draw_time_axis(Canvas& canvas, const TimingView& view, const LanePlace& place, double bottom) {
    const trace::Trace none;
    TimingDrawing(none, view, canvas, place).axis(bottom);
}

std::unique_ptr<Canvas> draw_timing(const trace::Trace& trace, const TimingView& view, double width) {
    const double list = TimingDrawing::list_height(view), top = kTop + (list > 0 ? 18 : 0);
    const double bottom = top + lanes_height(trace, view.channels);
    auto canvas = std::make_unique<Canvas>(width, bottom + kBottom + list);
    double left = kLeft;  // names are not cut
    for (const std::uint32_t c : view.channels)
        left = std::max(left, canvas->text_width(trace.channels()[c].name, kText) + 36);
    TimingDrawing drawing(trace, view, *canvas, {std::min(left, width / 2), width - kRight, top});
    drawing.title();
    drawing.axis(bottom);
    drawing.lanes();
    drawing.marks(bottom + kBottom + 8);
    return canvas;
}

}  // namespace vyard::figures
