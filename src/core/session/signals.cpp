#include "core/session/signals.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

namespace vyard::session {

using logic::Elementary;
using logic::Value;

Elementary type_of_point(plant::PointType type) {
    switch (type) {
        case plant::PointType::Boolean: return Elementary::Bool;
        case plant::PointType::Number: return Elementary::Dint;
        case plant::PointType::Analog: return Elementary::Lreal;
        case plant::PointType::Text: break;
    }
    return Elementary::String;
}

namespace {

const controller::ControllerModel& controller_of(const SessionModel& model, const Signal& signal) {
    return base::at(model.controllers, signal.controller);
}

std::uint32_t bytes_of(const controller::Spot& spot) {
    return spot.bit >= 0 || logic::is_text(spot.type) ? 1U : static_cast<std::uint32_t>(logic::type_size(spot.type));
}

const std::byte* memory_of(const Session& session, const Signal& signal) {
    const controller::ControllerState& state = session.controller(signal.controller);
    return signal.leaves ? controller::leaving(state) : state.memory.data();
}

Signal signal_of_spot(const SessionModel& model, int controller, const controller::Spot& spot, bool as_logic) {
    Signal out;
    out.controller = controller;
    out.spot = spot;
    out.type = spot.type;
    out.leaves =
        !as_logic && base::at(model.controllers, controller).outputs.leaves(spot.offset, bytes_of(spot), spot.bit);
    return out;
}

Signal signal_of_reading(const plant::Reading& reading) {
    Signal out;
    out.reading = reading;
    out.type = type_of_point(reading.type);
    return out;
}

bool starts_with_room(std::string_view name, std::string_view room) {
    return name.size() > room.size() && base::fold(name.substr(0, room.size())) == room;
}

/// Whether the map joins the tag to just that point, as it is: then both names mean one signal.
bool joined_plainly(const SessionModel& model, const Signal& tag, const Signal& point) {
    if (point.reading.source != plant::Reading::Source::Point) return false;
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) {
            if (j.point == point.reading.index && j.controller == tag.controller && j.variable == tag.spot.variable &&
                j.offset == tag.spot.offset && j.bit == tag.spot.bit)
                return !j.scaling.invert && !j.scaling.linear && j.order.plain();
        }
    }
    return false;
}

struct Meaning {
    Signal signal;
    std::string way;  ///< The name that means this alone.
};

std::vector<Meaning> meanings(const SessionModel& model, std::string_view name) {
    std::vector<Meaning> out;
    const bool in_logic = starts_with_room(name, "logic.");
    const bool in_plant = starts_with_room(name, "plant.");
    if (in_logic) {
        for (const wiring::TagSpot& t : wiring::find_spots(model.controllers, name.substr(6)))
            out.push_back({signal_of_spot(model, t.controller, t.spot, true),
                           "logic." + wiring::spot_name(model.controllers, t.controller, t.spot)});
    }
    for (const wiring::TagSpot& t : wiring::find_spots(model.controllers, name)) {
        const std::string full = wiring::spot_name(model.controllers, t.controller, t.spot);
        const bool short_name = base::fold(full) == base::fold(name) && model.controllers.size() == 1;
        out.push_back({signal_of_spot(model, t.controller, t.spot, false),
                       short_name ? base::at(model.controllers, t.controller).name + "." + full : full});
    }
    if (const auto reading = plant::find_reading(*model.plant, name)) {
        const Signal signal = signal_of_reading(*reading);
        // A device that stands for its only point, and the tag that shows it.
        const bool same = std::any_of(out.begin(), out.end(),
                                      [&](const Meaning& m) { return joined_plainly(model, m.signal, signal); });
        if (!same) out.push_back({signal, (in_plant ? "" : "plant.") + std::string(name)});
    }
    return out;
}

}  // namespace

Signal signal_of_variable(const SessionModel& model, int controller, int variable) {
    const logic::Variable& v = base::at(base::at(model.controllers, controller).program->variables, variable);
    return signal_of_spot(model, controller, {variable, v.type, v.offset, v.bit}, false);
}

namespace {

std::string hint_for(const SessionModel& model, std::string_view name) {
    const std::size_t dot = name.rfind('.');
    const std::string_view device = dot == std::string_view::npos ? std::string_view{} : name.substr(0, dot);
    const std::string actual = dot == std::string_view::npos ? "" : "actual_" + std::string(name.substr(dot + 1));
    if (dot != std::string_view::npos && plant::find_actual(*model.plant, device, actual))
        return fmt::format("the true one is {}.{}", device, actual);
    return base::name_hint(std::string(name), signal_names(model));
}

}  // namespace

