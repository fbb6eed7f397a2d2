// Where generated code goes: instructions with their places, constants, scratch memory. Shared by the generator of
// program units and the one of conditions.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <unordered_map>
#include <vector>

#include "core/logic/check/model.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

class CodeWriter {
  public:
    /// `data_end`: the first byte behind the declared data.
    explicit CodeWriter(std::uint32_t data_end) : next_(data_end) {}

    std::uint32_t here() const { return static_cast<std::uint32_t>(code.size()); }
    std::uint32_t emit(Op op, std::uint32_t dst, std::uint32_t a, std::uint32_t b, Span span, std::uint32_t n = 0);
    /// A slot of operands behind the last instruction.
    void operands(std::uint32_t first, std::uint32_t second = 0, std::uint32_t third = 0, std::uint32_t fourth = 0);
    /// Makes the jump at `instruction` go to `target`.
    void land(std::uint32_t instruction, std::uint32_t target) { code[instruction].a = target; }
    /// Makes a conditional jump write which way it went: to `byte` when it goes on, to the one behind it when it jumps.
    void mark_jump(std::uint32_t instruction, std::uint32_t byte);

    std::uint32_t constant(Elementary type, const Expression& literal);
    std::uint32_t constant_integer(Elementary type, std::int64_t value);
    /// Bytes that never change, 8-aligned; equal ones are held once.
    std::uint32_t blob(const Bytes& bytes);
    /// The number of a truth table of six contacts; null when there are too many.
    std::optional<std::uint32_t> table(std::uint64_t bits);
    /// A slot for one value until release_temporaries().
    std::uint32_t temporary();
    void release_temporaries() { used_slots_ = 0; }
    /// A unit called by another must not use its temporaries.
    void begin_unit();
    /// A slot that is never used for anything else.
    std::uint32_t keep(std::uint32_t bytes);
    /// An empty text that is never used for anything else.
    std::uint32_t keep_text(Elementary type, int capacity);
    /// Whether [at, at + 8) is a temporary that may be overwritten when its value is used up.
    bool is_temporary(std::uint32_t at) const;

    /// Initial values of everything behind data_end.
    void fill(std::vector<std::byte>& memory) const;

    std::vector<Instruction> code;
    std::vector<CodePlace> places;
    std::vector<std::uint64_t> tables;
    int source = 0;

  private:
    std::uint32_t constant_bytes(int size, std::array<std::byte, 8> bytes);

    std::uint32_t next_;
    std::map<std::pair<int, std::array<std::byte, 8>>, std::uint32_t> constants_;
    std::map<std::string, std::uint32_t> blobs_;
    std::unordered_map<std::uint64_t, std::uint32_t> table_numbers_;
    std::vector<std::pair<std::uint32_t, int>> texts_;  ///< Where, capacity.
    std::vector<std::uint32_t> slots_;
    std::size_t used_slots_ = 0;
};

/// The operation of a family for a type: pick(Op::AddI8, Elementary::Int) is Op::AddI16.
Op pick(Op family, Elementary type);
Op pick_real(Op family, Elementary type);
/// Of {8, 16, 32, 64}-bit variants that stand in that order.
Op pick_size(Op first, int bytes);

}  // namespace vyard::logic
