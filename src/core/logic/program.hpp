// A compiled program: the immutable model that any number of controller states run from.
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/address.hpp"
#include "core/logic/machine/clocks.hpp"
#include "core/logic/machine/machine.hpp"
#include "core/logic/text/syntax.hpp"
#include "core/logic/use_site.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

/// One elementary variable of one instance, at its place in memory.
struct Variable {
    std::string path;  ///< "line_run", "main.dwell.ET", "main.level[3]"; as declared.
    Elementary type = Elementary::Bool;
    std::string type_text;  ///< As a person writes it: "INT", "Colour", "STRING[20]".
    std::uint32_t offset = 0;
    int bit = -1;
    Section section = Section::Local;
    Address address;      ///< area None unless located.
    bool is_tag = false;  ///< Global, or located in a program.
    bool constant = false;
    bool retain = false;
    bool persistent = false;  ///< Retained through a cold start too.
    bool read = false;        ///< By the logic.
    bool written = false;     ///< By the logic.
    base::Place place;
    std::string description;
    std::shared_ptr<const ValueNames> names;           ///< Of an enumeration's values.
    std::shared_ptr<const ValueNames> case_names;      ///< Of a whole number: CONSTANTs that it takes.
    std::shared_ptr<const std::vector<UseSite>> uses;  ///< Of a tag, each place once, in the order of the files.
};

/// A piece of a program's state that keeps its value together: a variable, a timer, an array.
struct Storage {
    std::string path;
    std::string layout;  ///< What its bytes mean: names, types and places of all parts; equal ones can be copied.
    std::uint32_t offset = 0;
    std::uint32_t size = 0;
    int bit = -1;
    bool retain = false;
    bool persistent = false;
    bool address = false;  ///< A reference: its value means nothing in another program.
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

/// A task: when its code runs. SINGLE is judged by the code itself.
struct Task {
    std::string name;              ///< "" for what runs once a scan.
    base::Nanoseconds interval{};  ///< 0: every scan.
    std::int64_t priority = 0;     ///< 0 first.
    std::uint32_t entry = 0;
};

struct CheckedLogic;

/// An instance of a program.
struct ProgramPlace {
    std::string name;
    int block = -1;  ///< In CheckedLogic::blocks.
    std::uint32_t offset = 0;
};

/// A body or a branch that tells when it begins, in a program compiled for coverage.
struct CoverMark {
    std::string unit;
    std::string what;  ///< "body", "IF", "ELSIF", "ELSE", "CASE 1, 2", "loop", "behind a jump", "action A" of a chart;
                       ///< "power" of a network that does something while it has power.
    int source = 0;    ///< In Program::sources.
    Span span;
    std::uint32_t offset = 0;  ///< Of its byte, which becomes 1.
};
/// A statement, and the mark that tells whether it was executed.
struct CoverLine {
    std::string unit;
    int source = 0;
    int line = 0;
    int network = 0;  ///< Of the unit's drawings; 0 for text.
    int mark = 0;     ///< In Program::marks.
};

/// A direct address that bodies use, such as %QW4.
struct DirectAddress {
    Address address;
    std::vector<UseSite> uses;  ///< Each place once, in the order of the files.
};

struct Program {
    std::vector<Instruction> code;
    std::vector<CodePlace> places;  ///< One an instruction.
    std::vector<base::SourcePtr> sources;
    std::vector<std::uint32_t> dispatch;  ///< See CodeView.
    std::uint32_t methods = 0;
    std::vector<std::uint64_t> tables;      ///< See CodeView.
    std::vector<std::byte> initial_memory;  ///< Areas, globals, instances, frames, scratch, constants.
    Range inputs, outputs, markers;         ///< The areas %I, %Q, %M.
    std::uint32_t tags_end = 0;             ///< Areas and globals end here, and so do all tags; instances follow.
    std::uint32_t data_end = 0;             ///< State ends here; frames, scratch and constants follow.
    std::uint32_t globals_begin = 0;
    std::vector<ProgramPlace> programs;
    std::shared_ptr<const CheckedLogic> checked;   ///< The tree it came from, for logic::Why.
    std::vector<Task> tasks;                       ///< In the order in which they run when several are due.
    std::vector<Variable> variables;               ///< In order of declaration.
    std::vector<Storage> storage;                  ///< All state, by path.
    std::vector<Clock> clocks;                     ///< But those in arrays of which not all elements are listed.
    bool step_times_read = false;                  ///< The logic looks at T of some step of a chart.
    std::unordered_map<std::string, int> by_path;  ///< Folded path -> index in `variables`.
    std::vector<DirectAddress> direct_addresses;   ///< By area and first bit.
    std::vector<CoverMark> marks;                  ///< Empty unless compiled for coverage.
    std::vector<CoverLine> lines;

    const Variable* find(std::string_view path) const;
    base::Place place_of(std::uint32_t instruction) const;
    CodeView view() const { return {code.data(), dispatch.data(), methods, tables.data()}; }
};

/// The longest scan in which every task with an interval comes in time; null when none has one.
std::optional<base::Nanoseconds> scan_of_tasks(const Program& program);

/// Elements of an array that are listed as variables; larger arrays keep the rest to themselves.
constexpr std::uint64_t kMaxListed = 1024;
constexpr std::size_t kMaxVariables = 200'000;  ///< Beyond these, elements of arrays are no longer listed.

/// One line an instruction: "12  AddI16 dst=40 a=32 b=96    ; logic/main.st:14:9".
std::string code_text(const Program& program);

/// The instructions of one line of a source, with the names of the variables they touch; "" when it has none.
std::string explain_line(const Program& program, const std::string& path, int line);

Value variable_value(const std::byte* memory, const Variable& variable);
/// As the language writes it; an enumeration's by its name.
std::string variable_text(const std::byte* memory, const Variable& variable);

}  // namespace vyard::logic
