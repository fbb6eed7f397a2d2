// Checked logic: every name bound, every type known, every variable laid out in memory. What the checker makes and
// the code generator reads; it knows nothing of code.
#pragma once

#include <deque>
#include <map>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/logic/address.hpp"
#include "core/logic/machine/operations.hpp"
#include "core/logic/text/syntax.hpp"
#include "core/logic/use_site.hpp"

namespace vyard::logic {

using Bytes = std::vector<std::byte>;

/// A variable of a block, a program, a function, the globals; or a field of a structure.
struct Field {
    std::string name;
    TypeRef type;
    Section section = Section::Local;
    Binding binding;
    std::optional<Address> address;
    bool incomplete_address = false;  ///< AT %I*: VAR_CONFIG says where.
    bool constant = false;
    bool retain = false;
    bool persistent = false;
    bool inherited = false;
    Edge edge = Edge::None;
    Access access = Access::Protected;
    const Declaration* declaration = nullptr;  ///< Null for fields of standard blocks.
    base::SourcePtr source;
    Bytes initial;  ///< Its value at power-up, once known; as many bytes as its type has.
    bool initial_known = false;
    bool read = false;
    bool written = false;
    std::map<std::int64_t, std::string> case_names;  ///< CONSTANTs that a CASE over it lists, or it is set to.
    std::vector<UseSite> uses;                       ///< Of globals and of what is located; in the order of checking.

    /// A part of it is written, where it was just found.
    void mark_written() {
        written = true;
        if (!uses.empty()) uses.back().write = true;
    }
};

struct Dimension {
    std::int64_t low = 0, high = 0;
    std::uint64_t count() const { return static_cast<std::uint64_t>(high - low) + 1; }
};

struct EnumConstant {
    std::string name;
    std::int64_t value = 0;
};

enum class DerivedKind : std::uint8_t { Enumeration, Subrange, Array, Structure, Reference };

/// A row of the type table.
struct DerivedType {
    DerivedKind kind = DerivedKind::Structure;
    std::string name;                    ///< "" when written in place.
    int root = -1;                       ///< The row that this one is a copy of with other initial values; else itself.
    Elementary base = Elementary::None;  ///< Enumeration, Subrange.
    std::vector<EnumConstant> values;    ///< Enumeration.
    std::int64_t low = 0, high = 0;      ///< Subrange.
    std::vector<Dimension> dimensions;   ///< Array.
    bool open = false;                   ///< Array of unknown bounds: ARRAY[*], for VAR_IN_OUT.
    TypeRef element;                     ///< Array, Reference.
    std::uint32_t stride = 0;            ///< Array: bytes from element to element.
    std::vector<Field> fields;           ///< Structure; bindings count from its start.
    std::uint32_t size = 0, alignment = 1;
    std::uint64_t parts = 1;  ///< Elementary variables within, those of an array's element counted once.
    Bytes initial;            ///< `size` bytes.
};

enum class LayoutKind : std::uint8_t { Globals, StandardBlock, FunctionBlock, Program, Function, Method, Interface };

/// A set of variables with their layout, and what belongs to it: the globals, a block, a program, a function ...
struct Layout {
    LayoutKind kind = LayoutKind::Globals;
    std::string name;  ///< Qualified by its namespace; a method's is BLOCK.METHOD.
    std::vector<Field> fields;
    std::unordered_map<std::string, int> by_name;  ///< Folded.
    std::uint32_t size = 0;                        ///< Of an instance.
    std::uint32_t alignment = 1;
    std::uint32_t frame_size = 0;      ///< Of what lives for one call; parameters come first.
    std::uint32_t parameter_size = 0;  ///< Function, Method.
    ProgramUnit* unit = nullptr;       ///< Null for standard blocks and globals.
    std::optional<Op> standard;        ///< The operation of a standard block.
    Bytes image;                       ///< An instance at power-up.
    Bytes frame_image;                 ///< A frame at the start of a call.
    bool fielded = false;              ///< Its declarations have become fields.
    bool complete = false;             ///< Laid out.
    bool in_progress = false;          ///< Being laid out; to catch a block inside itself.
    bool imaged = false;
    int depth = 1;            ///< How deep blocks are nested within.
    std::uint64_t parts = 0;  ///< Elementary variables within, at any depth; see DerivedType::parts.

    TypeRef result;  ///< Function, Method; Void for none.
    int result_field = -1;
    int owner = -1;               ///< Method: its block.
    int parent = -1;              ///< FunctionBlock: what it EXTENDS.
    std::vector<int> interfaces;  ///< What it IMPLEMENTS; an interface: what it extends.
    std::vector<int> methods;     ///< Own ones, block numbers.
    bool tagged = false;          ///< Instances start with the number of their block, for calls by interface.