std::vector<std::string> split_names(std::string_view text) {
    std::vector<std::string> out(1);
    int brackets = 0;
    for (const char c : text) {
        brackets += c == '[' ? 1 : c == ']' ? -1 : 0;
        const bool blank = c == ' ' || c == '\t' || c == '\r';
        if (brackets <= 0 && (blank || c == ',')) {
            out.emplace_back();
        } else if (!blank) {
            out.back() += c;
        }
    }
    std::erase(out, "");
    return out;
}

bool stays_elsewhere(const SessionModel& model, const Signal& signal) {
    if (signal.of_plant() || signal.spot.variable < 0) return false;
    const controller::ControllerModel& c = base::at(model.controllers, signal.controller);
    const bool constant = base::at(c.program->variables, signal.spot.variable).constant;
    return c.remote() && !constant &&
           std::none_of(c.link->registers.begin(), c.link->registers.end(),
                        [&](const controller::RegisterEntry& e) { return e.variable == signal.spot.variable; });
}

Search search(const SessionModel& model, std::string_view name) {
    const std::vector<Meaning> found = meanings(model, name);
    if (found.size() == 1 && stays_elsewhere(model, found[0].signal))
        return {std::nullopt,
                fmt::format("'{}' stays in '{}', which is executed elsewhere: no register of its link carries it", name,
                            base::at(model.controllers, found[0].signal.controller).name),
                "give it an address, or a register in the map's column 'register'"};
    if (found.size() == 1) return {found[0].signal, {}, {}};
    if (found.empty())
        return {std::nullopt, fmt::format("no tag, point or actual is named '{}'", name), hint_for(model, name)};
    std::string ways;
    for (const Meaning& m : found) ways += (ways.empty() ? "" : " or ") + m.way;
    return {std::nullopt, fmt::format("'{}' may mean {} different things", name, found.size()), "write " + ways};
}

std::optional<Signal> find_signal(const SessionModel& model, std::string_view name) {
    return search(model, name).signal;
}

Value value(const Session& session, const Signal& signal) {
    if (!signal.of_plant())
        return logic::read_value(memory_of(session, signal), signal.type, signal.spot.offset, signal.spot.bit);
    if (logic::is_text(signal.type)) return {signal.type, 0, read_text(session, signal)};
    return logic::value_of(signal.type, read(session, signal));
}

std::uint64_t bits(const Session& session, const Signal& signal) {
    if (signal.of_plant()) return std::bit_cast<std::uint64_t>(read(session, signal));
    return logic::read_bits(memory_of(session, signal), signal.type, signal.spot.offset, signal.spot.bit);
}

double read(const Session& session, const Signal& signal) {
    if (signal.of_plant()) return plant::read(*session.model().plant, session.plant(), signal.reading);
    return logic::read_number(memory_of(session, signal), signal.type, signal.spot.offset, signal.spot.bit);
}

std::string read_text(const Session& session, const Signal& signal) {
    if (signal.of_plant())
        return std::string(plant::read_text(*session.model().plant, session.plant(), signal.reading));
    return logic::read_text(memory_of(session, signal) + signal.spot.offset, signal.type);
}

const logic::ValueNames* names_of(const SessionModel& model, const Signal& signal) {
    if (signal.of_plant() || signal.spot.variable < 0) return nullptr;
    const logic::Variable& v = base::at(controller_of(model, signal).program->variables, signal.spot.variable);
    return v.type == signal.type ? v.names.get() : nullptr;
}

std::string value_text(const SessionModel& model, const Signal& signal, const Value& value) {
    if (!signal.of_plant() || signal.type != Elementary::Lreal)
        return logic::value_text(value, names_of(model, signal));
    return base::quantity_text(logic::number_of(value), signal.reading.dimension);
}

std::string value_text(const Session& session, const Signal& signal) {
    return value_text(session.model(), signal, value(session, signal));
}

std::string explained_text(const Session& session, const Signal& signal) {
    std::string out = value_text(session, signal);
    if (signal.of_plant()) return out;
    const controller::ControllerState& state = session.controller(signal.controller);
    const bool forced = controller::acting_force(state, signal.spot) != nullptr;
    const controller::OutputLayout& outputs = controller_of(session.model(), signal).outputs;
    const bool output = outputs.leaves(signal.spot.offset, bytes_of(signal.spot), signal.spot.bit);
    if (!signal.leaves) return forced && !output ? out + " (forced)" : out;
    Signal worked_out = signal;
    worked_out.leaves = false;
    const std::string logic = value_text(session, worked_out);
    std::vector<std::string> why;
    if (!state.powered) {
        why.emplace_back("the controller has no power");
    } else if (!state.running) {
        why.emplace_back("the controller is stopped");
    } else if (!state.outputs_on) {
        why.emplace_back(state.link.was_up ? "its link is lost" : "the controller has not scanned yet");
    } else if (forced) {
        why.emplace_back("forced");
    }
    if (why.empty()) return out;
    if (logic != out) why.push_back("logic: " + logic);
    return fmt::format("{} ({})", out, fmt::join(why, "; "));
}

