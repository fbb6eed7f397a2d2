// Anything that can be looked at in a run, by name.
//
//   line_run            a tag: of an output what leaves the controller (forces, a stop and safe values included), of
//                       anything else what memory holds
//   logic.line_run      what the logic itself worked out, or read
//   lift.position       a point or an actual of the plant; plant.lift.position always means it
//   line.line_run       the tag of one of several controllers
//
// A short name that fits two different things means neither; the search then says how to write each.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session_state.hpp"

namespace vyard::session {

struct Signal {
    int controller = -1;    ///< -1 for the plant's.
    controller::Spot spot;  ///< Of a controller's.
    bool leaves = false;    ///< It is read as it leaves the controller.
    plant::Reading reading;
    logic::Elementary type = logic::Elementary::Bool;  ///< As type_of_point() says, of the plant's.

    bool of_plant() const { return controller < 0; }
    bool operator==(const Signal&) const = default;
};

/// BOOL, DINT of whole numbers, LREAL of analog ones, STRING.
logic::Elementary type_of_point(plant::PointType type);

/// The names of a list: commas and blanks divide them, but not within brackets, as in grid[1, 2].
std::vector<std::string> split_names(std::string_view text);

/// A variable of a controller that is executed elsewhere, and whose value never comes here.
bool stays_elsewhere(const SessionModel& model, const Signal& signal);

struct Search {
    std::optional<Signal> signal;
    std::string problem;  ///< Without a signal: "no tag, point or actual is named 'x'", or that it means two things.
    std::string hint;
};
Search search(const SessionModel& model, std::string_view name);
std::optional<Signal> find_signal(const SessionModel& model, std::string_view name);

/// The signal of a variable, as its bare name means it.
Signal signal_of_variable(const SessionModel& model, int controller, int variable);

/// Exact.
logic::Value value(const Session& session, const Signal& signal);
/// The same bits without the text, for telling whether it changed; of a point of text how often it did.
std::uint64_t bits(const Session& session, const Signal& signal);
/// As a number, for plots and sums: the nearest double; 0 of a tag that is a text.
double read(const Session& session, const Signal& signal);
/// Of a signal that is a text.
std::string read_text(const Session& session, const Signal& signal);

/// The value for people, whatever its type: TRUE, 42, 'IDLE', T#850ms; actuals with their unit: "0.25 m".
std::string value_text(const Session& session, const Signal& signal);
/// The same of a value that was read before.
std::string value_text(const SessionModel& model, const Signal& signal, const logic::Value& value);
/// The same, and why it is not what the logic or the wire says, where it is not: "TRUE (forced; logic: FALSE)".
std::string explained_text(const Session& session, const Signal& signal);

/// Names of an enumeration's values; null where it has none.
const logic::ValueNames* names_of(const SessionModel& model, const Signal& signal);

/// The same signal after the program of `controller` changed; null when it is gone.
std::optional<Signal> rebound(const Signal& signal, int controller, const controller::Rebinding& rebinding);

/// All names, tags first; for hints.
std::vector<std::string> signal_names(const SessionModel& model);

/// What is wrong with the plant and the rack now, a line each.
std::vector<std::string> faults_text(const Session& session);
/// "valve_1.open driven TRUE by hand": outputs that a person works by the device's own hand override.
std::vector<std::string> hands_text(const Session& session);

/// Active forces and faults, a line each, for status lines and reports.
std::vector<std::string> forces_text(const Session& session);

/// What a wire could not carry: "line.speed gave a number that is not finite, first at 0.010 s; belt.speed carries 0".
std::vector<std::string> odd_outputs_text(const Session& session);

}  // namespace vyard::session
