// accept.csv of a yard: findings of campaigns that are known and right as they are, each with a reason and a date.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::files {

struct Accepted {
    std::string campaign, finding, reason, date;
    int line = 0;
};

/// Columns campaign, finding, reason, date. A row without a reason is an error.
std::vector<Accepted> read_accept_list(const base::SourcePtr& source, base::Diagnostics& diagnostics);

/// The text of the file with more rows at its end; `before` may be "".
std::string with_accepted(const std::string& before, const std::vector<Accepted>& more);

}  // namespace vyard::files