    const Field* find(const std::string& field) const;
    Field* find(const std::string& field);
};

/// Tables of programs, as CONFIGURATION says or by default.
struct TaskModel {
    std::string name;
    std::int64_t interval_ns = 0;  ///< 0: once a scan.
    std::int64_t priority = 0;     ///< 0 goes first.
    ExpressionPtr single;          ///< Checked; null for none.
};
/// VAR_CONFIG gives a variable somewhere within a program instance its value at power-up.
struct ConfiguredValue {
    std::uint32_t offset = 0;  ///< From the start of the program instance.
    Bytes bytes;
};
/// VAR_CONFIG gives an address to a variable of code that instances share: its value comes from there when the program
/// starts (%I, %M) and goes there when it ends (%Q, %M).
struct ConfiguredLink {
    std::string path;          ///< Behind the name of the program instance.
    std::uint32_t offset = 0;  ///< From the start of the program instance.
    TypeRef type;
    Binding binding;  ///< In the area.
    Address address;
    Span span;
};
struct ProgramInstance {
    std::string name;
    int block = -1;
    int task = -1;       ///< -1: once a scan, behind the tasks.
    ExpressionPtr call;  ///< Its arguments, checked; null for none.
    base::SourcePtr source;
    std::vector<ConfiguredValue> values;
    std::vector<ConfiguredLink> links;
};

/// A call in a body, for the call graph.
struct CallEdge {
    int from = -1, to = -1;  ///< Blocks.
    bool direct = true;      ///< Else `to` stands for the methods that override it too.
    base::Place place;
};

/// A BOOL that a body writes, or a block that it calls, whenever it is executed.
struct WriterNote {
    const Field* field = nullptr;    ///< Null of a direct address.
    std::optional<Address> address;  ///< Of what has one.
    std::string name;
    base::Place place;
    int unit = -1;
    bool literal = false;  ///< TRUE or FALSE is written.
    bool call = false;     ///< Of a block.
};

/// A direct address in a body.
struct DirectUse {
    Address address;
    UseSite site;
};

struct CheckedLogic {
    std::vector<SyntaxFile> files;
    std::deque<DerivedType> types;          ///< TypeRef::index of derived types.
    std::deque<Layout> blocks;              ///< Standard ones first; TypeRef::index of blocks and interfaces.
    std::vector<ProgramInstance> programs;  ///< In order of execution within a task.
    std::vector<TaskModel> tasks;
    std::vector<CallEdge> calls;
    std::vector<DirectUse> direct_uses;
    std::vector<WriterNote> writers;
    std::vector<std::pair<int, int>> sure_calls;  ///< Blocks: the first calls the second whenever it is executed.
    Layout globals;
    /// Names of enumeration values, folded, with the number of their type; -1 when several types have the name.
    std::unordered_map<std::string, int> enum_values;
    std::uint32_t input_bytes = 0, output_bytes = 0, marker_bytes = 0;

    const Layout& block(int number) const { return base::at(blocks, number); }
    Layout& block(int number) { return base::at(blocks, number); }
    const DerivedType& type(const TypeRef& t) const { return base::at(types, t.index); }
    DerivedType& type(const TypeRef& t) { return base::at(types, t.index); }

    bool is_enumeration(const TypeRef& t) const;
    bool is_subrange(const TypeRef& t) const;
    /// Bytes that a variable takes, and what its address must divide by.
    std::uint32_t size_of(const TypeRef& t) const;
    std::uint32_t alignment_of(const TypeRef& t) const;
    /// Elementary variables of one such variable, of arrays one element's.
    std::uint64_t parts_of(const TypeRef& t) const;
    /// As a person writes it.
    std::string text_of(const TypeRef& t) const;
    /// What the bytes of such a variable mean, by names, types and places of its parts, whatever the types are called.
    std::string layout_text(const TypeRef& t) const;
    /// Whether both name one type; arrays are compared by what they hold.
    bool same(const TypeRef& a, const TypeRef& b) const;
    /// Whether block `block` is `wanted`, extends it or implements it.
    bool is_kind_of(int block, int wanted, int depth = 0) const;
    /// Whether a block is or holds a timer, at any depth. Cost: the fields of the blocks within.
    bool holds_timer(int block) const;
    /// The method of a block or interface by folded name, looked for in what it extends too; -1 for none.
    int find_method(int block, const std::string& folded, int depth = 0) const;
};

constexpr std::uint32_t align_to(std::uint32_t offset, std::uint32_t alignment) {
    return (offset + alignment - 1) / alignment * alignment;
}

constexpr std::uint32_t kMaxMemory = 64U << 20;    ///< Bytes a program may declare; more is refused.
constexpr int kMaxBlockDepth = 32;                 ///< Blocks within blocks.
constexpr int kMaxInheritance = 16;                ///< Interfaces that extend interfaces.
constexpr int kMaxExtends = 60;                    ///< Blocks that extend blocks.
constexpr std::uint64_t kMaxParts = 200'000;       ///< Elementary variables of one structure or block.
constexpr std::uint64_t kMaxAllParts = 1'000'000;  ///< Of a whole program: each is listed by its name.
constexpr int kMaxCallDepth = 200;                 ///< Functions calling functions; bounds the machine's stack.

}  // namespace vyard::logic
