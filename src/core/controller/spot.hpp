// A place in the memory of a controller.
#pragma once

#include <cstdint>

#include "core/logic/logic.hpp"

namespace vyard::controller {

/// Bytes of memory that a person names: a variable, an element, a field, a part of a word, an address.
struct Spot {
    int variable = -1;  ///< Index in Program::variables of the one it lies in; -1 for an address that no tag has.
    logic::Elementary type = logic::Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;

    bool operator==(const Spot&) const = default;
};

}  // namespace vyard::controller
