// What the TOML readers share: parsing with a diagnostic, places of keys and values, checked access. Internal to files.
#pragma once

// What the library asserts of a file ("[=]" begins no name) it reports as well, right behind: it is not to end the
// program there, nor to let an optimiser take it for granted.
#pragma push_macro("NDEBUG")
#undef NDEBUG
#define TOML_ASSERT(expression) static_assert(true)
#include <toml++/toml.h>
#pragma pop_macro("NDEBUG")

#include <optional>
#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/plant/plant.hpp"

namespace vyard::files {

/// Null after a syntax error, which is reported.
std::optional<toml::table> parse_toml(const base::SourcePtr& source, base::Diagnostics& diagnostics);

base::Place place_of(const base::SourcePtr& source, const toml::source_region& region, int length = 1);
inline base::Place place_of(const base::SourcePtr& source, const toml::key& key) {
    return place_of(source, key.source(), static_cast<int>(key.length()));
}

/// A value as a definition: form, contents, place.
plant::DefinitionValue definition_value(const base::SourcePtr& source, const toml::node& node);

/// Reports every key of `table` that is not in `known`.
void check_keys(const base::SourcePtr& source, const toml::table& table, const std::vector<std::string>& known,
                const std::string& where, base::Diagnostics& diagnostics);

/// A text under `key`; null when absent; reports another type.
std::optional<std::string> text_at(const base::SourcePtr& source, const toml::table& table, std::string_view key,
                                   base::Place& place, base::Diagnostics& diagnostics);

}  // namespace vyard::files
