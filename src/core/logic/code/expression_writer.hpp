// Code for checked expressions, places and calls.
//
// Values are operands: where a scalar can be read. Texts, arrays and structures are places; operations on them take
// slots that hold their addresses.
//
// Files: expression_writer.cpp operators and places, boolean_writer.cpp rungs as truth tables, call_writer.cpp calls,
// function_writer.cpp the standard functions, conversion_writer.cpp conversions.
#pragma once

#include <optional>

#include "core/logic/code/code_writer.hpp"

namespace vyard::logic {

/// Where a variable is: at an operand, or `displacement` bytes behind the address that a slot holds.
struct Place {
    std::uint32_t at = 0;
    bool indirect = false;
    std::uint32_t displacement = 0;
    int bit = -1;

    Place moved(std::uint32_t bytes) const {
        Place out = *this;
        (out.indirect ? out.displacement : out.at) += bytes;
        return out;
    }
};

/// Operands at which each Space starts; `instance` is kSelf in code that blocks share.
struct Bases {
    std::uint32_t instance = 0, frame = 0, globals = 0, inputs = 0, outputs = 0, markers = 0;
    std::uint32_t of(Space space) const;
};

/// What calls need to know of the units: where frames lie, and which calls wait for the entries of their callees.
struct CallTable {
    std::vector<std::uint32_t> frames;                 ///< By block: where its frame starts.
    std::vector<std::uint32_t> regions;                ///< By block, of methods: where arguments are passed.
    std::vector<std::uint32_t> method_numbers;         ///< By block, of methods: equal names, equal numbers.
    std::vector<std::pair<std::uint32_t, int>> calls;  ///< Instruction, block whose body it calls.
    std::vector<bool> standard_routines;               ///< Standard blocks called by address.
};

class ExpressionWriter {
  public:
    ExpressionWriter(CodeWriter& writer, const Bases& bases, const CheckedLogic* logic = nullptr,
                     CallTable* calls = nullptr)
        : writer_(writer), bases_(bases), logic_(logic), calls_(calls) {}

    /// Where the value of a scalar `e` can be read: its variable, a constant, or a temporary computed here.
    std::uint32_t value(const Expression& e);
    /// Computes a scalar `e` into the bytes at `dst`. Safe when `dst` is itself an operand.
    void into(const Expression& e, std::uint32_t dst);
    /// The place of a variable; index checks are written on the way.
    Place place(const Expression& e);
    /// Stores `e`, of any type, in a variable of type `type`.
    void store(const Place& to, const TypeRef& type, const Expression& e);
    /// A jump to be landed, taken when `e` is FALSE.
    std::uint32_t jump_unless(const Expression& e);
    /// A call as a statement.
    void call_statement(const Expression& e);
    /// IF condition THEN x := TRUE; ... END_IF without a jump; false when it is not of that form.
    bool latch(const Expression& condition, const StatementList& body);
    /// IF condition THEN x := y; END_IF without a jump; false when it is not of that form.
    bool move_if(const Expression& condition, const StatementList& body);
    /// dst := `e` when it is an instance of block number tag in `e`'s kind, else NULL.
    void attempt(const Place& to, const Expression& e, int wanted);

    /// Arguments of a program instance at `instance`, before and after its body.
    void pass_arguments(const Expression& call, const Layout& program, std::uint32_t instance) {
        pass(call, program, {instance, false, 0, -1});
    }
    void take_arguments(const Expression& call, const Layout& program, std::uint32_t instance) {
        take_outputs(call, program, {instance, false, 0, -1});
    }

    void move(Elementary type, std::uint32_t dst, std::uint32_t from, Span span);
    /// Copies between places of one type.
    void copy(const Place& to, const Place& from, const TypeRef& type, Span span);

  private:
    // --- places ---
    Place place_index(const Expression& e);
    std::uint32_t load(const Place& p, Elementary type, Span span);
    void load_into(const Place& p, Elementary type, std::uint32_t dst, Span span);
    void store_value(const Place& to, Elementary type, std::uint32_t from, Span span);
    /// A slot that holds the address of `p`.
    std::uint32_t address(const Place& p, Span span);
    /// The place of a text, array or structure, a variable or computed.
    Place aggregate(const Expression& e);

    // --- operators ---
    void binary(const Expression& e, std::uint32_t dst);
    void compare_texts(const Expression& e, std::uint32_t dst);
    bool multiply_add(const Expression& e, std::uint32_t dst);

    // --- booleans ---
    struct Rung;
    bool rung(const Expression& e, std::uint32_t dst);
    void reduce(const Expression& e, Rung& out, bool negated);
    void add_contact(Rung& out, std::uint32_t operand, int bit, bool negated);
    void combine(Rung& left, Rung& right, Operator op, Span span);
    void materialize(Rung& r, Span span);
    void write_rung(const Rung& r, std::uint32_t dst, Span span);

    // --- conversions ---
    void convert(const Expression& e, std::uint32_t dst);
    void convert_bcd(const Expression& e, std::uint32_t dst);
    void convert_number(Elementary from, std::uint32_t a, Elementary to, std::uint32_t dst, Span span);
    Place convert_text(const Expression& e);

    // --- calls ---
    std::uint32_t call_value(const Expression& e);
    void call(const Expression& e);
    void call_function(const Expression& e);
    void call_block(const Expression& e);
    void call_standard_block(const Expression& e, const Layout& block, const Place& instance);
    bool call_fused(const Expression& e, const Layout& block, const Place& instance);
    void call_method(const Expression& e);
    void pass(const Expression& e, const Layout& callee, const Place& to);
    void pass_in_out(const Argument& a, const Field& field, const Place& to);
    void take_outputs(const Expression& e, const Layout& callee, const Place& from);
    std::optional<std::uint32_t> enable(const Expression& e);
    void enabled(std::optional<std::uint32_t> skip);
    Place result_place(const Expression& e);

    // --- standard functions ---
    void standard(const Expression& e, std::uint32_t dst);
    void standard_body(const Expression& e, std::uint32_t dst);
    void standard_statement(const Expression& e);
    Place standard_text(const Expression& e);
    Place text_result(const Expression& e);
    void ordered_text(const Expression& e, std::uint32_t to);
    void select(const Expression& e, std::uint32_t dst);
    void dates(const Expression& e, std::uint32_t dst);
    std::uint32_t argument(const Expression& e, std::size_t i) { return value(*e.arguments[i].value); }

    CodeWriter& writer_;
    const Bases& bases_;
    const CheckedLogic* logic_;
    CallTable* calls_;
    struct PassedBit {
        Place variable;
        std::uint32_t copy;
    };
    std::vector<PassedBit> passed_bits_;  ///< Bits given to VAR_IN_OUT go by way of a byte.
};

}  // namespace vyard::logic
