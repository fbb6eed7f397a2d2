// Changing the logic of a running controller: every variable whose path and type still exist keeps its value, timers
// and counters with all they remember.
#pragma once

#include "core/controller/controller.hpp"

namespace vyard::controller {

struct ChangeReport {
    std::vector<std::string> kept, fresh, dropped;  ///< Paths: carried over; new, at their initial values; gone.
    std::vector<std::string> unjoined;              ///< Tags of joins and forces that the new program does not have.
};

/// Puts `state` on `program` at the boundary of a scan. References start at NULL, as addresses mean nothing in another
/// program; they are reported as fresh. Linear in the pieces of state of both.
ChangeReport change_program(const ControllerModel& model, const logic::Program& program, ControllerState& state);

/// The variable of `to` that stands for number `variable` of `from`: same path, same type; null when there is none.
std::optional<int> same_variable(const logic::Program& from, int variable, const logic::Program& to);

/// What a warm start keeps: the values of RETAIN variables, everything else at its initial value.
void warm_start(const ControllerModel& model, ControllerState& state);

}  // namespace vyard::controller
