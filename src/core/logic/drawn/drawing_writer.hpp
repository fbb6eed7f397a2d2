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
/// The networks of one drawing, which share the place of their right rail.
std::vector<WrittenNetwork> write_networks(const std::vector<Network>& networks, DrawnForm form);

/// A comment of a drawing.
struct DrawingNote {
    int network = 0;     ///< The index of the one that it stands above or beside; their number for what stands below.
    int element = -1;    ///< The one that it stands beside; -1 for none.
    bool title = false;  ///< Right above a network.
    std::string text;    ///< Without its marks, a line or more.
};
/// The comments of a drawing that was read, from top to bottom.
std::vector<DrawingNote> notes_of(const Drawing& drawing);

/// A row of a drawing, and what it shows most of: a network, and of that an element; -1 for none.
struct WrittenRow {
    std::string text;
    int network = -1, element = -1;
};
/// A whole drawing: networks with labels from `drawing`, titles and other comments from `notes`, in their order.
std::vector<WrittenRow> write_drawing(const Drawing& drawing, const std::vector<DrawingNote>& notes);

/// The element nearest to a row of the drawing that a network stands in.
int nearest_element(const Network& network, int row);

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
