#include "figures/kind_figures.hpp"

#include <algorithm>

#include "core/session/session.hpp"
#include "figures/plan.hpp"
#include "files/plant_file.hpp"

namespace vyard::figures {

namespace {

constexpr double kWidth = 380, kHeight = 190, kTileOnly = 64;

/// "point", "point=value" or "point=text".
void drive(session::Session& session, std::string_view order) {
    const std::size_t equals = order.find('=');
    const int point = session.model().plant->find_point(order.substr(0, equals));
    VYARD_CHECK(point != plant::kNone);
    if (equals == std::string_view::npos) return session.drive(point, 1.0);
    const std::string value(order.substr(equals + 1));
    if (base::at(session.model().plant->points, point).type == plant::PointType::Text)
        return session.drive_text(point, value);
    session.drive(point, std::stod(value));
}

}  // namespace

std::unique_ptr<Canvas> draw_kind(const KindExample& example) {
    base::Diagnostics diagnostics;
    const auto source =
        base::make_source("example.toml", std::string(example.around) + "\n" + std::string(example.text));
    session::Definition definition;
    definition.name = example.kind;
    definition.plant = files::read_plant(source, diagnostics);
    VYARD_CHECK(!diagnostics.has_errors());
    const session::SessionModelPtr model = session::build_or_die(definition);
    session::Session session(model);
    while (base::to_seconds(session.now()) < example.after_s - 1e-9) {
        for (const std::string_view order : example.drive) drive(session, order);
        session.step();
    }
    const auto& devices = model->plant->devices;
    const bool in_plan = std::any_of(devices.begin(), devices.end(), [](const auto& d) { return d.in_plan; });
    return draw_plan(session, {kWidth, in_plan ? kHeight : kTileOnly, PlanFrame::Bare});
}

}  // namespace vyard::figures
