#include "figures/histogram.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::figures {

namespace {

constexpr double kWidth = 900, kHeight = 420, kLeft = 70, kRight = 30, kTop = 60, kBottom = 60;

}  // namespace

std::unique_ptr<Canvas> draw_histogram(const std::string& title, const std::vector<double>& values,
                                       const std::string& unit) {
    const auto [least, most] = std::minmax_element(values.begin(), values.end());
    const double low = *least, span = std::max(*most - *least, 1e-9 * std::max(std::abs(*most), 1e-3));
    const auto classes =
        static_cast<std::size_t>(std::clamp(std::ceil(std::sqrt(static_cast<double>(values.size()))), 5.0, 30.0));
    std::vector<int> counts(classes);
    for (const double v : values) {
        const auto at = static_cast<std::size_t>((v - low) / span * static_cast<double>(classes));
        ++counts[std::min(at, classes - 1)];
    }
    const int highest = *std::max_element(counts.begin(), counts.end());
    auto canvas = std::make_unique<Canvas>(kWidth, kHeight);
    canvas->text(24, 32, title, 16, palette::kInk, Align::Left, true);
    canvas->text(kWidth - 24, 32, fmt::format("{} times", values.size()), 13, palette::kInk, Align::Right);
    const double bottom = kHeight - kBottom, height = bottom - kTop;
    const double bar = (kWidth - kLeft - kRight) / static_cast<double>(classes);
    const int step = std::max(1, static_cast<int>(std::ceil(highest / 5.0)));
    for (int n = 0; n <= highest; n += step) {
        const double y = bottom - height * n / highest;
        canvas->line(kLeft, y, kWidth - kRight, y, faded(palette::kFaint, 0.5), 0.8);
        canvas->text(kLeft - 8, y + 4, fmt::format("{}", n), 11, palette::kInk, Align::Right);
    }
    for (std::size_t i = 0; i < classes; ++i) {
        const double tall = height * counts[i] / highest, x = kLeft + bar * static_cast<double>(i);
        if (counts[i] > 0)
            canvas->rectangle({x + 1, bottom - tall, bar - 2, tall}, faded(palette::kBlue, 0.35), palette::kBlue, 1);
    }
    canvas->line(kLeft, bottom, kWidth - kRight, bottom, palette::kInk, 1.2);
    for (int i = 0; i <= 5; ++i) {
        const double share = i / 5.0, x = kLeft + (kWidth - kLeft - kRight) * share;
        canvas->line(x, bottom, x, bottom + 5, palette::kInk, 1);
        canvas->text(x, bottom + 20, fmt::format("{:.4g}", low + span * share), 11, palette::kInk, Align::Centre);
    }
    canvas->text(kWidth - kRight, kHeight - 16, unit, 12, palette::kInk, Align::Right);
    return canvas;
}

}  // namespace vyard::figures
