// The syntax tree: what the parser saw, before names and types are known. The checker writes its findings (type,
// binding) into the nodes; nothing else changes a tree after parsing.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/logic/text/drawing.hpp"
#include "core/logic/text/token.hpp"

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
    Power,
    Negate,
    Not
};
const char* operator_text(Operator op);

/// Parts of a program's memory. Offsets count from the start of their part.
enum class Space : std::uint8_t {
    None,
    Instance,  ///< Of the program or function block the code belongs to.
    Frame,     ///< Variables that live for one call: those of functions and methods, VAR_TEMP.
    Globals,
    Inputs,
    Outputs,
    Markers
};

/// Where a named variable lives, once the checker has found it.
struct Binding {
    Space space = Space::None;
    std::uint32_t offset = 0;
    int bit = -1;           ///< 0..7 when the variable is one bit of the byte at `offset`.
    bool indirect = false;  ///< The place holds the address of the variable (VAR_IN_OUT).
};

/// An argument of a call: `value`, `IN := value` or `Q => target`.
struct Argument {
    std::string name;  ///< "" when informal.
    Span span;
    bool output = false;
    bool negated = false;  ///< NOT Q => target.
    ExpressionPtr value;
    int field = -1;  ///< Written by the checker: which field of the block, or kEnable, kEnableOut.
};
constexpr int kEnable = -2;     ///< EN of a call whose callee declares none.
constexpr int kEnableOut = -3;  ///< ENO likewise.

enum class ExpressionKind : std::uint8_t {
    Literal,
    Text,  ///< 'abc' or "abc"; `name` holds the decoded bytes (UTF-8 for "abc").
    Name,
    TypedName,  ///< Colour#Red: `type_prefix` # `name`.
    Direct,
    Member,       ///< operands[0] . name
    Index,        ///< operands[0] [ operands[1], ... ]
    Dereference,  ///< operands[0] ^
    Partial,      ///< operands[0] . %X3; `name` is "%X3"
    Unary,
    Binary,
    Call,  ///< operands[0] ( arguments )
    Convert,
    Null,
    This,
    Super,
    List,    ///< [a, b, 3(c)]: an array's initial values.
    Fields,  ///< (a := 1, b := 2): a structure's initial values, in `arguments`.
    Repeat,  ///< operands[0] ( operands[1] ) within a List.
};

/// What a Convert does; in `detail`.
enum ConvertKind : int {
    kConvertNamed,     ///< INT_TO_REAL and its like; times meet numbers in milliseconds.
    kConvertPlain,     ///< A widening nobody wrote.
    kConvertRange,     ///< Into a subrange: checked when it runs.
    kConvertInstance,  ///< An instance becomes a reference to it.
    kConvertTruncate,  ///< A real without its fraction.
    kConvertFromBcd,
    kConvertToBcd,
};

/// What of a drawing an expression is; it must be a BOOL then.
enum class Power : std::uint8_t {
    None,
    Contact,
    Joined,  ///< An output whose line others join.
};

/// What a Call turned out to call.
enum class CallKind : std::uint8_t { Unknown, Standard, Block, Function, Method, SuperBody };

struct Expression {
    ExpressionKind kind = ExpressionKind::Literal;
    Operator op = Operator::Or;  ///< Unary, Binary.
    bool negative = false;       ///< Literal. Call of a method: this one, not one that overrides it.
    Power power = Power::None;
    bool line = false;  ///< Name: it stands for a line of a drawing, whose value it has just got.
    CallKind call = CallKind::Unknown;
    Span span;
    Extent written;                       ///< Of a whole expression: where it stands.
    std::string name;                     ///< See ExpressionKind.
    std::string type_prefix;              ///< TypedName: the type. Call that a box draws: what stands in the box.
    std::vector<ExpressionPtr> operands;  ///< See ExpressionKind; Unary: 1, Binary: 2, Convert: 1.
    std::vector<Argument> arguments;      ///< Call, Fields.
    std::uint64_t integer = 0;            ///< Literal: magnitude (times in ns).
    double real = 0.0;                    ///< Literal of real type.
    std::optional<base::Dimension> unit;  ///< Literal of a condition with a unit, its value then in SI.
    // Written by the checker:
    TypeRef type;
    Binding binding;
    int detail = -1;  ///< Call: the standard function or the number of the callee; Convert: see its checker.
};

/// A deep copy.
ExpressionPtr clone(const Expression& expression);

