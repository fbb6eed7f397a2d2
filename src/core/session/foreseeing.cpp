#include "core/session/foreseeing.hpp"

#include <cmath>
#include <limits>

namespace vyard::session {

namespace {

using logic::Interval;

/// The numbers that a tag gets from a point that shows `low` to `high`.
Interval of_tag(const wiring::Join& join, double low, double high, bool may_round) {
    const bool whole = !logic::is_real(join.type);
    const auto number = [&](double shown) {
        const double v = join.scaling.linear
                             ? wiring::within_converter(join.scaling, join.scaling.offset + join.scaling.gain * shown)
                             : shown;
        return static_cast<Interval::Number>(whole ? std::nearbyint(v) : v);
    };
    const auto [least, most] = std::minmax({number(low), number(high)});
    // What a card makes of a signal is a count off at the most.
    const Interval::Number slack = may_round && join.channel >= 0 && whole ? 1 : 0;
    return logic::between(least - slack, most + slack, true);
}

std::optional<logic::AnalogInput> analog_input(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const logic::Program& program = *base::at(model.controllers, join.controller).program;
    const logic::Variable& v = base::at(program.variables, join.variable);
    const auto node = logic::node_of(program, v);
    if (!v.read || point.type != plant::PointType::Analog || point.low == point.high || !node || !join.order.plain() ||
        join.type != v.type)
        return std::nullopt;
    logic::AnalogInput out;
    out.node = *node;
    out.tag = v.path;
    out.place = v.place;
    out.stated = of_tag(join, point.low, point.high, false);
    // What comes through a scaling ends a quarter of its range beyond it; a number that comes as it is may be any.
    constexpr double kAll = std::numeric_limits<double>::max();
    out.possible = join.scaling.linear ? of_tag(join, -kAll, kAll, true) : logic::all_of(join.type);
    const double open = plant::shown_with_open_wire(point);
    const Interval broken = of_tag(join, open, open, false);
    if (broken.high < out.stated.low - 1 || broken.low > out.stated.high + 1)
        out.broken = static_cast<Interval::Number>((broken.low + broken.high) / 2);
    return out;
}

}  // namespace

void warn_foreseen(const SessionModel& model, base::Diagnostics& diagnostics) {
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& controller = model.controllers[c];
        if (controller.remote()) continue;
        const logic::Program& program = *controller.program;
        logic::ForeseenFacts facts;
        facts.scan = controller.scan;
        const auto written = [&](int variable) {
            if (variable < 0) return;
            if (const auto node = logic::node_of(program, base::at(program.variables, variable)))
                facts.written.insert(*node);
        };
        for (const wiring::Join& join : model.wiring.inputs) {
            if (join.controller != static_cast<int>(c)) continue;
            if (auto input = analog_input(model, join)) {
                facts.analogs.push_back(std::move(*input));
            } else {
                written(join.variable);
            }
        }
        for (const wiring::Jumper& jumper : model.wiring.jumpers) {
            if (jumper.controller == static_cast<int>(c)) written(jumper.spot.variable);
        }
        for (const int variable : controller.screen) written(variable);
        for (const controller::Stimulus& s : controller.stimuli) written(s.spot.variable);
        logic::warn_foreseen(program, facts, diagnostics);
    }
}

}  // namespace vyard::session
