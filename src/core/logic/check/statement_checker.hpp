// Everything that is executed: the bodies.
#pragma once

#include "core/logic/check/expression_checker.hpp"

namespace vyard::logic {

class StatementChecker {
  public:
    StatementChecker(Checking& checking, int unit)
        : checking_(checking),
          logic_(checking.logic),
          source_(checking.logic.block(unit).unit->source),
          scope_(checking, unit, checking.logic.block(unit).unit->context, source_),
          expressions_(source_, scope_, checking.diagnostics) {}

    void body(StatementList& list);

  private:
    void statement(Statement& s);
    void nested(StatementList& list);
    void assign(Statement& s);
    void assign_reference(Statement& s);
    void attempt(Statement& s);
    void call(Statement& s);
    void if_statement(Statement& s);
    void case_statement(Statement& s);
    void case_label(ExpressionPtr& label, const TypeRef& type);
    void for_statement(Statement& s);
    void loop(Statement& s);
    void probes(Statement& s);

    void note_writer(const Expression& target, const Found& found, const char* what);
    void warn_narrow(const Expression& value, const TypeRef& target);
    void warn_call(const Expression& call);

    Checking& checking_;
    CheckedLogic& logic_;
    base::SourcePtr source_;
    UnitScope scope_;
    ExpressionChecker expressions_;
    int loops_ = 0;
    int conditions_ = 0;  ///< IF, CASE and loops around.
};

}  // namespace vyard::logic
