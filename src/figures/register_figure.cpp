#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "figures/wiring_figures.hpp"

namespace vyard::figures {

namespace {

using controller::RegisterArea;
using controller::RegisterEntry;

constexpr double kMargin = 28, kTop = 60, kRow = 16, kText = 11, kHeading = 30, kBlock = 18;
constexpr double kWidth = 1280, kColumn = (kWidth - 2 * kMargin) / controller::kAreas;
constexpr double kFirst = 44, kSecond = 94, kBox = 104, kBoxWidth = 12;
constexpr std::array<RegisterArea, controller::kAreas> kTables = {RegisterArea::Coil, RegisterArea::Discrete,
                                                                  RegisterArea::Input, RegisterArea::Holding};
constexpr std::array<const char*, controller::kAreas> kNames = {"Coils", "Discrete inputs", "Input registers",
                                                                "Holding registers"};

/// A line of a table: a tag, what is free between two, the handshake.
struct Line {
    std::uint32_t first = 0, last = 0;
    const RegisterEntry* entry = nullptr;
    bool handshake = false;
    bool input = false;  ///< Of the handshake: in the table of input registers.
};

std::vector<Line> lines_of(const controller::ControllerModel& c, RegisterArea table) {
    const controller::LinkModel& link = *c.link;
    std::vector<Line> tags;
    for (const RegisterEntry& e : link.registers) {
        if (e.place.area == table) tags.push_back({e.place.first, e.place.end() - 1, &e});
    }
    const auto handshake = static_cast<std::uint32_t>(link.handshake);
    if (link.locked && c.linked() && !controller::is_bits(table))
        tags.push_back({handshake, handshake, nullptr, true, table == RegisterArea::Input});
    std::stable_sort(tags.begin(), tags.end(), [](const Line& x, const Line& y) { return x.first < y.first; });
    std::vector<Line> out;
    for (const Line& l : tags) {
        if (!out.empty() && l.first > out.back().last + 1) out.push_back({out.back().last + 1, l.first - 1});
        out.push_back(l);
    }
    return out;
}

class RegisterFigure {
  public:
    RegisterFigure(const session::SessionModel& model, Canvas& canvas) : model_(model), canvas_(canvas) {}

    /// One controller from `y` on; where it ends.
    double draw(int number, double y) {
        const auto& c = base::at(model_.controllers, number);
        const controller::LinkModel& link = *c.link;
        const std::string who = link.role == controller::LinkRole::Screen   ? "offered to screens"
                                : link.role == controller::LinkRole::Server ? "connects to the plant"
                                                                            : "the plant connects to it";
        canvas_.text(kMargin, y + 14,
                     fmt::format("{}: {}, at {}:{}, unit {}", c.name, who, link.host, link.port, link.unit), 13,
                     palette::kInk, Align::Left, true);
        double end = y;
        for (int t = 0; t < controller::kAreas; ++t) {
            double at = y + kHeading;
            const double x = kMargin + t * kColumn;
            canvas_.text(x, at + 11, base::at(kNames, t), 12, palette::kInk, Align::Left, true);
            at += kRow;
            const auto lines = lines_of(c, base::at(kTables, t));
            canvas_.text(x + kFirst, at + 11, "from 0", kText, palette::kFaint, Align::Right);
            canvas_.text(x + kSecond, at + 11, "from 1", kText, palette::kFaint, Align::Right);
            at += kRow;
            for (const Line& l : lines) at += line(number, l, x, at);
            end = std::max(end, at);
        }
        return end + kBlock;
    }

    static double height(const controller::ControllerModel& c) {
        double most = 0;
        for (const RegisterArea table : kTables) {
            double all = 0;
            for (const Line& l : lines_of(c, table)) all += height(l);
            most = std::max(most, all);
        }
        return kHeading + 2 * kRow + most + kBlock;
    }

  private:
    static double height(const Line& l) { return l.entry == nullptr ? kRow : kRow * l.entry->place.count; }

    double line(int number, const Line& l, double x, double y) {
        const double tall = height(l);
        const bool free = l.entry == nullptr && !l.handshake;
        const bool bit = !free && !l.handshake && l.entry->place.bit >= 0;
        const std::string dot = bit ? fmt::format(".{}", l.entry->place.bit) : "";
        if (free) {
            canvas_.text(x + kBox, y + 11, fmt::format("{} to {} free", l.first, l.last), kText, palette::kFaint);
            canvas_.line(x + 8, y + 7, x + kBox - 6, y + 7, palette::kFaint, 1, true);
            return tall;
        }
        for (std::uint32_t n = l.first; n <= l.last; ++n) {
            const double at = y + (n - l.first) * kRow + 11;
            canvas_.text(x + kFirst, at, fmt::format("{}{}", n, dot), kText, palette::kInk, Align::Right);
            canvas_.text(x + kSecond, at, fmt::format("{}{}", n + 1, dot), kText, palette::kInk, Align::Right);
        }
        const Colour colour = l.handshake              ? palette::kPurple
                              : l.entry->writable      ? palette::kGreen
                              : l.entry->to_controller ? palette::kSky
                                                       : palette::kOrange;
        canvas_.rectangle({x + kBox, y + 1, kBoxWidth, tall - 3}, faded(colour, 0.75), palette::kFaint, 1);
        canvas_.fitted(x + kBox + kBoxWidth + 6, y + 11, l.handshake ? handshake(number, l) : text(number, *l.entry),
                       kColumn - kBox - kBoxWidth - 16, kText, palette::kInk);
        return tall;
    }

    /// The plant counts in the table that its partner can read (see docs/fieldbus.md, Pace).
    std::string handshake(int number, const Line& l) const {
        const bool server = base::at(model_.controllers, number).link->role == controller::LinkRole::Server;
        return server == l.input ? "count of scans" : "the answer to it";
    }

    /// "kneaded REAL, high word first", "arm_run > arm.run".
    std::string text(int number, const RegisterEntry& e) const {
        const auto& c = base::at(model_.controllers, number);
        const logic::Variable& tag = base::at(c.program->variables, e.variable);
        std::string out = tag.path;
        if (tag.type != logic::Elementary::Bool) out.append(1, ' ').append(controller::on_the_link(tag.type));
        if (e.place.count > 1 && !logic::is_text(tag.type))
            out += e.place.low_word_first ? ", low word first" : ", high word first";
        if (e.place.swap_bytes) out += ", bytes swapped";
        if (const wiring::Join* j = model_.wiring.of_tag(number, e.variable))
            out += (e.to_controller ? " < " : " > ") + base::at(model_.plant->points, j->point).name;
        return out;
    }

    const session::SessionModel& model_;
    Canvas& canvas_;
};

}  // namespace

std::unique_ptr<Canvas> draw_registers(const session::SessionModel& model) {
    double tall = kTop + 50;
    for (const auto& c : model.controllers) tall += c.link ? RegisterFigure::height(c) : 0.0;
    auto canvas = std::make_unique<Canvas>(kWidth, std::max(tall, 300.0));
    figure_title(*canvas, model.name, "registers of its links");
    RegisterFigure figure(model, *canvas);
    double y = kTop;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        if (model.controllers[c].link) y = figure.draw(static_cast<int>(c), y);
    }
    figure_legend(*canvas, {{faded(palette::kSky, 0.75), "to the controller"},
                            {faded(palette::kOrange, 0.75), "from the controller"},
                            {faded(palette::kGreen, 0.75), "a screen may write it"},
                            {faded(palette::kPurple, 0.75), "count of scans and the answer"}});
    return canvas;
}

}  // namespace vyard::figures
