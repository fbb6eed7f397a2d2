#include "core/session/signals.hpp"

#include <fmt/format.h>

namespace vyard::session {

using logic::Elementary;

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

const logic::Variable& variable_of(const Session& session, const Signal& signal) {
    return session.model()
        .controllers[static_cast<std::size_t>(signal.controller)]
        .program->variables[static_cast<std::size_t>(signal.variable)];
}

}  // namespace

std::optional<Signal> find_signal(const SessionModel& model, std::string_view name) {
    Signal signal;
    const auto [c, v] = wiring::find_tag(model.controllers, name);
    if (c >= 0) {
        signal.controller = c;
        signal.variable = v;
        signal.type =
            model.controllers[static_cast<std::size_t>(c)].program->variables[static_cast<std::size_t>(v)].type;
        return signal;
    }
    const auto reading = plant::find_reading(*model.plant, name);
    if (!reading) return std::nullopt;
    signal.reading = *reading;
    signal.type = type_of_point(reading->type);
    return signal;
}

double read(const Session& session, const Signal& signal) {
    if (signal.of_plant()) return plant::read(*session.model().plant, session.plant(), signal.reading);
    const logic::Variable& v = variable_of(session, signal);
    if (logic::is_text(v.type)) return 0.0;
    return logic::read_number(session.controller(signal.controller).memory.data(), v.type, v.offset, v.bit);
}

std::string read_text(const Session& session, const Signal& signal) {
    if (signal.of_plant())
        return std::string(plant::read_text(*session.model().plant, session.plant(), signal.reading));
    const logic::Variable& v = variable_of(session, signal);
    return logic::read_text(session.controller(signal.controller).memory.data() + v.offset, v.type);
}

std::string value_text(const Session& session, const Signal& signal) {
    if (!signal.of_plant())
        return logic::variable_text(session.controller(signal.controller).memory.data(), variable_of(session, signal));
    if (signal.type == Elementary::String) return fmt::format("'{}'", read_text(session, signal));
    return signal_text(signal, read(session, signal));
}

std::string signal_text(const Signal& signal, double value) {
    if (!signal.of_plant() || signal.type != Elementary::Lreal) return logic::value_text(signal.type, value);
    const char* unit = base::display_unit(signal.reading.dimension);
    return fmt::format("{:.6g}{}{}", value, *unit != '\0' ? " " : "", unit);
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
        if (state.lost) out.push_back(fmt::format("rack.{} lost", modules[m].name));
        for (int c = 0; c < modules[m].channels; ++c) {
            if ((state.broken >> c) & 1U) out.push_back(fmt::format("rack.{} channel {}", modules[m].name, c));
            if (c % 8 == 0 && ((state.blown >> (c / 8)) & 1U))
                out.push_back(fmt::format("rack.{} fuse {}", modules[m].name, c / 8));
        }
    }
    return out;
}

std::vector<std::string> forces_text(const Session& session) {
    std::vector<std::string> out;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& state = session.controller(static_cast<int>(c));
        for (const controller::Force& f : state.forces) {
            const logic::Variable& v =
                session.model().controllers[c].program->variables[static_cast<std::size_t>(f.variable)];
            out.push_back(fmt::format("{} forced to {}{}", v.path, logic::value_text(v.type, f.value),
                                      state.forces_on ? "" : " (forces are off)"));
        }
    }
    return out;
}

}  // namespace vyard::session
