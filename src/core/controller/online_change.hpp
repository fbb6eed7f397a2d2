// Changing the logic of a running controller: every variable whose path and layout still exist keeps its value, timers
// and counters with all they remember; and whatever names a variable of the old program by number or place finds it in
// the new one through one Rebinding.
#pragma once

#include "core/controller/state.hpp"

namespace vyard::controller {

struct ChangeReport {
    std::vector<std::string> kept, fresh, dropped;  ///< Paths: carried over; new, at their initial values; gone.
    std::vector<std::string> unjoined;  ///< Names of joins, forces and the like that the new program does not have.
    std::shared_ptr<const class Rebinding> rebinding;  ///< For whoever else holds names of the old program.
};

/// Where the variables of one program are in another: those of the same path that lie in memory alike.
class Rebinding {
  public:
    /// Linear in the variables of both.
    Rebinding(std::shared_ptr<const logic::Program> from, std::shared_ptr<const logic::Program> to);

    /// Null when it is gone or of another kind.
    std::optional<int> variable(int number) const;
    /// The same bytes of the same variable; of an address that no tag has, the address itself.
    std::optional<Spot> spot(const Spot& old) const;
    const logic::Program& from() const { return *from_; }
    const logic::Program& to() const { return *to_; }

  private:
    std::shared_ptr<const logic::Program> from_, to_;
    std::vector<int> now_;  ///< By old number; -1.
};

/// Puts `state` on the new program at the boundary of a scan. References start at NULL, as addresses mean nothing in
/// another program; they are reported as fresh. Forces and writes follow. Linear in the pieces of state of both.
ChangeReport change_program(const Rebinding& rebinding, ControllerState& state);
/// The same of what the model holds by place: safe values and stimuli, of which the state knows the next one. The
/// outputs are laid out by the wiring.
void rebind_model(const Rebinding& rebinding, ControllerModel& model, ControllerState& state, ChangeReport& report);

/// Memory after a warm start: the values of RETAIN variables, everything else at its initial value.
std::vector<std::byte> warm_memory(const ControllerModel& model, const ControllerState& state);
/// After a cold start: PERSISTENT variables alone keep theirs.
std::vector<std::byte> cold_memory(const ControllerModel& model, const ControllerState& state);

}  // namespace vyard::controller
