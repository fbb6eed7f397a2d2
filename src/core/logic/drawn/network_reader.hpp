// From a drawing's text to networks: what stands where, what is joined to what. Reports every network on its own, so
// that one mistake does not hide those of the next.
#pragma once

#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

constexpr int kMostColumns = 1'000;  ///< Of a drawing; with the rows, bounds the memory of a network.
constexpr int kMostRows = 2'000;     ///< Of a network.

/// Fills `drawing.networks`; those that have mistakes stay empty, after a report. Cost: the characters of the drawing.
void read_drawing(Drawing& drawing, const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
