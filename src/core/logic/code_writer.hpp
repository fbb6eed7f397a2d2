// Where generated code goes: instructions with their places, constants, scratch memory. Shared by the generator of
// program units and the one of conditions.
#pragma once

#include <array>
#include <map>
#include <vector>

#include "core/logic/program.hpp"

namespace vyard::logic {

/// Absolute start of each Space; `instance` changes while instances are generated.
struct Bases {
    std::uint32_t instance = 0, globals = 0, inputs = 0, outputs = 0, markers = 0;
    std::uint32_t of(Space space) const;
};

class CodeWriter {
  public:
    /// `data_end`: the first byte behind the declared data.
    explicit CodeWriter(std::uint32_t data_end) : next_(data_end) {}

    std::uint32_t here() const { return static_cast<std::uint32_t>(code.size()); }
    std::uint32_t emit(Op op, std::uint32_t dst, std::uint32_t a, std::uint32_t b, Span span);
    /// Makes the jump at `instruction` go to `target`.
    void land(std::uint32_t instruction, std::uint32_t target) { code[instruction].a = target; }

    std::uint32_t constant(Elementary type, const Expression& literal);
    std::uint32_t constant_integer(Elementary type, std::int64_t value);
    /// A slot for one value until release_temporaries().
    std::uint32_t temporary();
    void release_temporaries() { used_slots_ = 0; }
    /// A slot that is never used for anything else.
    std::uint32_t keep(std::uint32_t bytes);

    /// Initial values of everything behind data_end.
    void fill(std::vector<std::byte>& memory) const;

    std::vector<Instruction> code;
    std::vector<CodePlace> places;
    int source = 0;

  private:
    std::uint32_t constant_bytes(int size, std::array<std::byte, 8> bytes);

    std::uint32_t next_;
    std::map<std::pair<int, std::array<std::byte, 8>>, std::uint32_t> constants_;
    std::vector<std::uint32_t> slots_;
    std::size_t used_slots_ = 0;
};

/// Code for checked expressions.
class ExpressionWriter {
  public:
    ExpressionWriter(CodeWriter& writer, const Bases& bases) : writer_(writer), bases_(bases) {}

    /// Where the value of `e` can be read: its variable, a constant, or a temporary computed here.
    std::uint32_t value(const Expression& e);
    /// Computes `e` into the bytes at `dst`. Safe when `dst` is itself an operand.
    void into(const Expression& e, std::uint32_t dst);
    /// Stores `e` in a variable, bit or bytes.
    void assign(const Binding& target, const Expression& e);
    /// A jump to be landed, taken when `e` is FALSE.
    std::uint32_t jump_unless(const Expression& e);

    std::uint32_t address(const Binding& b) const { return bases_.of(b.space) + b.offset; }
    void move(Elementary type, std::uint32_t dst, std::uint32_t from, Span span);

  private:
    void binary(const Expression& e, std::uint32_t dst);
    void logical(const Expression& e, std::uint32_t dst);
    void convert(const Expression& e, std::uint32_t dst);
    void call(const Expression& e, std::uint32_t dst);

    CodeWriter& writer_;
    const Bases& bases_;
};

/// The operation of a family for a type: pick(Op::AddI8, Elementary::Int) is Op::AddI16.
Op pick(Op family, Elementary type);
Op pick_real(Op family, Elementary type);

}  // namespace vyard::logic
