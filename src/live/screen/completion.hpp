// What a line can go on with: verbs, then what each verb takes (tags, devices with that hand control, faults of a
// device, positions of a selector, procedures, lists).
#pragma once

#include <string>
#include <vector>

#include "live/sitting.hpp"

namespace vyard::live {

struct Completion {
    std::size_t replaced = 0;          ///< So many letters before the cursor are the beginning of each.
    std::vector<std::string> choices;  ///< In order of the alphabet.
    std::string common;                ///< What all of them begin with.
};

/// `line`: up to the cursor. Cost: the names of the yard.
Completion complete(const Sitting& sitting, const std::string& line);

}  // namespace vyard::live
