// Computes conditions against a session. Looks only; holds the memory that rises() and falls() need. A value: a copy
// goes on as the original would.
#pragma once

#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::procedure {

/// Compiled conditions, and what their names mean, by Gathered::source.
struct Conditions {
    logic::ConditionSet set;
    std::vector<session::Signal> signals;
    std::vector<bool> gone;  ///< By signal; empty while all are there.
};

/// The same conditions after the program of a controller changed; `gone` gets the names that are no more, whose
/// conditions cannot be judged from then on.
std::shared_ptr<const Conditions> rebound(const Conditions& conditions, int controller,
                                          const controller::Rebinding& rebinding, std::vector<std::string>& gone);

/// What a condition came to. One that cannot be computed is neither TRUE nor FALSE.
struct Answer {
    enum class Kind : std::uint8_t { False, True, Unknown } kind = Kind::False;
    std::string why;  ///< Unknown: "division by zero", or that a name is gone.

    bool yes() const { return kind == Kind::True; }
    bool unknown() const { return kind == Kind::Unknown; }
};

/// A name and its value, for people.
using NamedValue = std::pair<std::string, std::string>;

class Evaluator {
  public:
    explicit Evaluator(std::shared_ptr<const Conditions> conditions);

    /// Goes on with rebound() ones of the same set.
    void follow(std::shared_ptr<const Conditions> conditions);

    /// Forgets what rises() and falls() saw, at the start of a new wait.
    void arm(int condition);
    /// Cost: the names of the condition; its instructions too when one of them has changed.
    Answer evaluate(int condition, const session::Session& session);
    /// Each name of the condition with its value now and why it is not the logic's.
    std::vector<NamedValue> values(int condition, const session::Session& session) const;
    /// The parts between its outermost ANDs that do not hold now, as written; the condition itself when it has none.
    std::vector<std::string> not_holding(int condition, const session::Session& session);
    /// What rises() and falls() have seen.
    const std::vector<std::byte>& memory() const { return memory_; }
    const logic::Condition& model(int condition) const { return base::at(conditions_->set.conditions, condition); }

  private:
    /// What a condition came to last. Nothing but its names decides it, and what rises() and falls() have seen, which
    /// stays as it is once they have seen the same twice.
    struct Last {
        std::uint32_t first = 0;  ///< Of its values in seen_.
        bool known = false;       ///< It was computed from those.
        bool settled = false;     ///< It comes to the same from the same.
        bool yes = false;
    };
    /// Reads the values of a condition; whether they are those that it was computed from.
    bool unchanged(const logic::Condition& condition, const Last& last, const session::Session& session);
    void take_values(const logic::Condition& condition, const Last& last, const session::Session& session);

    std::shared_ptr<const Conditions> conditions_;
    std::vector<std::byte> memory_;
    std::vector<std::uint64_t> seen_;  ///< Bits of the values of each condition, one condition after the other.
    std::vector<Last> last_;           ///< By condition.
};

}  // namespace vyard::procedure
