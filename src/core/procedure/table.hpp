// A table of what is expected when, beside what is written when: rows of time, tag, value, expect. Watches a session
// from outside, whatever runs it.
#pragma once

#include <string>
#include <vector>

#include "core/procedure/verdict.hpp"
#include "core/session/session.hpp"

namespace vyard::procedure {

class TableCheck {
  public:
    /// In order of time.
    explicit TableCheck(std::vector<session::Expectation> expectations);

    /// After every step: rows whose time has come are looked at after the next scan.
    void observe(const session::Session& session);

    bool empty() const { return expectations_.empty(); }
    /// All rows were looked at, and held.
    bool passed() const { return misses_.empty() && next_ == expectations_.size(); }
    const std::vector<Failure>& misses() const { return misses_; }
    /// "12 of 14 expectations of the table held", then a line for each that did not, and how many were not reached.
    std::string text() const;
    /// The same as a step of a verdict.
    void add_to(ProcedureVerdict& verdict, const session::Session& session) const;

  private:
    std::vector<session::Expectation> expectations_;
    std::size_t next_ = 0;
    std::vector<Failure> misses_;
};

}  // namespace vyard::procedure