std::optional<Signal> rebound(const Signal& signal, int controller, const controller::Rebinding& rebinding) {
    if (signal.controller != controller) return signal;
    const auto spot = rebinding.spot(signal.spot);
    if (!spot) return std::nullopt;
    Signal out = signal;
    out.spot = *spot;
    return out;
}

std::vector<std::string> signal_names(const SessionModel& model) {
    std::vector<std::string> names;
    for (const auto& c : model.controllers) {
        for (const logic::Variable& v : c.program->variables) names.push_back(v.path);
    }
    for (std::string& name : plant::reading_names(*model.plant)) names.push_back(std::move(name));
    for (std::string& name : model.plant->device_names()) names.push_back(std::move(name));
    return names;
}

std::vector<std::string> faults_text(const Session& session) {
    std::vector<std::string> out = plant::active_faults(*session.model().plant, session.plant());
    const auto& modules = session.model().wiring.modules;
    for (std::size_t m = 0; m < modules.size(); ++m) {
        const wiring::ModuleState& state = session.rack().modules[m];
        const std::string name = modules[m].full_name();
        const bool told = modules[m].partner >= 0 && modules[m].partner < static_cast<int>(m);
        if (state.lost && !told) out.push_back(fmt::format("rack.{} lost", modules[m].name));
        for (int c = 0; c < modules[m].channels; ++c) {
            if ((state.broken >> c) & 1U) out.push_back(fmt::format("rack.{} channel {}", name, c));
            if (c % 8 == 0 && ((state.blown >> (c / 8)) & 1U))
                out.push_back(fmt::format("rack.{} fuse {}", name, c / 8));
        }
    }
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const controller::LinkFault& f = session.controller(static_cast<int>(c)).link.fault;
        const std::string name = "link " + session.model().controllers[c].name;
        if (f.lost) out.push_back(name + " lost");
        if (f.stuck) out.push_back(name + " stuck");
        if (f.delay.count() > 0) out.push_back(fmt::format("{} delay {}", name, base::time_text(f.delay)));
        if (f.drop_percent > 0.0) out.push_back(fmt::format("{} drop {:g} %", name, f.drop_percent));
    }
    return out;
}

std::vector<std::string> hands_text(const Session& session) {
    std::vector<std::string> out;
    for (const auto& [point, value] : plant::hands_on_points(session.plant())) {
        const plant::PointModel& p = base::at(session.model().plant->points, point);
        out.push_back(p.type == plant::PointType::Boolean
                          ? fmt::format("{} driven {} by hand", p.name, value != 0.0 ? "TRUE" : "FALSE")
                          : fmt::format("{} driven to {} by hand", p.name, base::quantity_text(value, p.dimension)));
    }
    return out;
}

std::vector<std::string> forces_text(const Session& session) {
    std::vector<std::string> out;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& state = session.controller(static_cast<int>(c));
        for (const controller::Force& f : state.forces) {
            const Signal signal = signal_of_spot(session.model(), static_cast<int>(c), f.spot, false);
            out.push_back(fmt::format("{} forced to {}{}", f.name,
                                      logic::value_text(f.value, names_of(session.model(), signal)),
                                      state.forces_on ? "" : " (forces are off)"));
        }
    }
    return out;
}

std::vector<std::string> odd_outputs_text(const Session& session) {
    std::vector<std::string> out;
    for (const wiring::OddOutput& n : session.odd_outputs()) {
        const auto& controller = base::at(session.model().controllers, n.controller);
        const plant::PointModel& p = base::at(session.model().plant->points, n.point);
        if (n.cut_off) {
            out.push_back(fmt::format("{}.{} asked {} for {}, first at {}; it takes {}", controller.name,
                                      base::at(controller.program->variables, n.variable).path, p.name,
                                      base::quantity_text(n.value, p.dimension), base::clock_text(n.time),
                                      base::range_text(n.low, n.high, p.dimension)));
            continue;
        }
        out.push_back(fmt::format("{}.{} gave a number that is not finite, first at {}; {} carried 0", controller.name,
                                  base::at(controller.program->variables, n.variable).path, base::clock_text(n.time),
                                  p.name));
    }
    return out;
}

}  // namespace vyard::session
