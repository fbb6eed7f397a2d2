#include "core/controller/online_change.hpp"

#include <algorithm>
#include <unordered_map>

namespace vyard::controller {

namespace {

/// Copies one piece of state, of the same type on both sides.
void copy_piece(const logic::Storage& from, const std::byte* old_memory, const logic::Storage& to,
                std::byte* new_memory) {
    if (from.bit >= 0 || to.bit >= 0) {
        const double value = logic::read_number(old_memory, logic::Elementary::Bool, from.offset, from.bit);
        logic::write_number(new_memory, logic::Elementary::Bool, to.offset, to.bit, value);
        return;
    }
    std::copy_n(old_memory + from.offset, std::min(from.size, to.size), new_memory + to.offset);
}

}  // namespace

std::optional<int> same_variable(const logic::Program& from, int variable, const logic::Program& to) {
    const logic::Variable& old = from.variables[static_cast<std::size_t>(variable)];
    const logic::Variable* now = to.find(old.path);
    if (now == nullptr || now->type_text != old.type_text) return std::nullopt;
    return static_cast<int>(now - to.variables.data());
}

ChangeReport change_program(const ControllerModel& model, const logic::Program& program, ControllerState& state) {
    ChangeReport report;
    const logic::Program& from = *model.program;
    std::vector<std::byte> memory = program.initial_memory;
    std::unordered_map<std::string, const logic::Storage*> old;
    for (const logic::Storage& s : from.storage) old.emplace(base::fold(s.path), &s);
    for (const logic::Storage& s : program.storage) {
        const auto found = old.find(base::fold(s.path));
        const bool same = found != old.end() && found->second->type_text == s.type_text &&
                          found->second->size == s.size && !s.address;
        if (same) {
            copy_piece(*found->second, state.memory.data(), s, memory.data());
            old.erase(found);
            report.kept.push_back(s.path);
        } else {
            report.fresh.push_back(s.path);
        }
    }
    for (const logic::Storage& s : from.storage) {
        const auto found = old.find(base::fold(s.path));
        if (found != old.end() && found->second == &s) report.dropped.push_back(s.path);
    }
    std::vector<Force> forces;
    for (Force f : state.forces) {
        if (const auto now = same_variable(from, f.variable, program)) {
            f.variable = *now;
            forces.push_back(f);
        } else {
            report.unjoined.push_back(from.variables[static_cast<std::size_t>(f.variable)].path);
        }
    }
    state.forces = std::move(forces);
    state.memory = std::move(memory);
    state.fault = {};
    return report;
}

void warm_start(const ControllerModel& model, ControllerState& state) {
    std::vector<std::byte> memory = model.program->initial_memory;
    for (const logic::Storage& s : model.program->storage) {
        if (s.retain && !s.address) copy_piece(s, state.memory.data(), s, memory.data());
    }
    state.memory = std::move(memory);
    state.running = true;
    state.fault = {};
}

}  // namespace vyard::controller
