// Drawings written in their canonical layout: the same networks, with blocks in columns, names over the middle of their
// symbols, straight rails, comments where they were.
#pragma once

#include <optional>

#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

/// Rows of text of one network.
struct WrittenNetwork {
    std::vector<std::string> rows;  ///< In ladder with both rails.
    std::vector<int> row_of;        ///< By element: the row that stands for its DrawnElement::row.
};

/// A network on its own, as narrow as it can be.
WrittenNetwork write_network(const Network& network, DrawnForm form);

/// All drawings of a source, read.
std::vector<Drawing> drawings_of(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// Networks of a drawing as text that is the same for two drawings exactly when they mean the same: what takes its turn
/// after what, and what is joined to what, wherever it stands. Joined lines are told apart by what leads to them.
std::string drawing_meaning(const Drawing& drawing);
std::string network_meaning(const Network& network);

/// The text of a source with all its drawings in canonical layout; read back it is the same program, and written again
/// it is the same text. Null after errors, which are those of the drawings alone.
std::optional<std::string> with_drawings_formatted(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
