// What is ever written to the variables of a program, while its bodies are followed round after round.
#pragma once

#include <map>
#include <set>
#include <vector>

#include "core/logic/analysis/ranges.hpp"
#include "core/logic/analysis/written.hpp"

namespace vyard::logic {

/// Whether numbers of a type are followed: numbers, bit strings and durations.
bool followed(const TypeRef& type);

/// What is known at one place of a body.
struct Known {
    std::map<Node, Interval> values;
    bool dead = false;  ///< The place is not reached.
};
/// Where two ways meet: what both know, wide enough for both.
void join(Known& into, const Known& other);

class Ledgers {
  public:
    Ledgers(const CheckedLogic& logic, const OutsideFacts& facts);

    void begin_round() { changed_ = false; }
    /// Whether anything new was noted in this round.
    bool changed() const { return changed_; }
    /// Gives up globals that the logic only ever sets to what they are already: somebody else sets them, such as a
    /// screen, and what they may be is not known. Whether there were any.
    bool leaves_to_others();

    const Written& written() const { return written_; }
    bool follows(const Node& node) const { return seen_.contains(node); }
    Interval all_of_type(const TypeRef& type) const;
    /// What of it the type holds: all, or anything.
    Interval stored(const Interval& v, const TypeRef& type) const;
    /// What is known here, or what is ever written, or anything of its type.
    Interval value_of(const Node& node, const TypeRef& type, const Known& now) const;

    /// What begins anew when a unit is called: its temporary variables, and arguments as all callers give them.
    Known frame(int unit) const;
    /// That, and what it finds of what it alone writes.
    Known entry(int unit) const;
    /// What a body leaves is what it finds in its next scan.
    void carry_over(int unit, const Known& exits);
    void note(const Node& node, const Interval& v);
    /// PT of a timer.
    void note_preset(const Node& timer, const Interval& v);
    std::optional<Interval> preset(const Node& timer) const;

  private:
    struct Ledger {
        Interval seen;
        Interval possible;  ///< By its type.
        int changes = 0;
    };
    void find_keeping(const Layout& layout, bool all);
    void fields(const Layout& layout, int unit);
    void grow(Ledger& ledger, const Interval& v, const Node& node);

    const CheckedLogic& logic_;
    const OutsideFacts& facts_;
    Written written_;
    std::set<int> keeping_;                                         ///< See find_keeping().
    std::map<Node, Ledger> seen_;                                   ///< All that is ever written to what is followed.
    std::map<Node, Ledger> presets_;                                ///< PT of timers.
    std::map<int, std::map<Node, Ledger>> entry_;                   ///< What a body finds of what it alone writes.
    std::map<int, std::vector<std::pair<Node, Interval>>> frames_;  ///< What begins anew with each call.
    bool changed_ = false;
};

}  // namespace vyard::logic
