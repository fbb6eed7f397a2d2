// Where a body reads or writes a variable, for cross-references.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::logic {

struct UseSite {
    base::Place place;
    std::string unit;  ///< The program unit whose body it is.
    bool write = false;
};

}  // namespace vyard::logic
