// All tags of a session with what belongs to them: for lists, cross-references and exports.
#pragma once

#include <string>
#include <vector>

#include "core/session/signals.hpp"

namespace vyard::session {

struct TagRow {
    int controller = 0, variable = 0;
    const logic::Variable* tag = nullptr;       ///< In the session's model.
    std::vector<const wiring::Join*> joins;     ///< Of the whole tag or of its bits, in the order of the map.
    std::vector<const wiring::Jumper*> fed_by;  ///< Jumpers that come from other tags.
    std::vector<const wiring::Jumper*> feeds;   ///< Jumpers that go to other tags.
    std::string initial;                        ///< Its value before the first scan.
    std::string now;                            ///< Its value in the session; "elsewhere" where it never comes here.
    std::size_t reads = 0, writes = 0;          ///< Places in the logic.
};

/// Located tags first, by area and address, then the others as declared; controller by controller.
/// Cost: tags, plus their joins by hashing.
std::vector<TagRow> tag_rows(const Session& session);

/// "stop.contact"; ".%X3 guard.closed" of a bit of a word; "from other_tag" of a jumper.
std::string join_text(const SessionModel& model, const wiring::Join& join);
std::string source_text(const SessionModel& model, const wiring::Jumper& jumper);
/// All of them, with commas.
std::string joins_text(const SessionModel& model, const TagRow& row);
/// "RETAIN", "PERSISTENT" or "".
const char* keeping_text(const logic::Variable& variable);

/// Lets the machine settle: until no input has changed for a second, or for half a minute in all. How long it took
/// until the last change; null when it did not settle. `watch`: see Session.
std::optional<base::Nanoseconds> settle(Session& session);

/// The ways a person may want to see a value.
enum class Display : std::uint8_t { Plain, Decimal, Signed, Hex, Binary, Time, Text };
std::optional<Display> find_display(std::string_view name);
const std::vector<std::string>& display_names();

/// The bits of a tag as `display` says: 16#00FF, 2#0000_1111, T#250ms (of a number of milliseconds), 'AB'.
std::string displayed(const Session& session, const TagRow& row, Display display);
/// The same of any signal of a controller; of the plant's, which are numbers with units, the plain value.
std::string displayed(const Session& session, const Signal& signal, Display display);

}  // namespace vyard::session
