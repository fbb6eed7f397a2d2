// From syntax trees to checked logic: every name bound, every type known, every variable laid out in memory.
// Knows nothing of code generation.
#pragma once

#include <deque>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/logic/address.hpp"
#include "core/logic/operations.hpp"
#include "core/logic/syntax.hpp"

namespace vyard::logic {

/// A variable of a block, a program or the globals.
struct Field {
    std::string name;
    TypeRef type;
    Section section = Section::Local;
    Binding binding;  ///< Space Instance or Globals, or an area when located.
    std::optional<Address> address;
    bool constant = false;
    const Declaration* declaration = nullptr;  ///< Null for fields of standard blocks.
    base::SourcePtr source;
    bool read = false;
    bool written = false;
};

/// A set of fields with their layout: the globals, a function block type or a program.
struct Layout {
    std::string name;
    std::vector<Field> fields;
    std::unordered_map<std::string, int> by_name;  ///< Folded.
    std::uint32_t size = 0;
    const ProgramUnit* unit = nullptr;  ///< Null for standard blocks and globals.
    std::optional<Op> standard;         ///< The operation of a standard block.
    bool complete = false;              ///< Laid out; false while it is being done, to catch a block inside itself.
    bool in_progress = false;
    int depth = 1;  ///< How deep blocks are nested within.

    Field* find(const std::string& name);
};

struct CheckedLogic {
    std::vector<SyntaxFile> files;
    std::deque<Layout> blocks;  ///< Standard ones first; TypeRef::block indexes this list.
    std::vector<int> programs;  ///< Indices into `blocks`, in order of execution.
    Layout globals;
    std::uint32_t input_bytes = 0, output_bytes = 0, marker_bytes = 0;
};

constexpr std::uint32_t kMaxMemory = 64U << 20;  ///< Bytes a program may declare; more is refused.
constexpr int kMaxBlockDepth = 32;               ///< Blocks within blocks.

/// Checks the files of one controller together. The result is usable only if no error was reported.
CheckedLogic check_logic(std::vector<SyntaxFile> files, base::Diagnostics& diagnostics);

}  // namespace vyard::logic
