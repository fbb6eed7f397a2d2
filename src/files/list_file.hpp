// Lists of tags to look at and to modify, as people keep them beside a machine: CSV with columns tag, display, value
// (to write), note, in any order; display, value and note may be missing. They are files lists/*.csv of a yard.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

struct ListRow {
    std::string tag, display, value, note;
    base::Place tag_place, display_place, value_place;
};

/// The rows in the order of the file; names and values are checked by who uses them.
std::vector<ListRow> read_list(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// Names of the lists of a yard, without folder and ending, by name.
std::vector<std::string> list_names(const std::string& yard_folder);
/// The file of a list of that name.
std::string list_path(const std::string& yard_folder, const std::string& name);

}  // namespace vyard::files
