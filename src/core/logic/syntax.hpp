// The syntax tree: what the parser saw, before names and types are known. The checker writes its findings (type,
// binding) into the nodes; nothing else changes a tree after parsing.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "core/logic/token.hpp"

namespace vyard::logic {

struct Expression;
struct Statement;
using ExpressionPtr = std::unique_ptr<Expression>;
using StatementList = std::vector<Statement>;

enum class Operator : std::uint8_t {
    Or,
    Xor,
    And,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Add,
    Subtract,
    Multiply,
    Divide,
    Modulo,
    Negate,
    Not
};
const char* operator_text(Operator op);

/// Parts of a program's memory. Offsets count from the start of their part.
enum class Space : std::uint8_t { None, Instance, Globals, Inputs, Outputs, Markers };

/// Where a named variable lives, once the checker has found it.
struct Binding {
    Space space = Space::None;
    std::uint32_t offset = 0;
    int bit = -1;  ///< 0..7 when the variable is one bit of the byte at `offset`.
};

/// An argument of a call: `value`, `IN := value` or `Q => target`.
struct Argument {
    std::string name;  ///< "" when informal.
    Span span;
    bool output = false;
    ExpressionPtr value;
    int field = -1;  ///< Written by the checker: which field of the block.
};

enum class ExpressionKind : std::uint8_t { Literal, Name, Direct, Unary, Binary, Call, Convert };

struct Expression {
    ExpressionKind kind = ExpressionKind::Literal;
    Span span;
    Operator op = Operator::Or;           ///< Unary, Binary.
    std::string name;                     ///< Name: the dotted path as written; Direct: the address; Call: the callee.
    std::vector<ExpressionPtr> operands;  ///< Unary: 1, Binary: 2, Convert: 1.
    std::vector<Argument> arguments;      ///< Call.
    std::uint64_t integer = 0;            ///< Literal: magnitude (times in ns).
    double real = 0.0;                    ///< Literal of real type.
    bool negative = false;                ///< Literal.
    // Written by the checker:
    TypeRef type;
    Binding binding;
    int detail = -1;  ///< Call: number of the standard function, or of the edge memory.
};

enum class StatementKind : std::uint8_t { Assign, Call, If, Case, For, While, Repeat, Exit, Continue, Return };

/// One label of a CASE: a value or a range.
struct CaseLabel {
    ExpressionPtr low;
    ExpressionPtr high;  ///< Null for a single value.
};

/// A guarded block: IF/ELSIF with `condition`, a CASE element with `labels`, ELSE with neither.
struct Branch {
    ExpressionPtr condition;
    std::vector<CaseLabel> labels;
    StatementList body;
};

struct Statement {
    StatementKind kind = StatementKind::Assign;
    Span span;
    ExpressionPtr target;          ///< Assign, For (control variable).
    ExpressionPtr value;           ///< Assign, Call, Case selector, While/Repeat condition, For start.
    ExpressionPtr limit;           ///< For TO.
    ExpressionPtr step;            ///< For BY; null for 1.
    std::vector<Branch> branches;  ///< If, Case; loops have one.
};

enum class Section : std::uint8_t { Local, Input, Output, Global, External };

struct Declaration {
    std::string name;
    Span span;
    Section section = Section::Local;
    bool constant = false;
    std::string type_name;
    Span type_span;
    std::string address;  ///< "%IX0.1", or "".
    Span address_span;
    ExpressionPtr initial;
    std::string description;  ///< The comment behind it on the same line, if any.
    // Written by the checker:
    TypeRef type;
    Binding binding;
};

enum class UnitKind : std::uint8_t { Program, FunctionBlock };

struct ProgramUnit {
    UnitKind kind = UnitKind::Program;
    std::string name;
    Span span;
    base::SourcePtr source;
    std::vector<Declaration> declarations;
    StatementList body;
};

/// What one file holds.
struct SyntaxFile {
    base::SourcePtr source;
    std::vector<ProgramUnit> units;
    std::vector<Declaration> globals;
};

/// A stable, indented text of a tree, for tests and people.
std::string tree_text(const SyntaxFile& file);
std::string expression_text(const Expression& expression);

}  // namespace vyard::logic