enum class StatementKind : std::uint8_t {
    Assign,
    AssignReference,  ///< a REF= b
    Attempt,          ///< a ?= b
    Call,
    If,
    Case,
    For,
    While,
    Repeat,
    Exit,
    Continue,
    Return,
    Drawn,  ///< A drawing; its statements are in the one branch once it was lowered.
    Label,  ///< Of a drawing, `name`.
    Jump,   ///< To a label of the same drawing.
};

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

/// A value that a drawing shows: of a contact whether it lets power pass, of other elements what their pin gives.
struct Probe {
    int network = 0;  ///< Its index in the drawing.
    int element = 0, pin = 0;
    ExpressionPtr value;
    bool bare = false;  ///< Of a pin without a line, whose name stands nowhere else.
};

struct Statement {
    StatementKind kind = StatementKind::Assign;
    Span span;
    ExpressionPtr target;          ///< Assign and its like, For (control variable).
    ExpressionPtr value;           ///< Assign, Call, Case selector, While/Repeat condition, For start.
    ExpressionPtr limit;           ///< For TO.
    ExpressionPtr step;            ///< For BY; null for 1.
    std::vector<Branch> branches;  ///< If, Case; loops have one.
    bool coil = false;             ///< Assign: a coil does it, so it is a BOOL.
    std::string name;              ///< Label, Jump; of an If that a chart made, the action whose body it runs.
    bool generated = false;        ///< A chart made it: nobody wrote it at its place.
    int network = 0;               ///< The number, in its unit, of the network that it was drawn in; 0 for none.
    std::shared_ptr<Drawing> drawing;
    std::vector<Probe> probes;  ///< Of a drawing; no code is made of them.
};

/// The statements of a body that are drawings, also within others.
void each_drawing(const StatementList& body, const std::function<void(const Statement&)>& visit);

enum class Section : std::uint8_t { Local, Input, Output, InOut, Temp, Global, External };
enum class Access : std::uint8_t { Public, Protected, Private, Internal };
enum class Edge : std::uint8_t { None, Rising, Falling };
/// What stands behind the name of an input with R_EDGE or F_EDGE, or of a contact for edges, for its detector; and
/// behind the name of such an input for the signal itself: within its block its name means the edge (IEC 61131-3, 3rd
/// edition, 6.6.3.5).
constexpr const char* kEdgeDetector = "$edge";
constexpr const char* kSignalItself = "$signal";

struct TypeSpec;
using TypeSpecPtr = std::shared_ptr<TypeSpec>;  ///< Shared by the names of one declaration.

struct Declaration {
    std::string name;
    std::string space;  ///< Global: the namespace it stands in, or "".
    Span span;
    Extent written;  ///< From its name to behind its semicolon.
    Section section = Section::Local;
    bool constant = false;
    bool retain = false;
    bool persistent = false;  ///< Retained through a cold start too.
    Edge edge = Edge::None;
    Access access = Access::Protected;
    TypeSpecPtr type;
    std::string address;  ///< "%IX0.1", or "".
    Span address_span;
    ExpressionPtr initial;
    std::string description;  ///< The comment behind it on the same line, if any.
    bool generated = false;   ///< Nobody wrote it: it comes from a chart, an edge or a drawing.
    ExpressionPtr like;       ///< Generated, in place of `type`: it has the type of this.
};

struct EnumValue {
    std::string name;
    Span span;
    ExpressionPtr value;  ///< Null: one more than the value before.
};

enum class TypeSpecKind : std::uint8_t { Named, Text, Array, Structure, Enumeration, Subrange, Reference };

/// How a type is written.
struct TypeSpec {
    TypeSpecKind kind = TypeSpecKind::Named;
    Span span;
    Extent written;
    std::string name;  ///< Named: dotted; Text: STRING or WSTRING; Enumeration, Subrange: the base type or "".
    std::vector<std::pair<ExpressionPtr, ExpressionPtr>>
        ranges;                       ///< Array: one a dimension; null pair for `*`. Subrange.
    ExpressionPtr length;             ///< Text; null for the default.
    TypeSpecPtr element;              ///< Array, Reference.
    std::vector<Declaration> fields;  ///< Structure.
    std::vector<EnumValue> values;    ///< Enumeration.
    // Written by the checker:
    bool resolved = false;
    TypeRef type;
};

/// Where a declaration stands: its namespace and what is USEd there.
struct NameContext {
    std::string space;                ///< "A.B", or "".
    std::vector<std::string> using_;  ///< Of this place and those around it.
};

