#include "live/screen/layout.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <sstream>

namespace vyard::live {

namespace {

constexpr const char* kNames[kPanels] = {"plant", "watch", "logic", "operator", "messages"};
constexpr int kRowsForBoth = 26;  // plant and logic one over the other

bool shown(const Layout& l, Panel p) {
    return l.shown[static_cast<std::size_t>(p)];
}

}  // namespace

std::string Layout::text() const {
    std::string out;
    for (int p = 0; p < kPanels; ++p)
        out.append(fmt::format("{} {}\n", kNames[p], shown[static_cast<std::size_t>(p)] ? "shown" : "hidden"));
    out.append(fmt::format("left {:.2f}\nupper_left {:.2f}\nupper_right {:.2f}\nmessages_height {:.2f}\n", left,
                           upper_left, upper_right, messages));
    return out;
}

void Layout::read(const std::string& text) {
    std::istringstream in(text);
    for (std::string key, value; in >> key >> value;) {
        for (int p = 0; p < kPanels; ++p) {
            if (key == kNames[p]) shown[static_cast<std::size_t>(p)] = value != "hidden";
        }
        const auto share = [&](const char* name, double& to) {
            if (key != name) return;
            const double v = std::strtod(value.c_str(), nullptr);
            if (v >= 0.1 && v <= 0.9) to = v;
        };
        share("left", left);
        share("upper_left", upper_left);
        share("upper_right", upper_right);
        share("messages_height", messages);
    }
}

Placed place(const Layout& l, int width, int height, Panel chosen) {
    Placed out;
    out.status_y = height - 1;
    out.prompt_y = std::max(height - 2, 0);
    const Area all{0, 0, width, height - 2};
    out.too_small = width < kLeastWidth || height < kLeastHeight;
    if (out.too_small) return out;
    const auto put = [&](Panel p, const Area& a) {
        if (a.width >= 12 && a.height >= 3) out.areas[static_cast<std::size_t>(p)] = a;
    };
    if (l.alone) {
        put(chosen, all);
        return out;
    }
    Area upper = all;
    const bool any_upper =
        shown(l, Panel::Plant) || shown(l, Panel::Logic) || shown(l, Panel::Watch) || shown(l, Panel::Operator);
    if (shown(l, Panel::Messages)) {
        const int rows = any_upper
                             ? std::clamp(static_cast<int>(std::lround(all.height * l.messages)), 4, all.height - 5)
                             : all.height;
        put(Panel::Messages, {0, all.height - rows, width, rows});
        upper.height -= rows;
    }
    bool plant = shown(l, Panel::Plant), logic = shown(l, Panel::Logic);
    if (plant && logic && height < kRowsForBoth) {  // room for one: the one that was chosen last
        plant = l.last_left == Panel::Plant;
        logic = !plant;
    }
    const bool watch = shown(l, Panel::Watch), hands = shown(l, Panel::Operator);
    const bool left = plant || logic, right = watch || hands;
    const int left_width = !right ? width : !left ? 0 : static_cast<int>(std::lround(width * l.left));
    const auto split = [&](const Area& a, Panel first, bool has_first, Panel second, bool has_second, double share) {
        const int rows = has_first && has_second ? static_cast<int>(std::lround(a.height * share)) : a.height;
        if (has_first) put(first, {a.x, a.y, a.width, rows});
        const int from = has_first ? rows : 0;
        if (has_second) put(second, {a.x, a.y + from, a.width, a.height - from});
    };
    split({0, 0, left_width, upper.height}, Panel::Plant, plant, Panel::Logic, logic, l.upper_left);
    split({left_width, 0, width - left_width, upper.height}, Panel::Watch, watch, Panel::Operator, hands,
          l.upper_right);
    return out;
}

}  // namespace vyard::live
