// The last stretch of a run, for when something happens: every change of the chosen signals, the oldest let go.
#pragma once

#include <deque>

#include "core/trace/recorder.hpp"

namespace vyard::trace {

class Ring final : public Sink {
  public:
    /// Keeps what was so within `reach` of the last change or look(), and no more than `most` changes.
    Ring(base::Nanoseconds reach, std::size_t most) : reach_(reach), most_(most) {}

    void begin(const std::vector<Channel>& channels, base::Nanoseconds time) override;
    void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) override;
    void end(base::Nanoseconds) override {}

    /// Everything kept from `from` on, with the values that held then, into a sink as a whole trace. It begins later
    /// where it does not reach back so far; that time is the result.
    base::Nanoseconds write(base::Nanoseconds from, base::Nanoseconds to, Sink& sink) const;
    std::size_t size() const { return kept_.size(); }

  private:
    struct Kept {
        base::Nanoseconds time{};
        std::uint32_t channel = 0;
        logic::Value value;
    };
    void let_go();

    base::Nanoseconds reach_, begin_{};
    std::size_t most_;
    const std::vector<Channel>* channels_ = nullptr;
    std::vector<logic::Value> before_;  ///< By channel: as it was when the first kept change came.
    std::deque<Kept> kept_;
};

}  // namespace vyard::trace