struct TypeDeclaration {
    std::string name;
    Span span;
    Extent written;  ///< From its name to behind its semicolon.
    base::SourcePtr source;
    NameContext context;
    TypeSpecPtr spec;
    ExpressionPtr initial;
};

enum class Qualifier : std::uint8_t { N, R, S, L, D, P, P0, P1, SD, DS, SL };
const char* qualifier_text(Qualifier qualifier);

/// ACTION association in a step: name(qualifier, time).
struct StepAction {
    std::string name;
    Span span;
    Qualifier qualifier = Qualifier::N;
    ExpressionPtr time;
    std::vector<std::string> indicators;  ///< Named behind it; they mean nothing here.
};
struct ChartStep {
    std::string name;
    Span span;
    Extent written;
    bool initial = false;
    std::vector<StepAction> actions;
};
struct ChartTransition {
    std::string name;
    Span span;
    Extent written;
    std::int64_t priority = 0;  ///< Lower goes first; 0: by place.
    std::vector<std::pair<std::string, Span>> from, to;
    ExpressionPtr condition;
    StatementList body;  ///< In place of the condition: a drawing that writes `name`.
};
struct ChartAction {
    std::string name;
    Span span;
    Extent written, body_written;
    StatementList body;
};
/// A sequential function chart, as written (IEC 61131-3, 6.7).
struct Chart {
    std::vector<ChartStep> steps;
    std::vector<ChartTransition> transitions;
    std::vector<ChartAction> actions;
    bool empty() const { return steps.empty() && transitions.empty() && actions.empty(); }
};

enum class UnitKind : std::uint8_t { Program, FunctionBlock, Function, Method, Interface };

struct ProgramUnit {
    UnitKind kind = UnitKind::Program;
    bool is_class = false;
    bool is_abstract = false, is_final = false, is_override = false;
    Access access = Access::Public;
    std::string name;
    Span span;
    Extent written, body_written;  ///< From the word that begins it to the one that ends it; what stands between.
    base::SourcePtr source;
    NameContext context;
    TypeSpecPtr result;  ///< Function, Method; null for none.
    std::string extends;
    Span extends_span;
    std::vector<std::pair<std::string, Span>> implements;  ///< An interface EXTENDS what stands here.
    std::vector<Declaration> declarations;
    StatementList body;
    Chart chart;
    std::vector<ProgramUnit> methods;
};

struct TaskDeclaration {
    std::string name;
    Span span;
    Extent written;
    ExpressionPtr interval, priority, single;
};
struct ProgramDeclaration {
    std::string name;
    Span span;
    std::string task;
    Span task_span;
    std::string type;
    Span type_span;
    Extent written;
    ExpressionPtr call;  ///< `type(a := x, b => y)`; null without arguments.
};
/// VAR_CONFIG: `resource.program.variable AT %IX0.0 : BOOL := TRUE`.
struct ConfigDeclaration {
    std::string path;
    Span span;
    Extent written;
    std::string address;
    Span address_span;
    TypeSpecPtr type;
    ExpressionPtr initial;
};
struct Resource {
    std::string name;  ///< "" for what stands in a configuration without a RESOURCE around it.
    std::string on;    ///< RESOURCE name ON this.
    std::vector<TaskDeclaration> tasks;
    std::vector<ProgramDeclaration> programs;
};
struct Configuration {
    std::string name;
    Span span;
    Extent written;
    base::SourcePtr source;
    std::vector<Resource> resources;
    std::vector<ConfigDeclaration> config;
};

/// What one file holds.
struct SyntaxFile {
    base::SourcePtr source;
    std::vector<ProgramUnit> units;
    std::vector<TypeDeclaration> types;
    std::vector<Declaration> globals;
    std::vector<Configuration> configurations;
    std::vector<Extent> spaces;  ///< NAMESPACE to END_NAMESPACE, and USING lines, that stand in no other.
};

/// Whether an expression of this kind is a variable or a part of one.
bool is_place(ExpressionKind kind);

/// A stable, indented text of a tree, for tests and people.
std::string tree_text(const SyntaxFile& file);
std::string expression_text(const Expression& expression);
std::string type_text(const TypeSpec& spec);
/// A variable or call as a person writes it: a[i].b^, for messages.
std::string written_text(const Expression& expression);
/// The name as written, dots and all, of a Name or a chain of Members over one; "" for others.
std::string dotted_name(const Expression& expression);

}  // namespace vyard::logic
