// What each number of a program may be, without executing it: an abstract interpretation (Cousot & Cousot 1977) of the
// checked bodies with intervals and small sets of values. A body is walked in the order of its statements; what it
// alone writes is followed from scan to scan, and what several write is taken for all that any of them writes.
// Instances of a block count as one; functions are followed into with the arguments of each call.
//
// What is not followed may be anything of its type: elements of arrays and structures, what references and direct
// addresses reach, what nobody in the logic writes (people and screens may), results of texts and dates.
#pragma once

#include <map>
#include <set>

#include "core/logic/analysis/interval.hpp"
#include "core/logic/analysis/node.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

/// What is known of a program from outside.
struct OutsideFacts {
    std::map<Node, Interval> inputs;  ///< Tags that the plant writes, and what they may be.
    std::set<Node> written;           ///< Tags that others write too: jumpers, screens, stimuli.
};

/// Hears of what is computed, once all is known. Places are those of the unit that the expression stands in.
class RangeListener {
  public:
    virtual ~RangeListener() = default;
    /// A comparison; `around` without what the operands of AND and OR before it say.
    virtual void comparison(const Expression&, int /*unit*/, const Truth& /*around*/, const Truth& /*here*/,
                            const Interval& /*left*/, const Interval& /*right*/) {}
    /// Whole numbers computed or converted, before the type cuts off what is beyond it.
    virtual void result(const Expression&, int /*unit*/, const Interval& /*exact*/) {}
    virtual void divisor(const Expression& /*division*/, int /*unit*/, const Interval&) {}
    virtual void quotient(const Expression& /*division*/, int /*unit*/, const Interval& /*dividend*/,
                          const Interval& /*exact*/) {}
    virtual void index(const Expression&, int /*unit*/, std::size_t /*dimension*/, const Interval&) {}
    /// Of a CASE over a variable; `named` are all numbers that the logic compares it with.
    virtual void selector(const Statement& /*case*/, int /*unit*/, const Interval&,
                          const std::set<Interval::Number>& /*named*/) {}
    /// PT of a standard timer in a call.
    virtual void preset(const Expression& /*value*/, int /*unit*/, const Interval&) {}
};

/// FALSE when the program is beyond what can be followed; nothing is heard then. Cost: statements x rounds until
/// nothing is new (some ten).
bool follow_ranges(const CheckedLogic& logic, const OutsideFacts& facts, RangeListener& listener);

/// The node of a tag or another variable that all see; null of a program's own.
std::optional<Node> node_of(const Program& program, const Variable& variable);

}  // namespace vyard::logic
