// Why a step failed: what changed since it began, what keeps the expected outputs off, what the devices concerned did.
#pragma once

#include <optional>
#include <utility>

#include "core/procedure/run.hpp"

namespace vyard::procedure {

/// Fills the explanations of the failed step in `out`. `beginning` is session and run as the step began; null when it
/// failed in the very instant. Runs the step once more, with everything recorded; `told`: what came from controllers
/// that are executed elsewhere, or null.
void explain(const std::optional<std::pair<session::Session, Run>>& beginning, const session::Session& end,
             const Run& failed, controller::Partner* told, ProcedureVerdict& out);

}  // namespace vyard::procedure
