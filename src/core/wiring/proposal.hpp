// Which tag may belong to which point, by their names, descriptions, types and order. A proposal is a guess with its
// reason and its confidence; nothing here joins anything.
#pragma once

#include <string>
#include <vector>

#include "core/wiring/joins.hpp"

namespace vyard::wiring {

struct Proposal {
    int controller = 0, variable = 0;
    int point = 0;
    double confidence = 0.0;     ///< 0 to 1: how much the names say, and how far the second best is behind.
    std::string why;             ///< The words that meet.
    bool needs_scaling = false;  ///< An analog point and a tag of whole numbers: a person has to say how.
};

/// For tags and points that are not joined yet: each at most once, the surest first.
//
// Words are weighed by how rare they are among the points (inverse document frequency; Sparck Jones 1972), so "station"
// counts little and "agitator" much. Candidates come from lists of points by word, so that not every tag meets every
// point. Cost: words of tags x words of points (distinct ones), plus candidates.
std::vector<Proposal> propose(const std::vector<controller::ControllerModel>& controllers,
                              const plant::PlantModel& plant, const Wiring& wiring);

/// Pairs of joins, both of inputs or both of outputs, whose tags' names fit the other's point much better.
std::vector<std::pair<const Join*, const Join*>> likely_swapped(
    const std::vector<controller::ControllerModel>& controllers, const plant::PlantModel& plant, const Wiring& wiring);
/// Warns of pairs of joins that look like two wires crossed.
void warn_swapped(const std::vector<controller::ControllerModel>& controllers, const plant::PlantModel& plant,
                  const Wiring& wiring, const base::Place& map_place, base::Diagnostics& diagnostics);

}  // namespace vyard::wiring
