#include "figures/labels.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace vyard::figures {

std::vector<std::string> Labels::place(double top, double bottom) {
    std::stable_sort(wanted_.begin(), wanted_.end(), [](const Label& a, const Label& b) { return a.x < b.x; });
    std::vector<std::string> without;
    for (std::size_t n = 0; n < wanted_.size(); ++n) {
        if (!put(n, top, bottom)) without.push_back(wanted_[n].text);
    }
    return without;
}

/// On its side, or when there is no room on another one.
bool Labels::put(std::size_t n, double top, double bottom) {
    if (put_there(n, top, bottom)) return true;
    Label& l = wanted_[n];
    for (const Label::Side side : {Label::Side::Above, Label::Side::Below}) {
        if (side == l.side) continue;
        l.side = side;
        if (put_there(n, top, bottom)) return true;
    }
    return false;
}

bool Labels::put_there(std::size_t n, double top, double bottom) {
    const Label& l = wanted_[n];
    const double width = canvas_.text_width(l.text, kText) + 6, height = kText + 5;
    // With a neighbour close on the right, the text leads off to the left.
    const bool crowded = n + 1 < wanted_.size() && wanted_[n + 1].side == l.side && wanted_[n + 1].x - l.x < 45;
    const std::array<double, 3> shifts = crowded ? std::array{0.95, 0.5, 0.05} : std::array{0.5, 0.05, 0.95};
    for (int ring = 0; ring < 20; ++ring) {
        for (const double shift : shifts) {
            const Box b = candidate(l, ring, shift, width, height);
            const auto in_the_way = [&](const Box& o) { return o.overlaps(b); };
            if (b.y < top || b.y + b.height > bottom) continue;
            if (std::any_of(taken_.begin(), taken_.end(), in_the_way) || (ring < 8 && on_a_leader(n, b))) continue;
            write(l, b);
            taken_.push_back(b);
            const double from = std::min(l.y, b.y), to = std::max(l.y, b.y + b.height);
            if (l.side != Label::Side::Right) taken_.push_back({l.x - 1, from, 2, to - from});
            return true;
        }
    }
    return false;
}

/// The n-th place to try: further and further away on the label's side.
Box Labels::candidate(const Label& l, int ring, double shift, double width, double height) const {
    const double away = 8 + ring * (height + 1);
    const double y = l.side == Label::Side::Above ? l.y - away - height : l.y + away;
    if (l.side != Label::Side::Right)
        return {std::clamp(l.x - width * shift, 2.0, canvas_.width() - width - 2), y, width, height};
    return {l.x + 6, l.y - height / 2 + (ring % 2 == 0 ? ring : -ring) * height / 2, width, height};
}

/// Whether the line from a device whose label is not placed yet may have to pass here.
bool Labels::on_a_leader(std::size_t n, const Box& b) const {
    return std::any_of(wanted_.begin() + static_cast<std::ptrdiff_t>(n) + 1, wanted_.end(), [&](const Label& other) {
        const double top = other.side == Label::Side::Above ? other.y - 80 : other.y;
        return other.side == wanted_[n].side && Box{other.x - 2, top, 4, 80}.overlaps(b);
    });
}

void Labels::write(const Label& l, const Box& b) {
    const Colour leader = faded(palette::kFaint, 0.8);
    if (l.side == Label::Side::Right) {
        if (std::abs(b.y + b.height / 2 - l.y) > b.height)
            canvas_.line(l.x, l.y, b.x + 2, b.y + b.height / 2, leader, 0.8);
    } else {
        const double end = l.side == Label::Side::Above ? b.y + b.height : b.y;
        canvas_.line(l.x, l.y, std::clamp(l.x, b.x + 2, b.x + b.width - 2), end, leader, 0.8);
    }
    const Colour colour = l.fault ? palette::kVermilion : palette::kInk;
    canvas_.text(b.x + 3, b.y + b.height - 5, l.text, kText, colour, Align::Left, l.fault);
}

}  // namespace vyard::figures
