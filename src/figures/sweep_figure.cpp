#include "figures/sweep_figure.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::figures {

namespace {

constexpr double kWidth = 1280, kMargin = 24, kText = 12;

Colour colour_of(const std::string& outcome) {
    if (outcome == "passed") return palette::kGreen;
    if (outcome == "failed") return palette::kVermilion;
    return outcome.empty() ? palette::kPaper : palette::kMist;
}

void legend(Canvas& canvas, double y) {
    double x = kMargin;
    for (const char* outcome : {"passed", "failed", "cannot be built"}) {
        canvas.rectangle({x, y - 11, 16, 13}, colour_of(outcome), palette::kFaint, 0.8);
        canvas.text(x + 22, y, outcome, kText, palette::kInk);
        x += 22 + canvas.text_width(outcome, kText) + 24;
    }
    canvas.polygon({{x, y - 11}, {x + 12, y - 11}, {x + 6, y - 2}}, palette::kInk);
    canvas.text(x + 18, y, "as it is in the yard", kText, palette::kInk);
}

}  // namespace

std::unique_ptr<Canvas> draw_sweep(const SweepFigure& f) {
    const Canvas measure(kWidth, 100);
    double label = 0;
    for (const std::string& r : f.rows) label = std::max(label, measure.text_width(r, kText));
    label = std::min(label + 14, 360.0);
    const double top = 76 + 18 * static_cast<double>(f.notes.size()), left = kMargin + label;
    const double row = std::clamp(560.0 / static_cast<double>(std::max<std::size_t>(f.rows.size(), 1)), 14.0, 44.0);
    const double bottom = top + row * static_cast<double>(f.rows.size());
    auto canvas = std::make_unique<Canvas>(kWidth, std::max(bottom + 92, 400.0));
    canvas->rectangle({0, 0, kWidth, canvas->height()}, palette::kPaper, palette::kPaper, 0);
    canvas->text(kMargin, 34, f.title, 18, palette::kInk, Align::Left, true);
    for (std::size_t n = 0; n < f.notes.size(); ++n)
        canvas->text(kMargin, 56 + 18 * static_cast<double>(n), f.notes[n], kText, palette::kInk);
    const double column = (kWidth - kMargin - left) / static_cast<double>(std::max<std::size_t>(f.x.size(), 1));
    const double gap = column > 6 ? 1.0 : 0.0;
    for (std::size_t r = 0; r < f.rows.size(); ++r) {
        const double y = top + row * static_cast<double>(r);
        canvas->fitted(kMargin, y + row / 2 + 4, f.rows[r], label - 10, kText, palette::kInk);
        for (std::size_t c = 0; c < f.x.size(); ++c)
            canvas->rectangle({left + column * static_cast<double>(c), y, column - gap, row - 2},
                              colour_of(f.cells[r][c]), palette::kPaper, 0);
    }
    // As many numbers under the columns as have room.
    double after = 0;
    for (std::size_t c = 0; c < f.x.size(); ++c) {
        const std::string number = fmt::format("{:.6g}", f.x[c]);
        const double middle = left + column * (static_cast<double>(c) + 0.5);
        const double half = measure.text_width(number, 11) / 2;
        if (middle - half < after || middle + half > kWidth - 4) continue;
        canvas->line(middle, bottom, middle, bottom + 4, palette::kInk, 1);
        canvas->text(middle, bottom + 17, number, 11, palette::kInk, Align::Centre);
        after = middle + half + 10;
    }
    canvas->text(left, bottom + 38, f.x_name, kText, palette::kInk, Align::Left, true);
    if (!f.y_name.empty()) canvas->text(kMargin, top - 8, f.y_name, kText, palette::kInk, Align::Left, true);
    if (f.present) {
        const double x = left + column * (static_cast<double>(*f.present) + 0.5);
        canvas->polygon({{x - 6, top - 12}, {x + 6, top - 12}, {x, top - 3}}, palette::kInk);
    }
    legend(*canvas, bottom + 72);
    return canvas;
}

}  // namespace vyard::figures
