// What of the logic a set of runs exercised: for people (text), for programs (JSON), for build servers (the LCOV format
// of traces, for units in text).
#pragma once

#include "core/campaign/campaign.hpp"
#include "core/session/session.hpp"

namespace vyard::report {

/// By controller, in the order of the model.
using Coverages = std::vector<logic::Coverage>;

/// A row a unit, and every place that was not exercised: bodies and branches that never ran, contacts that were never
/// closed or never open, tags that never moved.
std::string coverage_text(const session::SessionModel& model, const Coverages& coverages);
std::string coverage_json(const session::SessionModel& model, const Coverages& coverages,
                          const campaign::ProofCoverage& proof);
/// What the proof has exercised besides the logic, a line a class, and what would add most.
std::string proof_text(const campaign::ProofCoverage& proof);
/// DA: a line of text was executed or not (1, 0); BRDA: a branch was taken or not.
std::string coverage_lcov(const session::SessionModel& model, const Coverages& coverages);

}  // namespace vyard::report
