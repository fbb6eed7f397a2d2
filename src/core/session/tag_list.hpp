// All tags of a session with what belongs to them: for lists, cross-references and exports.
#pragma once

#include <string>
#include <vector>

#include "core/session/signals.hpp"

namespace vyard::session {

struct TagRow {
    int controller = 0, variable = 0;
    const logic::Variable* tag = nullptr;  ///< In the session's model.
    const wiring::Join* join = nullptr;    ///< Null when it is joined to no point.
    std::string point;                     ///< Its name; "" without.
    std::string initial;                   ///< Its value before the first scan.
    std::string now;                       ///< Its value in the session.
    std::size_t reads = 0, writes = 0;     ///< Places in the logic.
};

/// Located tags first, by area and address, then the others as declared; controller by controller.
/// Cost: tags, plus their joins by hashing.
std::vector<TagRow> tag_rows(const Session& session);

/// The ways a person may want to see a value.
enum class Display : std::uint8_t { Plain, Decimal, Signed, Hex, Binary, Time, Text };
std::optional<Display> find_display(std::string_view name);
const std::vector<std::string>& display_names();

/// The bits of a tag as `display` says: 16#00FF, 2#0000_1111, T#250ms (of a number of milliseconds), 'AB'.
std::string displayed(const Session& session, const TagRow& row, Display display);
/// The same of any signal of a controller; of the plant's, which are numbers with units, the plain value.
std::string displayed(const Session& session, const Signal& signal, Display display);

}  // namespace vyard::session
