// A made-up control program of any size, the same one as Structured Text and as C++: what the machine is measured with.
// Of twenty rungs fourteen are Boolean (three to eight contacts with a branch; a coil, a set or a reset), two are
// on-delay timers, one counts or looks for an edge, two compare and scale numbers, one is a CASE.
#pragma once

#include <string>

namespace vyard::bench {

struct Rungs {
    std::string structured_text;  ///< PROGRAM main.
    std::string cpp;              ///< extern "C" void NAME(void* state, long long now_ns), on the same memory.
    int inputs = 0;               ///< BOOLs at the start of the state, for the caller to change.
};

Rungs make_rungs(int count, const std::string& function_name);

}  // namespace vyard::bench
