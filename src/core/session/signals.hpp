// Anything that can be looked at in a run, by name: a controller's variable, a point of the plant, a gauge. Tags come
// first where names meet.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::session {

struct Signal {
    int controller = -1;  ///< -1 for the plant's.
    int variable = 0;
    plant::Reading reading;
    logic::Elementary type = logic::Elementary::Bool;  ///< As type_of_point() says.

    bool of_plant() const { return controller < 0; }
};

/// BOOL, DINT of whole numbers, LREAL of analog ones, STRING.
logic::Elementary type_of_point(plant::PointType type);

std::optional<Signal> find_signal(const SessionModel& model, std::string_view name);
/// Of a text: 0 of a tag's, how often it changed of a point's.
double read(const Session& session, const Signal& signal);

/// Of a signal that is a text.
std::string read_text(const Session& session, const Signal& signal);

/// The value for people, whatever its type: TRUE, 42, 'IDLE', T#850ms; gauges with their unit: "0.25 m".
std::string value_text(const Session& session, const Signal& signal);
/// The same of a number that was read.
std::string signal_text(const Signal& signal, double value);

/// All names, tags first; for hints.
std::vector<std::string> signal_names(const SessionModel& model);

/// What is wrong with the plant and the rack now, a line each.
std::vector<std::string> faults_text(const Session& session);

/// Active forces and faults, a line each, for status lines and reports.
std::vector<std::string> forces_text(const Session& session);

}  // namespace vyard::session
