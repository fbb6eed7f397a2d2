// Moments of a run that were kept, so that any other can be reached again: the last kept one before it, and the steps
// from there, which are the same each time. Moments are kept at least every `spacing`, and whenever something acted
// on the run from outside. The ring is bounded in bytes: the oldest moments go first.
#pragma once

#include <deque>
#include <optional>
#include <utility>

#include "core/base/base.hpp"

namespace vyard::session {

/// `Moment` is a value that holds all of a run.
template <class Moment>
class History {
  public:
    History(std::size_t most_bytes, base::Nanoseconds spacing) : most_bytes_(most_bytes), spacing_(spacing) {}

    /// Whether it is time to keep a moment again.
    bool due(base::Nanoseconds now) const { return kept_.empty() || now >= kept_.back().at + spacing_; }

    /// Moments come in order of time; one of the same time takes the place of the last. `bytes`: what it takes, about.
    void keep(base::Nanoseconds at, Moment moment, std::size_t bytes) {
        if (!kept_.empty() && kept_.back().at == at) drop_last();
        bytes_ += bytes;
        kept_.push_back({at, bytes, std::move(moment)});
        while (bytes_ > most_bytes_ && kept_.size() > 1) {
            bytes_ -= kept_.front().bytes;
            kept_.pop_front();
        }
    }

    /// The last moment not after `time`, by its number; null when that was not kept.
    std::optional<std::size_t> before(base::Nanoseconds time) const {
        std::optional<std::size_t> out;
        std::size_t low = 0, high = kept_.size();
        while (low < high) {
            const std::size_t middle = (low + high) / 2;
            if (kept_[middle].at <= time) {
                out = middle;
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        return out;
    }

    /// Forgets what came after `time`: the run goes on differently.
    void forget_after(base::Nanoseconds time) {
        while (!kept_.empty() && kept_.back().at > time) drop_last();
    }

    std::size_t size() const { return kept_.size(); }
    std::size_t bytes() const { return bytes_; }
    base::Nanoseconds at(std::size_t number) const { return kept_[number].at; }
    const Moment& moment(std::size_t number) const { return kept_[number].moment; }

  private:
    struct Kept {
        base::Nanoseconds at{};
        std::size_t bytes = 0;
        Moment moment;
    };

    void drop_last() {
        bytes_ -= kept_.back().bytes;
        kept_.pop_back();
    }

    std::size_t most_bytes_;
    base::Nanoseconds spacing_;
    std::deque<Kept> kept_;
    std::size_t bytes_ = 0;
};

}  // namespace vyard::session
