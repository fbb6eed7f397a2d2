// Lists of tags as CSV: columns tag (or name), address, type, description, in any order; other columns are passed over,
// so that what `vyard tags --csv` wrote can be read back.
#pragma once

#include <string>
#include <vector>

#include "core/logic/logic.hpp"

namespace vyard::files {

struct ListedTag {
    std::string name, address, type, description;
    base::Place name_place, address_place, type_place;
};

/// What cannot be read is reported and left out.
std::vector<ListedTag> read_tag_list(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// What is new in `listed` against a program. A tag that is there already with the same address and type is passed
/// over; another address or type, an address that is taken, or two rows of one name are reported.
std::vector<ListedTag> new_tags(const std::vector<ListedTag>& listed, const logic::Program& program,
                                base::Diagnostics& diagnostics);

/// VAR_GLOBAL ... END_VAR with their descriptions as comments.
std::string declarations_of(const std::vector<ListedTag>& tags);

}  // namespace vyard::files
