#include "link/ports.hpp"

namespace vyard::link {

Ports::Ports(const controller::ControllerModel& model) {
    const bool plant_serves = model.link->role == controller::LinkRole::Server;
    for (const controller::RegisterEntry& e : model.link->registers) {
        const logic::Variable& v = base::at(model.program->variables, e.variable);
        (e.to_controller ? inputs_ : outputs_).push_back(static_cast<int>(cells_.size()));
        spots_.push_back({e.variable, v.type, v.offset, v.bit});
        // The one end serves; the other end writes what is for the one.
        cells_.push_back({e.place, v.type, plant_serves != e.to_controller});
    }
}

logic::Value Ports::get(int cell, const std::byte* memory) const {
    const controller::Spot& s = base::at(spots_, cell);
    return logic::read_value(memory, s.type, s.offset, s.bit);
}

void Ports::put(int cell, const logic::Value& value, std::byte* memory) const {
    const controller::Spot& s = base::at(spots_, cell);
    logic::write_value(memory, value, s.offset, s.bit);
}

std::vector<logic::Value> Ports::values(const std::vector<int>& which, const std::byte* memory) const {
    std::vector<logic::Value> out(cells_.size());
    for (const int cell : which) base::at(out, cell) = get(cell, memory);
    return out;
}

}  // namespace vyard::link
