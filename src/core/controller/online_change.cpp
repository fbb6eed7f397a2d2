#include "core/controller/online_change.hpp"

#include <algorithm>
#include <unordered_map>

namespace vyard::controller {

namespace {

/// Copies one piece of state, laid out alike on both sides.
void copy_piece(const logic::Storage& from, const std::byte* old_memory, const logic::Storage& to,
                std::byte* new_memory) {
    if (from.bit < 0 && to.bit < 0) {
        std::copy_n(old_memory + from.offset, std::min(from.size, to.size), new_memory + to.offset);
        return;
    }
    const std::uint64_t value = logic::read_bits(old_memory, logic::Elementary::Bool, from.offset, from.bit);
    logic::write_bits(new_memory, logic::Elementary::Bool, to.offset, to.bit, value);
}

bool alike(const logic::Program& from, const logic::Variable& a, const logic::Program& to, const logic::Variable& b) {
    if (a.type != b.type || (a.names == nullptr) != (b.names == nullptr)) return false;
    if (a.names != nullptr && *a.names != *b.names) return false;
    const auto whole = [](const logic::Variable& v) { return Spot{0, v.type, v.offset, v.bit}; };
    return !logic::is_text(a.type) || size_of(from, whole(a)) == size_of(to, whole(b));
}

}  // namespace

Rebinding::Rebinding(std::shared_ptr<const logic::Program> from, std::shared_ptr<const logic::Program> to)
    : from_(std::move(from)), to_(std::move(to)), now_(from_->variables.size(), -1) {
    for (std::size_t v = 0; v < now_.size(); ++v) {
        const logic::Variable* now = to_->find(from_->variables[v].path);
        if (now != nullptr && alike(*from_, from_->variables[v], *to_, *now))
            now_[v] = static_cast<int>(now - to_->variables.data());
    }
}

std::optional<int> Rebinding::variable(int number) const {
    const int now = base::at(now_, number);
    return now < 0 ? std::nullopt : std::optional(now);
}

std::optional<Spot> Rebinding::spot(const Spot& old) const {
    Spot out = old;
    if (old.variable >= 0) {
        const auto now = variable(old.variable);
        if (!now) return std::nullopt;
        const logic::Variable& before = base::at(from_->variables, old.variable);
        const logic::Variable& after = base::at(to_->variables, *now);
        out.variable = *now;
        out.offset = after.offset + (old.offset - before.offset);
        if (before.bit >= 0) out.bit = after.bit;
        return out;
    }
    for (const auto area : {&logic::Program::inputs, &logic::Program::outputs, &logic::Program::markers}) {
        const logic::Range& before = (*from_).*area;
        const logic::Range& after = (*to_).*area;
        if (old.offset < before.begin || old.offset >= before.begin + before.size) continue;
        const std::uint32_t within = old.offset - before.begin;
        if (within + static_cast<std::uint32_t>(logic::type_size(old.type)) > after.size) return std::nullopt;
        out.offset = after.begin + within;
        return out;
    }
    return std::nullopt;
}

namespace {

/// Something was to be written there: once a name is enough.
void is_gone(const Rebinding& rebinding, const Spot& spot, ChangeReport& report) {
    const std::string name =
        spot.variable < 0 ? "an address" : base::at(rebinding.from().variables, spot.variable).path;
    if (std::find(report.unjoined.begin(), report.unjoined.end(), name) == report.unjoined.end())
        report.unjoined.push_back(name);
}

}  // namespace

ChangeReport change_program(const Rebinding& rebinding, ControllerState& state) {
    ChangeReport report;
    const logic::Program& from = rebinding.from();
    const logic::Program& program = rebinding.to();
    std::vector<std::byte> memory = program.initial_memory;
    std::unordered_map<std::string, const logic::Storage*> old;
    for (const logic::Storage& s : from.storage) old.emplace(base::fold(s.path), &s);
    for (const logic::Storage& s : program.storage) {
        const auto found = old.find(base::fold(s.path));
        const bool same =
            found != old.end() && found->second->layout == s.layout && found->second->size == s.size && !s.address;
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
    state.link.held.clear();  // bytes of the program before; what comes next is of this one
    state.link.coming.clear();
    base::Rare<Force> forces;
    for (Force& f : state.forces) {
        if (const auto now = rebinding.spot(f.spot)) {
            f.spot = *now;
            forces.push_back(std::move(f));
        } else {
            report.unjoined.push_back(f.name);
        }
    }
    state.forces = std::move(forces);
    base::Rare<Stimulus> writes;
    for (Stimulus& w : state.writes) {
        if (const auto now = rebinding.spot(w.spot)) {
            writes.push_back({w.time, *now, std::move(w.value)});
        } else {
            is_gone(rebinding, w.spot, report);
        }
    }
    state.writes = std::move(writes);
    state.memory = std::move(memory);
    state.fault = {};
    return report;
}

void rebind_model(const Rebinding& rebinding, ControllerModel& model, ControllerState& state, ChangeReport& report) {
    std::vector<std::pair<int, logic::Value>> safe;
    for (auto& [variable, value] : model.safe_values) {
        if (const auto now = rebinding.variable(variable)) {
            safe.emplace_back(*now, std::move(value));
        } else {
            report.unjoined.push_back(base::at(rebinding.from().variables, variable).path);
        }
    }
    model.safe_values = std::move(safe);
    if (model.link) {
        std::vector<RegisterEntry> registers;
        for (RegisterEntry& e : model.link->registers) {
            if (const auto now = rebinding.variable(e.variable)) {
                e.variable = *now;
                registers.push_back(std::move(e));
            } else {
                report.unjoined.push_back(base::at(rebinding.from().variables, e.variable).path);
            }
        }
        model.link->registers = std::move(registers);
    }
    std::vector<Stimulus> stimuli;
    std::size_t written = 0;
    for (std::size_t i = 0; i < model.stimuli.size(); ++i) {
        Stimulus& s = model.stimuli[i];
        if (const auto now = rebinding.spot(s.spot)) {
            written += i < state.next_stimulus ? 1U : 0U;
            stimuli.push_back({s.time, *now, std::move(s.value)});
        } else if (i >= state.next_stimulus) {
            is_gone(rebinding, s.spot, report);
        }
    }
    model.stimuli = std::move(stimuli);
    state.next_stimulus = written;
}

namespace {

template <class Kept>
std::vector<std::byte> memory_with(const ControllerModel& model, const ControllerState& state, const Kept& kept) {
    std::vector<std::byte> memory = model.program->initial_memory;
    for (const logic::Storage& s : model.program->storage) {
        if (kept(s) && !s.address) copy_piece(s, state.memory.data(), s, memory.data());
    }
    return memory;
}

}  // namespace

std::vector<std::byte> warm_memory(const ControllerModel& model, const ControllerState& state) {
    return memory_with(model, state, [](const logic::Storage& s) { return s.retain; });
}

std::vector<std::byte> cold_memory(const ControllerModel& model, const ControllerState& state) {
    return memory_with(model, state, [](const logic::Storage& s) { return s.persistent; });
}

}  // namespace vyard::controller
