#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "figures/logic_pieces.hpp"

namespace vyard::figures {

namespace {

constexpr double kLine = 18, kSize = 12, kColumnOfText = kSize * Canvas::kTypedWidth;

const std::set<std::string>& words() {
    static const std::set<std::string> kWords = {
        "if",  "then", "elsif",   "else",   "end_if",    "case",     "of",    "end_case",   "for",    "to",
        "by",  "do",   "end_for", "while",  "end_while", "repeat",   "until", "end_repeat", "and",    "or",
        "not", "xor",  "mod",     "return", "exit",      "continue", "true",  "false",      "action", "end_action"};
    return kWords;
}

/// A line in runs of letters, so that each column is as wide as in the file.
void line_text(Canvas& canvas, double x, double y, const logic::SeenLine& line, const LogicMarks& marks) {
    const std::string& text = line.text;
    std::size_t comment = text.find("//");
    const std::size_t bracket = text.find("(*");
    if (bracket < comment) comment = bracket;
    for (std::size_t i = 0; i < text.size();) {
        std::size_t end = i + 1;
        const auto letter = [&](std::size_t k) {
            return std::isalnum(static_cast<unsigned char>(text[k])) || text[k] == '_';
        };
        if (i >= comment) {
            end = text.size();
        } else if (letter(i)) {
            while (end < text.size() && letter(end)) ++end;
        } else {
            while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) ++end;
        }
        const std::string run = text.substr(i, end - i);
        const bool bold = words().contains(base::fold(run));
        Colour colour = i >= comment ? palette::kFaint : palette::kInk;
        for (const logic::SeenName& n : line.names) {
            if (!marks.state || i >= comment || !n.name.starts_with(run) || n.name.size() < run.size()) continue;
            const bool whole = text.compare(i, n.name.size(), n.name) == 0;
            if (whole && n.state == logic::Live::On) colour = kLive;
            if (whole && marks.forced.contains(base::fold(n.name)))
                canvas.rectangle({x + static_cast<double>(i) * kColumnOfText - 1, y - kSize,
                                  static_cast<double>(run.size()) * kColumnOfText + 2, kSize + 4},
                                 kForced, kForced, 0);
        }
        if (run != " ") canvas.typed(x + static_cast<double>(i) * kColumnOfText, y, run, kSize, colour, bold);
        i = end;
    }
}

}  // namespace

Piece text_piece(const std::vector<logic::SeenLine>& lines, const LogicMarks& marks) {
    std::size_t widest = 0, values = 0;
    for (const logic::SeenLine& line : lines) {
        widest = std::max(widest, line.text.size());
        const std::size_t said = marks.state ? logic::names_text(line.names).size() : 0;
        values = std::max(values, said + marks.gap(line.number).size() + 3);
    }
    const double at_values = 50 + static_cast<double>(widest + 3) * kColumnOfText;
    Piece out;
    out.width = at_values + static_cast<double>(values) * 6.2;
    out.height = static_cast<double>(lines.size()) * kLine + 16;
    out.draw = [&lines, &marks, at_values](Canvas& canvas, double x, double y) {
        for (std::size_t i = 0; i < lines.size(); ++i) {
            const double base_line = y + 14 + static_cast<double>(i) * kLine;
            const std::string never = marks.gap(lines[i].number);
            canvas.text(x + 28, base_line, std::to_string(lines[i].number), 9, never.empty() ? palette::kFaint : kNever,
                        Align::Right, !never.empty());
            line_text(canvas, x + 40, base_line, lines[i], marks);
            double at = x + at_values;
            if (!never.empty()) {
                canvas.line(x + 33, base_line - 11, x + 33, base_line + 4, kNever, 3);
                canvas.text(at, base_line, never, 10, kNever);
                at += canvas.text_width(never, 10) + 16;
            }
            if (!marks.state) continue;
            for (std::size_t k = 0; k < lines[i].names.size(); ++k) {
                const std::string value =
                    logic::names_text({lines[i].names[k]}) + (k + 1 < lines[i].names.size() ? ", " : "");
                canvas.text(at, base_line, value, 10, lines[i].names[k].before.empty() ? kValue : kChanged);
                at += canvas.text_width(value, 10);
            }
        }
    };
    return out;
}

}  // namespace vyard::figures
