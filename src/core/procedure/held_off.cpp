#include "core/procedure/held_off.hpp"

#include "core/logic/logic.hpp"

namespace vyard::procedure {

std::vector<HeldOff> held_off(const session::Session& session) {
    std::vector<HeldOff> out;
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const logic::Program& program = *session.model().controllers[c].program;
        const std::vector<std::byte>& memory = session.controller(static_cast<int>(c)).memory;
        logic::Why why(program, memory, session.now().count());
        for (const logic::Variable& v : program.variables) {
            const bool asked = v.is_tag && v.type == logic::Elementary::Bool && !v.constant;
            if (!asked || logic::read_bits(memory.data(), v.type, v.offset, v.bit) != 0) continue;
            for (logic::KeptOff& k : why.kept_off(v.offset, v.bit))
                out.push_back({v.path, k.drawn ? k.unit : "", k.place, std::move(k.missing)});
        }
    }
    return out;
}

std::string where_text(const HeldOff& held) {
    return held.network + (held.network.empty() ? "" : ", ") + held.place.text();
}

}  // namespace vyard::procedure
