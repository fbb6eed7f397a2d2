// The checkout list that a yard keeps, so that a partial checkout can go on another day: checkout.csv beside yard.toml.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

struct KeptLine {
    std::string direction, point, tag, address, scaling, given, expected, seen, moved, verdict, date, by, remark;
};

/// Rows of a kept list; columns it lacks stay empty. What cannot be read is reported.
std::vector<KeptLine> read_checkout(const base::SourcePtr& source, base::Diagnostics& diagnostics);

}  // namespace vyard::files
