#include "figures/logic_figure.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "figures/logic_pieces.hpp"

namespace vyard::figures {

namespace {

constexpr double kMargin = 24, kLeastWidth = 640;
constexpr double kPageRatio = 1.414;  ///< Height to width of a page, as of ISO 216 paper.

const char* const kForms[] = {"program", "function block", "function", "method", "interface"};

/// What the pieces draw from; stays where it is until they have been drawn.
struct Sheet {
    logic::SeenUnit unit;
    LogicMarks marks;
    std::vector<std::unique_ptr<logic::Grid>> grids;
};

class LogicPage {
  public:
    LogicPage(const session::Session& session, LogicFigure what) : session_(session), what_(what) {}

    void add(const LogicUnit& unit) {
        const logic::Program& program = *base::at(session_.model().controllers, unit.controller).program;
        const controller::ControllerState& state = session_.controller(unit.controller);
        auto seen = seen_at(session_, unit, what_.before);
        if (!seen) return;
        sheets_.push_back(std::make_unique<Sheet>());
        Sheet& sheet = *sheets_.back();
        sheet.unit = std::move(*seen);
        sheet.marks.state = what_.state;
        const std::string within = base::fold(unit.path) + ".";
        for (const controller::Force& f : state.forces) {
            const std::string name = base::fold(f.name);
            sheet.marks.forced[name.starts_with(within) ? name.substr(within.size()) : name] =
                logic::value_text(f.value);
        }
        const auto find = [&program, path = unit.path](const std::string& name) {
            const logic::Variable* v = program.find(fmt::format("{}.{}", path, name));
            return v == nullptr ? program.find(name) : v;
        };
        if (what_.addresses) {
            sheet.marks.address = [find](const std::string& name) {
                const logic::Variable* v = find(name);
                return v == nullptr || v->address.area == logic::Area::None ? std::string() : v->address.text();
            };
        }
        if (what_.descriptions) {
            sheet.marks.description = [find](const std::string& name) {
                const logic::Variable* v = find(name);
                return v == nullptr ? std::string() : v->description;
            };
        }
        if (what_.coverage != nullptr) {
            for (const logic::UnitCoverage& u :
                 logic::unit_coverages(program, base::at(*what_.coverage, unit.controller))) {
                if (u.name == sheet.unit.unit->name) sheet.marks.gaps = u.gaps;
            }
        }
        heading(unit, sheet, state.running);
        if (sheet.unit.chart) pieces_.push_back(chart_piece(*sheet.unit.chart, sheet.marks));
        for (const logic::SeenPart& part : sheet.unit.parts) add(part, sheet);
    }

    std::unique_ptr<Canvas> draw() {
        double width = kLeastWidth, height = 2 * kMargin;
        for (const Piece& p : pieces_) {
            width = std::max(width, p.width + 2 * kMargin);
            height += p.height;
        }
        auto canvas = std::make_unique<Canvas>(std::ceil(width), std::ceil(height));
        const double page = std::max(width, 1000.0) * kPageRatio;
        double y = kMargin, top = 0;
        for (const Piece& p : pieces_) {
            const bool full = y + p.height - top > page;
            if (y > kMargin && (p.new_page || full)) {
                canvas->break_page(y - 12);
                top = y - 12;
            }
            p.draw(*canvas, kMargin, y);
            y += p.height;
        }
        return canvas;
    }

  private:
    void heading(const LogicUnit& unit, const Sheet& sheet, bool running) {
        std::vector<std::string> lines;
        if (what_.state) lines = session::forces_text(session_);
        const std::string kind = kForms[static_cast<int>(sheet.unit.unit->kind)];
        std::string below = fmt::format("{}, {}", kind, sheet.unit.unit->source->path);
        if (!what_.title.empty()) below = fmt::format("{}: {}", what_.title, below);
        if (what_.state)
            below = fmt::format("{} at {}{}", below, base::clock_text(session_.now()),
                                running ? "" : ", its controller is stopped");
        if (what_.before != nullptr)
            below = fmt::format("{}; marked: changed since {}", below, base::clock_text(what_.before->now()));
        if (what_.coverage != nullptr)
            below = fmt::format("{}; {} never exercised", below,
                                sheet.marks.gaps.empty() ? "nothing was" : "marked: what was");
        Piece out;
        out.new_page = true;
        out.width = 60 + static_cast<double>(std::max(below.size(), unit.name.size())) * 8;
        for (const std::string& l : lines) out.width = std::max(out.width, static_cast<double>(l.size()) * 7.4 + 40);
        out.height = 46 + static_cast<double>(lines.size()) * 16;
        out.draw = [name = unit.name, below, lines](Canvas& canvas, double x, double y) {
            canvas.text(x, y + 14, name, 18, palette::kInk, Align::Left, true);
            canvas.text(x, y + 32, below, 11, palette::kFaint);
            for (std::size_t i = 0; i < lines.size(); ++i) {
                const double at = y + 50 + static_cast<double>(i) * 16;
                canvas.rectangle({x, at - 10, canvas.text_width(lines[i], 11) + 8, 14}, kForced, kForced, 0);
                canvas.text(x + 4, at, lines[i], 11, palette::kInk);
            }
        };
        pieces_.push_back(std::move(out));
    }

    void add(const logic::SeenPart& part, Sheet& sheet) {
        if (!part.drawing) {
            pieces_.push_back(text_piece(part.lines, sheet.marks));
            return;
        }
        const logic::Drawing& d = *part.drawing->drawing;
        sheet.grids.push_back(std::make_unique<logic::Grid>(d.text, d.offset, d.span.line + 1));
        for (const logic::SeenNetwork& n : part.drawing->networks)
            pieces_.push_back(network_piece(*sheet.grids.back(), n, sheet.marks));
    }

    const session::Session& session_;
    LogicFigure what_;
    std::vector<std::unique_ptr<Sheet>> sheets_;
    std::vector<Piece> pieces_;
};

}  // namespace

std::string LogicMarks::gap(int line, int column) const {
    for (const logic::CoverGap& g : gaps) {
        if (g.place.line == line && (column == 0 || g.place.column == column)) return column == 0 ? g.what : g.brief;
    }
    return {};
}

void mark_box(Canvas& canvas, const Box& box, Colour colour) {
    canvas.rectangle(box, faded(colour, 0), colour, 1.4, true);
}

std::vector<LogicUnit> logic_units(const session::SessionModel& model, bool drawn) {
    std::vector<LogicUnit> out;
    const bool several = model.controllers.size() > 1;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const logic::Program& program = *model.controllers[c].program;
        for (const std::string& path : drawn ? logic::drawn_units(program) : logic::unit_paths(program))
            out.push_back({static_cast<int>(c), path, several ? model.controllers[c].name + "." + path : path});
    }
    return out;
}

std::optional<logic::SeenUnit> seen_at(const session::Session& session, const LogicUnit& unit,
                                       const session::Session* before) {
    const logic::Program& program = *base::at(session.model().controllers, unit.controller).program;
    const auto at = [&](const session::Session& s) {
        return logic::seen_unit(program, s.controller(unit.controller).memory, s.now().count(), unit.path);
    };
    auto out = at(session);
    if (out && before != nullptr) logic::mark_changes(*out, *at(*before));
    return out;
}

std::unique_ptr<Canvas> draw_logic(const session::Session& session, const std::vector<LogicUnit>& units,
                                   LogicFigure what) {
    LogicPage page(session, what);
    for (const LogicUnit& unit : units) page.add(unit);
    return page.draw();
}

}  // namespace vyard::figures
