// Gives every node of an expression its type and every name its place. Shared by program units and by the
// conditions of procedures; what differs, how names are found, comes in as a Scope.
#pragma once

#include <optional>

#include "core/logic/syntax.hpp"

namespace vyard::logic {

/// What a name means where it stands.
struct Found {
    Binding binding;
    TypeRef type;
    bool writable = true;
    const char* why_not_writable = "";
};

enum class Access : std::uint8_t { Read, Write };

class Scope {
  public:
    virtual ~Scope() = default;
    /// Resolves a dotted name or a direct address; reports and returns null when it cannot.
    virtual std::optional<Found> find(const std::string& name, Span span, Access access) = 0;
    /// One byte that remembers a value between two looks, for RISES and FALLS; null where these are not allowed.
    virtual std::optional<Binding> edge_memory() { return std::nullopt; }
};

class ExpressionChecker {
  public:
    ExpressionChecker(const base::SourcePtr& source, Scope& scope, base::Diagnostics& diagnostics)
        : source_(source), scope_(scope), diagnostics_(diagnostics) {}

    /// Checks `e` and makes it of type `target`, with an implicit widening where the standard allows one. False after
    /// a report. `what` completes "... is <type> but <what> needs <target>".
    bool check(ExpressionPtr& e, Elementary target, const std::string& what);

    /// Type of `e` on its own; None after a report. Literal types are settled to DINT and REAL.
    Elementary check_any(ExpressionPtr& e);

    /// As check_any, but literal types stay open; for callers that settle them against a neighbour.
    Elementary infer(ExpressionPtr& e);
    bool coerce(ExpressionPtr& e, Elementary target, const std::string& what);

    void error(base::Code code, Span span, std::string message, std::string hint = {});

  private:
    Elementary infer_name(Expression& e);
    Elementary infer_unary(Expression& e);
    Elementary infer_binary(ExpressionPtr& e);
    Elementary infer_time(ExpressionPtr& e, Elementary left, Elementary right);
    Elementary infer_logical(Expression& e, Elementary left, Elementary right);
    Elementary infer_call(ExpressionPtr& e);
    Elementary infer_function(Expression& e, int function);
    bool coerce_literal(Expression& e, Elementary target, const std::string& what);
    static void wrap(ExpressionPtr& e, Elementary target);
    static Elementary settled(Elementary type);

    const base::SourcePtr& source_;
    Scope& scope_;
    base::Diagnostics& diagnostics_;
};

}  // namespace vyard::logic
