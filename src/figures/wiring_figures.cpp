#include "figures/wiring_figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace vyard::figures {

namespace {

constexpr double kMargin = 28, kTop = 60, kText = 11;

// --- addresses ---
struct AreaLook {
    logic::Area area;
    const char* name;
    char letter;
    Colour colour;
};
constexpr AreaLook kAreas[] = {{logic::Area::Input, "Inputs %I", 'I', palette::kSky},
                               {logic::Area::Output, "Outputs %Q", 'Q', palette::kOrange},
                               {logic::Area::Memory, "Markers %M", 'M', palette::kGreen}};
constexpr double kCell = 13, kRow = 16, kNames = 60 + 8 * kCell + 10;

struct Row {
    const AreaLook* area = nullptr;  ///< A heading when `byte` is null.
    const logic::AddressByte* byte = nullptr;
    std::string names;
};

std::vector<Row> rows_of(const std::vector<logic::Located>& located,
                         std::map<logic::Area, std::vector<logic::AddressByte>>& bytes) {
    std::vector<Row> rows;
    for (const AreaLook& area : kAreas) {
        auto& list = bytes[area.area] = logic::bytes_of(located, area.area);
        if (list.empty()) continue;
        rows.push_back({&area, nullptr, area.name});
        std::vector<std::string> names(list.size());
        for (const logic::Located& l : located) {
            if (l.area != area.area) continue;
            std::string& text = names[l.first_bit / 8];
            const std::string sharing = l.taken_twice() ? logic::sharing_text(located, l) : "";
            text.append(fmt::format("{}{} {}{}", text.empty() ? "" : "   ", l.address.text().substr(2),
                                    l.variable >= 0 ? l.name : "in the logic",
                                    sharing.empty() ? "" : " (" + sharing + ")"));
        }
        for (const logic::AddressByte& byte : list) {
            const bool any = std::any_of(byte.owners.begin(), byte.owners.end(), [](int o) { return o >= 0; });
            if (any) rows.push_back({&area, &byte, names[byte.number]});
        }
    }
    return rows;
}

void byte_row(Canvas& canvas, const Row& row, const std::vector<logic::Located>& located, double x, double y,
              double width) {
    canvas.text(x, y + 11, fmt::format("%{}B{}", row.area->letter, row.byte->number), kText, palette::kInk);
    for (int bit = 7; bit >= 0; --bit) {
        const int owner = base::at(row.byte->owners, bit);
        const double left = x + 50 + (7 - bit) * kCell + (bit < 4 ? 4 : 0);
        const bool twice = owner >= 0 && base::at(located, owner).taken_twice();
        const Colour fill = owner < 0 ? palette::kPaper : twice ? palette::kVermilion : faded(row.area->colour, 0.75);
        canvas.rectangle({left, y, kCell - 2, kRow - 4}, fill, palette::kFaint, 1);
    }
    canvas.fitted(x + kNames, y + 11, row.names, width - kNames - 8, kText, palette::kInk);
}

// --- rack ---
constexpr double kModuleWidth = 400, kLine = 15;

double module_height(const wiring::Module& m) {
    return 34 + m.channels * kLine + 8;
}

}  // namespace

void figure_title(Canvas& canvas, const std::string& name, const std::string& what) {
    canvas.text(kMargin, 32, name, 20, palette::kInk, Align::Left, true);
    canvas.text(canvas.width() - kMargin, 32, what, 14, palette::kInk, Align::Right);
    canvas.line(kMargin, 42, canvas.width() - kMargin, 42, palette::kFaint);
}

void figure_legend(Canvas& canvas, const std::vector<std::pair<Colour, std::string>>& colours) {
    const double y = canvas.height() - 16;
    double x = kMargin;
    for (const auto& [colour, text] : colours) {
        canvas.rectangle({x, y - 9, 11, 11}, colour, palette::kFaint, 1);
        canvas.text(x + 16, y, text, kText, palette::kInk);
        x += 34 + canvas.text_width(text, kText);
    }
}

