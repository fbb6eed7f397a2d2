// The shipped yard that benchmarks measure on.
#pragma once

#include "files/yard_file.hpp"

namespace vyard::bench {

inline const files::Yard& glaze_line() {
    static const files::Yard loaded = [] {
        base::Diagnostics diagnostics;
        files::Yard y = files::load_yard(VYARD_EXAMPLES "/glaze-line", diagnostics);
        VYARD_CHECK(y.model != nullptr);
        return y;
    }();
    return loaded;
}

}  // namespace vyard::bench
