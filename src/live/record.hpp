// The orders of a person with their times, as a procedure that does them again.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"

namespace vyard::live {

class Record {
  public:
    /// An order or a remark, with when it was given and done.
    struct Entry {
        enum class Kind : std::uint8_t { Order, Reaction, Remark } kind = Kind::Order;
        base::Nanoseconds at{}, done{};
        std::string text;
        int asker = 0;      ///< Whose order it is.
        bool open = false;  ///< It takes time, and is not done yet.
    };

    /// An order that was obeyed; `open`: it takes time. Orders come in order of time.
    void order(base::Nanoseconds at, const std::string& text, int asker, bool open = false);
    /// The open order of this asker is done: what comes next waits from here.
    void done(base::Nanoseconds at, int asker);
    /// A reaction that was seen, such as "run = TRUE", suggested as an expectation. Of each name the first change after
    /// an order is kept, and so many names: what was done takes memory, how long it ran does not.
    void reaction(base::Nanoseconds at, std::string text);
    static constexpr int kMostReactions = 40;
    /// What a procedure cannot do, as a comment.
    void remark(base::Nanoseconds at, std::string text);
    /// The run goes on from an earlier time: what came after, and what was not done yet, is not part of it.
    void forget_after(base::Nanoseconds time);
    /// Text of a procedure: orders with waits between them; reactions as comments, to accept or to delete. An order
    /// that took time while others were given is a comment too: the times of the others say what it waited for.
    std::string procedure(const std::string& name) const;

    const std::vector<Entry>& entries() const { return entries_; }
    /// Another number when entries that were there are no more.
    std::uint64_t revision() const { return revision_; }
    /// It took the place of another: `revision` is greater than any that was there.
    void replaces(std::uint64_t revision) { revision_ = revision; }

  private:
    std::vector<Entry> entries_;
    std::uint64_t revision_ = 0;
    std::vector<std::string> reacted_;  ///< Names that changed since the last order.
};

}  // namespace vyard::live
