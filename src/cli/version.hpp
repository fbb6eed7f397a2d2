// What this program is, and where it lies.
#pragma once

#include <string>

namespace vyard::cli {

/// "0.1.0 (commit 1a2b3c4d)"; without a commit where it was not built from a clone.
std::string version_text();

/// The shipped examples: beside an installed program, else in the tree it was built from.
std::string examples_folder();

}  // namespace vyard::cli
