// One simulated controller: its program (model) and what a run changes (state). A scan is: the wiring has sampled the
// inputs -> input forces -> solve -> the wiring publishes the outputs, output forces replacing the logic's values.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/logic.hpp"

namespace vyard::controller {

/// How a force acts (DESIGN: forces). Inputs: replaces what was sampled. Outputs: replaces what is published, the
/// logic's own value stays in memory. Others: written before and after each scan.
enum class ForceRole : std::uint8_t { Input, Output, Other };

struct Force {
    int variable = 0;  ///< Index in Program::variables.
    ForceRole role = ForceRole::Other;
    double value = 0.0;
};

/// A value written once, just before the first scan that starts at or after its time.
struct Stimulus {
    base::Nanoseconds time{};
    int variable = 0;  ///< Index in Program::variables.
    double value = 0.0;
    std::string text;  ///< Of a text variable.
};

struct ControllerModel {
    std::string name;
    std::shared_ptr<const logic::Program> program;
    base::Nanoseconds scan{10'000'000};
    std::int64_t watchdog_instructions = 10'000'000;  ///< A task may do in loops and calls, each time it runs.
    base::Nanoseconds scan_limit{500'000'000};        ///< Of real time for one task, where a ScanWatch looks.
    std::vector<Stimulus> stimuli;                    ///< By time.
    std::vector<std::pair<int, double>> safe_values;  ///< Outputs that are not FALSE/0 when stopped: variable, value.
};

/// Why a controller stopped by itself.
struct LogicFault {
    logic::Execution execution;
    base::Nanoseconds time{};
};

struct ControllerState {
    std::vector<std::byte> memory;
    std::vector<Force> forces;
    bool forces_on = false;
    bool running = true;
    LogicFault fault;
    std::uint64_t scans = 0;
    std::size_t next_stimulus = 0;
};

ControllerState power_up(const ControllerModel& model);

/// Stimuli that are due, input forces, solve. Cost: the instructions executed. After a run-time fault the controller is
/// stopped.
void solve(const ControllerModel& model, ControllerState& state, base::Nanoseconds now,
           logic::ScanWatch* watch = nullptr);

/// Enters or replaces a force; switching forces on is another act.
void enter_force(ControllerState& state, const Force& force);
/// False when the variable was not forced.
bool remove_force(ControllerState& state, int variable);
std::optional<double> active_force(const ControllerState& state, int variable, ForceRole role);

/// What a running controller publishes for a variable: the force when on, else the logic's own value.
double published(const ControllerModel& model, const ControllerState& state, int variable);

/// What the yard gives as safe for a variable while the controller is stopped; null for FALSE and 0.
std::optional<double> safe_value(const ControllerModel& model, int variable);

/// "logic/main.st:12:5: division by zero, called at logic/main.st:80:3" and the like; "" when there is none.
std::string fault_text(const ControllerModel& model, const ControllerState& state);

}  // namespace vyard::controller