std::unique_ptr<Canvas> draw_addresses(const session::SessionModel& model, int controller) {
    const auto& c = base::at(model.controllers, controller);
    const auto located = logic::located_tags(*c.program);
    std::map<logic::Area, std::vector<logic::AddressByte>> bytes;
    const std::vector<Row> rows = rows_of(located, bytes);
    // What fits a page has its whole width; more goes into two columns.
    const std::size_t columns = rows.size() <= 40 ? 1 : 2;
    const std::size_t tall = std::max<std::size_t>(10, (rows.size() + columns - 1) / columns);
    auto canvas = std::make_unique<Canvas>(1280, kTop + static_cast<double>(tall) * kRow + 50);
    figure_title(*canvas, model.name, fmt::format("addresses of controller {}", c.name));
    const double width = (canvas->width() - 2 * kMargin) / static_cast<double>(columns);
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const std::size_t column = i / tall, line = i % tall;
        const double x = kMargin + static_cast<double>(column) * width;
        const double y = kTop + static_cast<double>(line) * kRow;
        if (rows[i].byte == nullptr) {
            canvas->text(x, y + 11, rows[i].names, 12, palette::kInk, Align::Left, true);
        } else {
            byte_row(*canvas, rows[i], located, x, y, width);
        }
    }
    figure_legend(*canvas, {{palette::kPaper, "free"},
                            {faded(palette::kSky, 0.75), "an input"},
                            {faded(palette::kOrange, 0.75), "an output"},
                            {faded(palette::kGreen, 0.75), "memory"},
                            {palette::kVermilion, "taken twice"}});
    canvas->text(canvas->width() - kMargin, canvas->height() - 16, "bit 7 is on the left", kText, palette::kInk,
                 Align::Right);
    return canvas;
}

std::unique_ptr<Canvas> draw_rack(const session::SessionModel& model) {
    const auto& modules = model.wiring.modules;
    constexpr int kColumns = 3;
    // Each module goes where there is most room left.
    std::vector<double> ends(kColumns, kTop);
    std::vector<std::pair<int, double>> places;
    for (const wiring::Module& m : modules) {
        const auto shortest = std::min_element(ends.begin(), ends.end());
        places.emplace_back(static_cast<int>(shortest - ends.begin()), *shortest);
        *shortest += module_height(m) + 14;
    }
    auto canvas = std::make_unique<Canvas>(1280, std::max(200.0, *std::max_element(ends.begin(), ends.end()) + 20));
    figure_title(*canvas, model.name, "terminals of the rack");
    std::map<std::pair<int, int>, const wiring::Join*> joins;
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) {
            if (j.channel < 0) continue;
            const wiring::Channel& channel = base::at(model.wiring.channels, j.channel);
            joins[{channel.module, channel.number}] = &j;
        }
    }
    for (std::size_t m = 0; m < modules.size(); ++m) {
        const wiring::Module& module = modules[m];
        const double x = kMargin + places[m].first * (kModuleWidth + 12), y = places[m].second;
        canvas->rectangle({x, y, kModuleWidth, module_height(module)}, palette::kPaper, palette::kInk, 1.2);
        canvas->rectangle({x, y, kModuleWidth, 24}, palette::kMist, palette::kInk, 1.2);
        canvas->text(x + 8, y + 16, module.full_name(), 12, palette::kInk, Align::Left, true);
        canvas->text(x + kModuleWidth - 8, y + 16, base::at(wiring::module_kind_names(), module.kind), kText,
                     palette::kInk, Align::Right);
        for (int c = 0; c < module.channels; ++c) {
            const double line = y + 34 + c * kLine + 6;
            const auto found = joins.find({static_cast<int>(m), c});
            const bool input = module.area == logic::Area::Input;
            canvas->circle(x + 12, line - 4, 4,
                           found == joins.end() ? palette::kPaper
                           : input              ? palette::kSky
                                                : palette::kOrange,
                           palette::kInk, 1);
            canvas->text(x + 24, line, std::to_string(c), kText, palette::kInk);
            canvas->text(x + 48, line, module.address_of(c).text(), kText, palette::kInk);
            if (found == joins.end()) {
                canvas->text(x + 108, line, "spare", kText, palette::kFaint);
                continue;
            }
            const wiring::Join& j = *found->second;
            const logic::Variable& tag =
                base::at(base::at(model.controllers, j.controller).program->variables, j.variable);
            canvas->fitted(x + 108, line, tag.path, 130, kText, palette::kInk);
            canvas->fitted(x + 246, line, base::at(model.plant->points, j.point).name, 146, kText, palette::kInk);
        }
    }
    return canvas;
}

}  // namespace vyard::figures
