// Gives every node of an expression its type and every name its place. Shared by program units and by the
// conditions of procedures; what differs, how names are found, comes in as a Scope.
//
// Operators and implicit conversions are in expression_checker.cpp, variables and their parts in place_checker.cpp,
// calls in call_checker.cpp, the standard functions in function_checker.cpp.
#pragma once

#include "core/logic/check/scope.hpp"

namespace vyard::logic {

struct FunctionInfo;
struct Conversion;

inline constexpr TypeRef kNothing{};  ///< The type of what has been reported.

class ExpressionChecker {
  public:
    ExpressionChecker(const base::SourcePtr& source, Scope& scope, base::Diagnostics& diagnostics)
        : source_(source), scope_(scope), diagnostics_(diagnostics), logic_(scope.logic()) {}

    /// Checks `e` and makes it of type `target`, with an implicit widening where the standard allows one. False after
    /// a report. `what` completes "... is <type> but <what> needs <target>".
    bool check(ExpressionPtr& e, const TypeRef& target, const std::string& what);
    bool check(ExpressionPtr& e, Elementary target, const std::string& what) {
        return check(e, TypeRef{target, -1}, what);
    }

    /// Type of `e` on its own; None after a report. Literal types are settled to DINT and REAL.
    TypeRef check_any(ExpressionPtr& e);

    /// As check_any, but literal types stay open; for callers that settle them against a neighbour.
    TypeRef infer(ExpressionPtr& e);
    bool coerce(ExpressionPtr& e, const TypeRef& target, const std::string& what);
    bool coerce(ExpressionPtr& e, Elementary target, const std::string& what) {
        return coerce(e, TypeRef{target, -1}, what);
    }

    /// A variable or a part of one, of any type; its type is then in the node. Null after a report.
    std::optional<Found> place(ExpressionPtr& e, Use use);
    /// As place(), and must be writable.
    std::optional<Found> target(ExpressionPtr& e);

    /// A call, as a statement or within an expression. Its type: Void when it has no value, None after a report.
    TypeRef call(ExpressionPtr& e, bool statement);

    /// The arguments of a program instance, `call`, against its inputs and outputs. False after a report.
    bool program_arguments(Layout& program, Expression& call) { return bind(program, call, program.name); }

    void error(base::Code code, Span span, std::string message, std::string hint = {});
    std::string type_text(const TypeRef& t) const;

  private:
    TypeRef infer_node(ExpressionPtr& e);
    TypeRef infer_value(ExpressionPtr& e);
    TypeRef infer_typed_name(Expression& e);
    TypeRef infer_unary(Expression& e);
    TypeRef infer_binary(ExpressionPtr& e);
    bool meet_units(Expression& e);
    TypeRef infer_power(ExpressionPtr& e, const TypeRef& left, const TypeRef& right);
    TypeRef infer_time(ExpressionPtr& e, const TypeRef& left, const TypeRef& right);
    TypeRef infer_moment(Expression& e, const TypeRef& left, const TypeRef& right);
    TypeRef infer_logical(Expression& e, const TypeRef& left, const TypeRef& right);
    TypeRef infer_reference_comparison(Expression& e, const TypeRef& left, const TypeRef& right);

    std::optional<Found> place_name(ExpressionPtr& e, Use use);
    std::optional<Found> place_member(ExpressionPtr& e, Use use);
    std::optional<Found> member_of_block(Expression& e, Found base, Use use);
    std::optional<Found> place_index(Expression& e, Use use);
    std::optional<Found> place_partial(Expression& e, Use use);
    std::optional<Found> place_part(ExpressionPtr& e, Use use);
    bool check_index(ExpressionPtr& index, const Dimension& dimension, bool open);
    bool enum_literal(Expression& e, const std::string& type, const std::string& name, bool report);
    bool unqualified_enum(Expression& e);

    TypeRef call_function(ExpressionPtr& e, int function);
    TypeRef call_block(Expression& e, bool statement);
    TypeRef call_method(ExpressionPtr& e, int block, const std::string& name, bool direct);
    TypeRef call_super(ExpressionPtr& e, bool statement);
    TypeRef call_member(ExpressionPtr& e, bool statement);
    TypeRef unknown_call(const Expression& e);
    bool bind(Layout& callee, Expression& e, const std::string& shown);
    bool complete(const Layout& callee, const Expression& e, const std::string& shown);
    bool bind_argument(Layout& callee, Argument& a, std::size_t& position, const std::string& shown, bool enable);
    bool bind_in_out(const Field& field, Argument& a);
    bool bind_output(const Field& field, Argument& a);
    int own_method(const std::string& name) const;

    TypeRef call_standard(ExpressionPtr& e);
    TypeRef call_conversion(ExpressionPtr& e, const Conversion& conversion);
    bool order_arguments(Expression& e, const FunctionInfo& info);
    TypeRef infer_function(ExpressionPtr& e, const FunctionInfo& info);
    TypeRef infer_operate(ExpressionPtr& e, const FunctionInfo& info);
    TypeRef infer_numeric(Expression& e, const FunctionInfo& info);
    TypeRef infer_selection(Expression& e, const FunctionInfo& info);
    TypeRef infer_shift(Expression& e, const FunctionInfo& info);
    TypeRef infer_text(Expression& e, const FunctionInfo& info);
    TypeRef infer_date(Expression& e, const FunctionInfo& info);
    TypeRef infer_bound(ExpressionPtr& e, const FunctionInfo& info);
    TypeRef infer_reference(Expression& e);
    TypeRef common_of(Expression& e, std::size_t first, std::size_t last);

    bool coerce_literal(Expression& e, const TypeRef& target, const std::string& what);
    bool coerce_range(ExpressionPtr& e, const TypeRef& target, const std::string& what);
    bool coerce_reference(ExpressionPtr& e, const TypeRef& target);
    bool mismatch(const Expression& e, const TypeRef& target, const std::string& what);
    static void wrap(ExpressionPtr& e, const TypeRef& target, ConvertKind kind = kConvertPlain);
    bool derived(const TypeRef& t) const { return logic_ != nullptr && t.index >= 0 && is_scalar(t.elementary); }
    bool enumeration(const TypeRef& t) const { return logic_ != nullptr && logic_->is_enumeration(t); }

    const base::SourcePtr& source_;
    Scope& scope_;
    base::Diagnostics& diagnostics_;
    CheckedLogic* logic_;
    std::string converting_;  ///< The conversion whose operand is being checked, for a hint; "" for none.
    Elementary converting_to_ = Elementary::None;
    bool instances_allowed_ = false;  ///< While the value of an interface is being inferred.
};

std::string conversion_hint(Elementary from, Elementary to);

}  // namespace vyard::logic
