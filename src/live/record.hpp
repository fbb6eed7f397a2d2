// The orders of a person with their times, as a procedure that does them again.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::live {

class Record {
  public:
    /// An order that was obeyed. Orders come in order of time.
    void order(base::Nanoseconds at, const std::string& text);
    /// The order given last is done: what comes next waits from here.
    void done(base::Nanoseconds at);
    /// A reaction that was seen, such as "run = TRUE", suggested as an expectation.
    void reaction(base::Nanoseconds at, std::string text);
    /// What a procedure cannot do, as a comment.
    void remark(base::Nanoseconds at, std::string text);
    /// The run goes on from an earlier time: what came after, and what was not done yet, is not part of it.
    void forget_after(base::Nanoseconds time);
    /// Text of a procedure: orders with waits between them; reactions as comments, to accept or to delete.
    std::string procedure(const std::string& name) const;

  private:
    struct Entry {
        base::Nanoseconds at{}, done{};
        std::string text;
        bool reaction = false, remark = false;
    };
    std::vector<Entry> entries_;
};

}  // namespace vyard::live
