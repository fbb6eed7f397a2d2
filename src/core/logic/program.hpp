// A compiled program: the immutable model that any number of controller states run from.
#pragma once

#include <cstddef>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/address.hpp"
#include "core/logic/operations.hpp"
#include "core/logic/syntax.hpp"

namespace vyard::logic {

/// One elementary variable of one instance, at its place in memory.
struct Variable {
    std::string path;  ///< "line_run", "main.dwell.ET"; as declared.
    Elementary type = Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;
    Section section = Section::Local;
    Address address;      ///< area None unless located.
    bool is_tag = false;  ///< Global, or located in a program.
    bool constant = false;
    bool read = false;     ///< By the logic.
    bool written = false;  ///< By the logic.
    base::Place place;
    std::string description;
};

/// Bytes [begin, begin + size) of memory.
struct Range {
    std::uint32_t begin = 0;
    std::uint32_t size = 0;
};

struct CodePlace {
    int source = 0;
    Span span;
};

struct Program {
    std::vector<Instruction> code;
    std::vector<CodePlace> places;  ///< One an instruction.
    std::vector<base::SourcePtr> sources;
    std::vector<std::byte> initial_memory;  ///< Areas, globals, instances, scratch, constants.
    Range inputs, outputs, markers;         ///< The areas %I, %Q, %M.
    std::uint32_t tags_end = 0;             ///< Areas and globals end here, and so do all tags; instances follow.
    std::uint32_t data_end = 0;             ///< State ends here; scratch and constants follow.
    std::uint32_t entry = 0;
    std::vector<Variable> variables;               ///< In order of declaration.
    std::unordered_map<std::string, int> by_path;  ///< Folded path -> index in `variables`.

    const Variable* find(std::string_view path) const;
    base::Place place_of(std::uint32_t instruction) const;
};

/// One line an instruction: "12  AddI16 dst=40 a=32 b=96    ; logic/main.st:14:9".
std::string code_text(const Program& program);

/// Reads or writes a variable as a number: BOOL 0/1, TIME in nanoseconds. Exact for all types but 64-bit integers
/// beyond 2^53.
double read_number(const std::byte* memory, Elementary type, std::uint32_t offset, int bit);
void write_number(std::byte* memory, Elementary type, std::uint32_t offset, int bit, double value);

/// The value as the language writes it: TRUE, 42, 3.5, T#850ms.
std::string value_text(Elementary type, double value);

}  // namespace vyard::logic
