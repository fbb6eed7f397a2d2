#include "core/session/guarding.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::session {

namespace {

const plant::DeviceModel& device_of(const SessionModel& model, const wiring::Join& join) {
    return model.plant->device(base::at(model.plant->points, join.point).device);
}

/// What an input guards: the whole machine, its own device, or nothing.
enum class Guard { None, All, Own };

Guard guard_of(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const plant::DeviceModel& device = model.plant->device(point.device);
    const std::string& kind = device.kind->name;
    const std::string& spec = base::at(device.kind->points, point.spec).name;
    if (kind == "estop" || kind == "pull_cord" || (kind == "guard_door" && spec == "closed")) return Guard::All;
    return spec == "overload_contact" ? Guard::Own : Guard::None;
}

/// An order to move, by a BOOL; not one that only lets something go on.
bool moves_something(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const plant::Kind& kind = *model.plant->device(point.device).kind;
    const std::string& spec = base::at(kind.points, point.spec).name;
    return kind.moving != plant::kNone && point.type == plant::PointType::Boolean && spec != "reset" &&
           spec != "stop" && spec != "release";
}

}  // namespace

void warn_unguarded(const SessionModel& model, base::Diagnostics& diagnostics) {
    if (model.controllers.size() != 1 || !model.wiring.jumpers.empty()) return;
    const logic::Program& program = *model.controllers[0].program;
    const logic::Influence influence(program);
    const auto tag = [&](const wiring::Join& j) -> const std::string& {
        return base::at(program.variables, j.variable).path;
    };
    for (const wiring::Join& out : model.wiring.outputs) {
        if (!moves_something(model, out)) continue;
        for (const wiring::Join& in : model.wiring.inputs) {
            const Guard guard = guard_of(model, in);
            const bool own =
                base::at(model.plant->points, in.point).device == base::at(model.plant->points, out.point).device;
            if (guard == Guard::None || (guard == Guard::Own && !own)) continue;
            if (influence.has_a_say(tag(in), tag(out))) continue;
            diagnostics.warning(
                base::Code::Unguarded, influence.declared(tag(out)),
                fmt::format("'{}' moves '{}', and '{}' ({}) has no say in it", tag(out), device_of(model, out).name,
                            tag(in), base::with_article(device_of(model, in).kind->name)),
                fmt::format("let it be ANDed with '{}', or with what depends on it", tag(in)));
        }
    }
}

}  // namespace vyard::session
