// Everything that is executed: the bodies.
#pragma once

#include <set>

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

    /// The whole body of the unit.
    void run(StatementList& list);

  private:
    /// What is called whichever way a body goes.
    struct Called {
        std::set<const Field*> instances;
        std::set<int> blocks;

        void add(const Called& other);
        void keep_common(const Called& other);
    };
    /// The branches of one IF or CASE.
    struct EveryWay {
        std::optional<Called> common;
        bool closed = false;  ///< There is an ELSE.

        void add(const Called& branch, bool otherwise);
        Called sure() const { return closed && common ? *common : Called{}; }
    };
    struct TimerCall {
        const Field* field = nullptr;
        Span span;
        std::string name, block;
        bool timer = false;  ///< Else a block that holds one.
    };
    void body(StatementList& list);
    void statement(Statement& s);
    Called nested(StatementList& list);
    void note_calls(std::size_t first);
    bool check_condition(ExpressionPtr& condition);
    void assign(Statement& s);
    void note_name(Field& target, const std::string& name);
    void assign_reference(Statement& s);
    void attempt(Statement& s);
    void call(Statement& s);
    void if_statement(Statement& s);
    void case_statement(Statement& s);
    void case_label(ExpressionPtr& label, const TypeRef& type);
    void for_statement(Statement& s);
    void loop(Statement& s);
    void probes(Statement& s);

    void note_writer(const Expression& target, const Found& found, bool call, bool literal);
    void warn_narrow(const Expression& value, const TypeRef& target);
    void note_instance(const Expression& call);
    void warn_timers();

    Checking& checking_;
    CheckedLogic& logic_;
    base::SourcePtr source_;
    UnitScope scope_;
    ExpressionChecker expressions_;
    int loops_ = 0;
    int conditions_ = 0;  ///< IF, CASE and loops around.
    Called called_;       ///< At the level of what is being checked.
    std::vector<TimerCall> timer_calls_;
};

}  // namespace vyard::logic
