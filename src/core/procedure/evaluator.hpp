// Computes conditions against a session. Looks only; holds the memory that rises() and falls() need.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/procedure/book.hpp"

namespace vyard::procedure {

class Evaluator {
  public:
    Evaluator(const logic::ConditionSet& conditions, const std::vector<session::Signal>& signals);

    /// Forgets what rises() and falls() saw, at the start of a new wait.
    void arm(int condition);
    /// Cost: the names of the condition plus its instructions.
    bool evaluate(int condition, const session::Session& session);
    /// Each name of the condition with its value now, for people.
    std::vector<std::pair<std::string, std::string>> values(int condition, const session::Session& session) const;

  private:
    const logic::ConditionSet& conditions_;
    const std::vector<session::Signal>& signals_;
    std::vector<std::byte> memory_;
};

}  // namespace vyard::procedure
