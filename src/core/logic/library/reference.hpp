// What the language offers ready-made, for help texts: standard function blocks and functions, and the library of our
// own with what its texts say of themselves.
#pragma once

#include <string>
#include <vector>

namespace vyard::logic {

struct ReferencePort {
    std::string section;  ///< "input", "output", "in-out", "result".
    std::string name, type, initial, help;
};

enum class ReferenceKind { StandardBlock, StandardFunction, OwnBlock, OwnFunction, OwnType };

struct ReferenceEntry {
    ReferenceKind kind = ReferenceKind::StandardBlock;
    std::string name, summary;
    std::vector<ReferencePort> ports;
    std::string text;  ///< Of our own: the whole source.
};

/// Blocks, then our own, then functions; within each in the order of their lists.
std::vector<ReferenceEntry> reference();

}  // namespace vyard::logic
