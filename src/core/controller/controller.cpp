#include "core/controller/controller.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/logic/text_values.hpp"

namespace vyard::controller {

namespace {

void write_forces(const ControllerModel& model, ControllerState& state, bool with_inputs) {
    for (const Force& f : state.forces) {
        if (f.role == ForceRole::Output || (f.role == ForceRole::Input && !with_inputs)) continue;
        const logic::Variable& v = model.program->variables[static_cast<std::size_t>(f.variable)];
        logic::write_number(state.memory.data(), v.type, v.offset, v.bit, f.value);
    }
}

void write_stimuli(const ControllerModel& model, ControllerState& state, base::Nanoseconds now) {
    for (; state.next_stimulus < model.stimuli.size(); ++state.next_stimulus) {
        const Stimulus& s = model.stimuli[state.next_stimulus];
        if (s.time > now) return;
        const logic::Variable& v = model.program->variables[static_cast<std::size_t>(s.variable)];
        logic::write_number(state.memory.data(), v.type, v.offset, v.bit, s.value);
        if (logic::is_text(v.type)) logic::assign_text(state.memory.data() + v.offset, v.type, s.text);
    }
}

}  // namespace

ControllerState power_up(const ControllerModel& model) {
    ControllerState state;
    state.memory = model.program->initial_memory;
    return state;
}

void solve(const ControllerModel& model, ControllerState& state, base::Nanoseconds now, logic::ScanWatch* watch) {
    if (!state.running) return;
    write_stimuli(model, state, now);
    const bool forced = state.forces_on && !state.forces.empty();
    if (forced) write_forces(model, state, true);
    const logic::Program& program = *model.program;
    logic::Execution done;
    for (const logic::Task& task : program.tasks) {
        if (task.interval.count() > 0 && now.count() % task.interval.count() != 0) continue;
        if (watch != nullptr) watch->begin(model.scan_limit);
        done = logic::execute(program.view(), task.entry, state.memory.data(), now.count(), model.watchdog_instructions,
                              watch);
        if (done.outcome != logic::Outcome::Done) break;
    }
    if (forced) write_forces(model, state, false);
    ++state.scans;
    if (done.outcome == logic::Outcome::Done) return;
    state.running = false;
    state.fault = {done, now};
}

void enter_force(ControllerState& state, const Force& force) {
    remove_force(state, force.variable);
    state.forces.push_back(force);
}

bool remove_force(ControllerState& state, int variable) {
    return std::erase_if(state.forces, [&](const Force& f) { return f.variable == variable; }) > 0;
}

std::optional<double> active_force(const ControllerState& state, int variable, ForceRole role) {
    if (!state.forces_on) return std::nullopt;
    for (const Force& f : state.forces) {
        if (f.variable == variable && f.role == role) return f.value;
    }
    return std::nullopt;
}

double published(const ControllerModel& model, const ControllerState& state, int variable) {
    if (const auto forced = active_force(state, variable, ForceRole::Output)) return *forced;
    const logic::Variable& v = model.program->variables[static_cast<std::size_t>(variable)];
    return logic::read_number(state.memory.data(), v.type, v.offset, v.bit);
}

std::optional<double> safe_value(const ControllerModel& model, int variable) {
    for (const auto& [safe, value] : model.safe_values) {
        if (safe == variable) return value;
    }
    return std::nullopt;
}

std::string fault_text(const ControllerModel& model, const ControllerState& state) {
    const logic::Execution& stopped = state.fault.execution;
    if (stopped.outcome == logic::Outcome::Done) return {};
    std::string out = fmt::format("{}: {}", model.program->place_of(stopped.instruction).text(),
                                  logic::outcome_text(stopped.outcome));
    for (std::uint32_t i = 0; i < stopped.caller_count; ++i)
        out += fmt::format(", called at {}", model.program->place_of(stopped.callers[i]).text());
    return out;
}

}  // namespace vyard::controller
