// The library of our own: blocks and functions in Structured Text, from library/*.st at the top of the project. A unit
// is taken into a program when its name stands in the logic and the logic does not declare one of that name itself.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::logic {

struct LibraryFile {
    const char* name;  ///< Of the unit, and of its file without ".st".
    const char* text;
};

/// In order of name.
const std::vector<LibraryFile>& library_files();

/// As a source for the parser: its path is "library/NAME.st".
base::SourcePtr library_source(const LibraryFile& file);

}  // namespace vyard::logic
