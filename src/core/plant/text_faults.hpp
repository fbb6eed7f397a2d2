// Defects of wires that carry texts.
#pragma once

#include "core/plant/faults.hpp"

namespace vyard::plant {

/// A defect that is newly put on a wire: what is stuck stays at the text it shows, what is late has shown it all along.
void start_text_fault(PointFault& fault, const TextWire& wire, int steps_late);

/// Makes what the wire shows from what was put on it. Each new text counts as a signal. `dt_s` 0 asks
/// again in one step.
void show_text(PlantState& state, FaultedPoint& point, double dt_s);

}  // namespace vyard::plant
