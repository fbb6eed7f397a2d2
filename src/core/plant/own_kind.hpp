// Kinds whose behaviour is a FUNCTION_BLOCK in Structured Text. The block's inputs become points that the controller
// writes, except those that the plant file, hands or faults set; its outputs become points that it reads, those aside
// that tell mishaps; its other variables are actuals. Its memory is the device's state, so it is part of every
// snapshot.
#pragma once

#include <memory>

#include "core/logic/logic.hpp"
#include "core/plant/definition.hpp"
#include "core/plant/step.hpp"

namespace vyard::plant {

/// What a kind of one's own needs besides its declaration.
struct OwnKind {
    struct Wire {
        int point = 0;  ///< Number of the point in the kind's list.
        logic::Elementary type = logic::Elementary::Bool;
        std::uint32_t offset = 0;
        int bit = -1;
    };
    std::shared_ptr<const logic::Program> program;
    std::vector<Wire> from_controller, to_controller;
    std::vector<Wire> mishaps;  ///< In the order of the kind's list.
};

/// Null after a report.
/// Words that orders and procedures start with or are made of, and the prompt's own; no control may be named so.
const std::vector<std::string>& order_words();

std::shared_ptr<const Kind> make_own_kind(const OwnKindDefinition& definition, base::Diagnostics& diagnostics);

/// What the file of the plant sets, into the memory of the block.
void set_own_parameters(const Kind& kind, const std::byte* model, std::byte* state);
/// The state of such a device at power-up, with what its file sets; into its model goes what its block shows until its
/// first step.
void start_own_device(const Kind& kind, std::byte* model, std::byte* state);

}  // namespace vyard::plant
