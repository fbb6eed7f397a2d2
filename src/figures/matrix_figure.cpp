#include "figures/matrix_figure.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace vyard::figures {

namespace {

constexpr double kWidth = 1280, kMargin = 24, kTop = 92, kRow = 15, kText = 11, kBetween = 28;
constexpr double kLeastField = 20, kMostField = 44;
constexpr double kLeast = 420;  ///< Height of the fields, that a page is at least.

Colour colour_of(const MatrixFigure& f, const std::string& outcome) {
    static constexpr Colour kColours[] = {palette::kVermilion, palette::kYellow, palette::kGreen,
                                          palette::kSky,       palette::kMist,   palette::kPaper};
    const auto found = std::find(f.outcomes.begin(), f.outcomes.end(), outcome);
    const auto number = static_cast<std::size_t>(found - f.outcomes.begin());
    return number < std::size(kColours) ? kColours[number] : palette::kPaper;
}

/// Blocks of rows beside one another.
struct Layout {
    std::size_t blocks = 1, rows_each = 1;
    double block_width = 0, label_width = 0, field = kLeastField;
};

Layout layout_of(const MatrixFigure& f, const Canvas& measure) {
    Layout out;
    for (const std::string& r : f.rows) out.label_width = std::max(out.label_width, measure.text_width(r, kText));
    out.label_width = std::min(out.label_width + 8, 420.0);
    const double room = kWidth - 2 * kMargin, columns = std::max(1.0, static_cast<double>(f.columns.size()));
    out.block_width = out.label_width + kLeastField * columns;
    out.blocks = std::max<std::size_t>(1, static_cast<std::size_t>((room + kBetween) / (out.block_width + kBetween)));
    const double spare = room - static_cast<double>(out.blocks) * (out.block_width + kBetween) + kBetween;
    out.field = std::clamp(kLeastField + spare / (static_cast<double>(out.blocks) * columns), kLeastField, kMostField);
    out.block_width = out.label_width + out.field * columns;
    const auto enough = static_cast<std::size_t>(kLeast / kRow);
    out.rows_each = std::max((f.rows.size() + out.blocks - 1) / out.blocks, std::min(enough, f.rows.size()));
    return out;
}

}  // namespace

std::unique_ptr<Canvas> draw_matrix(const MatrixFigure& f) {
    const Canvas measure(kWidth, 100);
    const Layout layout = layout_of(f, measure);
    const double list = 18 * static_cast<double>(f.columns.size()) + 20;
    const double height = kTop + kRow * static_cast<double>(layout.rows_each) + list + 46;
    auto canvas = std::make_unique<Canvas>(kWidth, height);
    canvas->rectangle({0, 0, kWidth, height}, palette::kPaper, palette::kPaper, 0);
    canvas->text(kMargin, 34, f.title, 18, palette::kInk, Align::Left, true);
    canvas->text(kMargin, 54, f.subtitle, 12, palette::kInk);
    for (std::size_t r = 0; r < f.rows.size(); ++r) {
        const std::size_t block = r / layout.rows_each, line = r % layout.rows_each;
        const double left = kMargin + static_cast<double>(block) * (layout.block_width + kBetween);
        const double y = kTop + kRow * static_cast<double>(line);
        if (line == 0) {
            for (std::size_t c = 0; c < f.columns.size(); ++c)
                canvas->text(left + layout.label_width + layout.field * (static_cast<double>(c) + 0.5), kTop - 6,
                             std::to_string(c + 1), kText, palette::kInk, Align::Centre, true);
        }
        canvas->fitted(left, y + kRow - 4, f.rows[r], layout.label_width - 6, kText, palette::kInk);
        for (std::size_t c = 0; c < f.columns.size(); ++c) {
            const double x = left + layout.label_width + layout.field * static_cast<double>(c);
            canvas->rectangle({x, y, layout.field - 2, kRow - 2}, colour_of(f, f.cells[r][c]), palette::kFaint, 0.6);
        }
    }
    double y = kTop + kRow * static_cast<double>(layout.rows_each) + 24;
    for (std::size_t c = 0; c < f.columns.size(); ++c, y += 18)
        canvas->text(kMargin, y, fmt::format("{}  {}", c + 1, f.columns[c]), 12, palette::kInk);
    double x = kMargin;
    y += 12;
    for (const std::string& outcome : f.outcomes) {
        canvas->rectangle({x, y - 11, 16, 13}, colour_of(f, outcome), palette::kFaint, 0.8);
        canvas->text(x + 22, y, outcome, 12, palette::kInk);
        x += 22 + canvas->text_width(outcome, 12) + 24;
    }
    return canvas;
}

}  // namespace vyard::figures
