#include "core/session/roles.hpp"

#include <algorithm>
#include <initializer_list>

namespace vyard::session {

namespace {

/// The words of all that a device is called by: its own name, its tags, what stands behind them.
std::vector<std::string> words_around(const SessionModel& model, int device) {
    std::vector<std::string> out;
    const auto add = [&](std::string_view text) {
        for (std::string& word : wiring::words_of(text)) out.push_back(std::move(word));
    };
    // "panel.start": what stands before the last dot says where it is.
    const std::string& name = model.plant->device(device).name;
    const std::size_t dot = name.rfind('.');
    add(dot == std::string::npos ? name : name.substr(dot + 1));
    for (const wiring::Join& join : model.wiring.inputs) {
        if (base::at(model.plant->points, join.point).device != device) continue;
        const controller::ControllerModel& c = base::at(model.controllers, join.controller);
        add(base::at(c.program->variables, join.variable).path);
    }
    return out;
}

}  // namespace

bool any_word(const std::vector<std::string>& words, std::initializer_list<const char*> wanted) {
    return std::any_of(words.begin(), words.end(), [&](const std::string& word) {
        return std::any_of(wanted.begin(), wanted.end(), [&](const char* w) { return word == w; });
    });
}

ButtonRole role_of_button(const SessionModel& model, int device) {
    if (model.plant->device(device).kind->name != "button") return ButtonRole::None;
    const std::vector<std::string> words = words_around(model, device);
    if (any_word(words, {"reset", "acknowledge", "ack", "quit", "clear"})) return ButtonRole::Reset;
    if (any_word(words, {"stop", "halt", "off"})) return ButtonRole::Stop;
    return any_word(words, {"start", "on", "go"}) ? ButtonRole::Start : ButtonRole::None;
}

const plant::DeviceModel& device_of(const SessionModel& model, const wiring::Join& join) {
    return model.plant->device(base::at(model.plant->points, join.point).device);
}

Guard guard_of(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const plant::DeviceModel& device = model.plant->device(point.device);
    const std::string& kind = device.kind->name;
    const std::string& spec = base::at(device.kind->points, point.spec).name;
    if (kind == "estop" || kind == "pull_cord" || (kind == "guard_door" && spec == "closed")) return Guard::All;
    return spec == "overload_contact" ? Guard::Own : Guard::None;
}

bool moves_something(const SessionModel& model, const wiring::Join& join) {
    const plant::PointModel& point = base::at(model.plant->points, join.point);
    const plant::Kind& kind = *model.plant->device(point.device).kind;
    const std::string& spec = base::at(kind.points, point.spec).name;
    return kind.moving != plant::kNone && point.type == plant::PointType::Boolean && spec != "reset" &&
           spec != "stop" && spec != "release";
}

}  // namespace vyard::session
