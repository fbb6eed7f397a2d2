#include "core/campaign/panel.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::campaign {

namespace {

using session::SessionModel;

void add_button(const SessionModel& model, int device, Panel& out) {
    switch (session::role_of_button(model, device)) {
        case session::ButtonRole::Reset: out.resets.push_back(device); return;
        case session::ButtonRole::Stop: out.stops.push_back(device); return;
        case session::ButtonRole::Start: out.starts.push_back(device); return;
        case session::ButtonRole::None: return;
    }
}

int automatic_position(const plant::DeviceModel& device) {
    for (std::size_t i = 0; i < device.positions.size(); ++i) {
        if (session::any_word(wiring::words_of(device.positions[i]), {"auto", "automatic"})) return static_cast<int>(i);
    }
    return -1;
}

}  // namespace

Panel find_panel(const SessionModel& model) {
    Panel out;
    for (std::size_t d = 0; d < model.plant->devices.size(); ++d) {
        const plant::DeviceModel& device = model.plant->devices[d];
        const auto number = static_cast<int>(d);
        const std::string& kind = device.kind->name;
        if (kind == "button") add_button(model, number, out);
        if (kind == "selector") out.selectors.push_back({number, automatic_position(device)});
        if (kind == "estop") out.estops.push_back(number);
        if (kind == "pull_cord") out.cords.push_back(number);
        if (kind == "guard_door") out.doors.push_back(number);
        if (kind == "air_supply") out.air_supplies.push_back(number);
    }
    return out;
}

std::string press_text(const SessionModel& model, int button) {
    return fmt::format("press {} for 200 ms", model.plant->device(button).name);
}

std::vector<std::string> release_buttons(const SessionModel& model) {
    std::vector<std::string> out;
    for (const plant::DeviceModel& d : model.plant->devices) {
        if (d.kind->name == "button") out.push_back("release " + d.name);
    }
    return out;
}

std::vector<std::string> make_safe(const SessionModel& model, const Panel& panel) {
    std::vector<std::string> out;
    const auto each = [&](const char* verb, const std::vector<int>& devices) {
        for (const int d : devices) out.push_back(fmt::format("{} {}", verb, model.plant->device(d).name));
    };
    each("release", panel.estops);
    each("reset", panel.cords);
    each("close", panel.doors);
    return out;
}

std::vector<std::string> turn_to_automatic(const SessionModel& model, const Panel& panel) {
    std::vector<std::string> out;
    for (const Selector& s : panel.selectors) {
        const plant::DeviceModel& device = model.plant->device(s.device);
        if (s.automatic >= 0)
            out.push_back(fmt::format("turn {} to {}", device.name, base::at(device.positions, s.automatic)));
    }
    return out;
}

std::vector<std::string> reset_overloads(const SessionModel& model) {
    std::vector<std::string> out;
    for (const plant::DeviceModel& d : model.plant->devices) {
        if (d.kind->name == "motor" || d.kind->name == "pump") out.push_back("reset " + d.name);
    }
    return out;
}

std::vector<Event> events_of(const SessionModel& model, const Panel& panel) {
    std::vector<Event> out;
    const auto name = [&](int device) -> const std::string& { return model.plant->device(device).name; };
    const auto add = [&](int device, const char* act, const char* end, int door = -1) {
        const std::string text = fmt::format("{} {}", act, name(device));
        out.push_back({text, {text}, {fmt::format("{} {}", end, name(device))}, true, door});
    };
    for (const int stop : panel.stops)
        out.push_back({fmt::format("press {}", name(stop)), {press_text(model, stop)}, {}, true, -1});
    for (const int estop : panel.estops) add(estop, "press", "release");
    for (const int cord : panel.cords) add(cord, "pull", "reset");
    for (const int door : panel.doors) add(door, "open", "close", door);
    for (const Selector& s : panel.selectors) {
        for (const std::string& position : model.plant->device(s.device).positions) {
            const std::string text = fmt::format("turn {} to {}", name(s.device), position);
            out.push_back({text, {text}, {}, false, -1, s.device});
        }
    }
    for (const int air : panel.air_supplies)
        out.push_back({fmt::format("fault {} lost", name(air)),
                       {fmt::format("fault {} lost", name(air))},
                       {fmt::format("heal {}", name(air))},
                       false,
                       -1,
                       -1,
                       true});
    for (const controller::ControllerModel& c : model.controllers)
        out.push_back({fmt::format("power off {}", c.name),
                       {fmt::format("power off {}", c.name)},
                       {fmt::format("power on {}", c.name)},
                       true,
                       -1});
    return out;
}

}  // namespace vyard::campaign
