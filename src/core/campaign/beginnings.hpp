// Forks of an undisturbed run at any instant, from a bounded number of copies.
#pragma once

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

class Beginnings {
  public:
    /// Runs the procedure once more, and keeps `most` copies, evenly over its time.
    Beginnings(const std::shared_ptr<const procedure::Book>& book, const Nominal& nominal,
               const session::Session& fresh, std::size_t most);
    /// The run before the orders of an instant. Cost: a copy, and the time since the one that is kept before it.
    Branch at(base::Nanoseconds time) const;
    /// The copy that is kept of just that instant; null when none is.
    const Branch* kept(base::Nanoseconds time) const;

  private:
    std::vector<Branch> kept_;  ///< Rising by time.
};

/// Of every one of them, on all threads; fewer only where it was ended from outside.
std::vector<Beginnings> beginnings_of(const Setup& setup, const std::vector<Nominal>& nominals,
                                      const session::Session& fresh, std::size_t most);

}  // namespace vyard::campaign
