// What people state of a wire, in the name and description of its tag and the note of its row. The map says how a wire
// is joined; this says what was meant, so that one can be held against the other.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "core/base/base.hpp"
#include "core/plant/plant.hpp"

namespace vyard::wiring {

/// What was written of one tag. Words of its name count as those of its texts do.
struct Statement {
    std::string name, description, note;
};

/// Which contact they mean: normally closed also by "NC" and "TRUE at rest", normally open also by "NO" in capitals and
/// "FALSE at rest". Of a device that `guards` (its contact is open when something is wrong: an e-stop, a cord, an
/// overload) "healthy" and "ok" mean normally closed too. Null when they say nothing, or both. A note comes before a
/// description, and that before a name.
std::optional<plant::Contact> stated_contact(const Statement& statement, bool guards);

/// That the wire is turned round ("inverted"), or its bytes or words are ("swapped"), on purpose.
bool states_inversion(const Statement& statement);
bool states_swapping(const Statement& statement);

/// The ends of a range in a unit of `dimension`: "0..10 bar", "0 m to 0.6 m"; SI, the lower first. Null when there is
/// none, or several that differ. Plain numbers are no range: they may be of anything.
std::optional<std::pair<double, double>> stated_range(const Statement& statement, base::Dimension dimension);

/// Two words for opposite directions, one in each name, and neither name has both: {"up", "down"}. Null when there are
/// none.
std::optional<std::pair<std::string, std::string>> opposite_words(std::string_view a, std::string_view b);

/// How many words two names have in common, numbers included.
int words_in_common(std::string_view a, std::string_view b);

}  // namespace vyard::wiring
