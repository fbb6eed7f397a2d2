// The one loop of live running: it waits for whatever comes first, lines of a front or the time of the next step, and
// goes on. Orders are obeyed at once, whatever the pace.
#pragma once

#include <poll.h>

#include <memory>
#include <optional>
#include <vector>

#include "live/sitting.hpp"

namespace vyard::live {

/// Where lines come from and replies go: a terminal, a pipe, a socket; also what else is waited for.
class Front {
  public:
    virtual ~Front() = default;
    /// Descriptors that it waits for now, added to `out`.
    virtual void wants(const Sitting& sitting, std::vector<pollfd>& out) const = 0;
    /// Hands in what is there, so much at a time that no step comes late by it; never waits.
    virtual void serve(Sitting& sitting) = 0;
    /// There is more to hand in that no descriptor tells of.
    virtual bool more(const Sitting&) const { return false; }
    virtual void show(const Sitting& sitting, const Reply& reply) = 0;
    /// When it wants to be asked again at the latest, to draw or to blink; null: only when something comes.
    virtual std::optional<base::Nanoseconds> draws_at() const { return std::nullopt; }
    /// There is time now, until `until` if that is known: what is to be drawn is drawn here.
    virtual void draw(Sitting& sitting, base::Nanoseconds now, std::optional<base::Nanoseconds> until) {
        (void)sitting;
        (void)now;
        (void)until;
    }
    /// No line will come from it any more. A run whose fronts have all ended ends, unless it has a limit.
    virtual bool ended() const = 0;
};

/// What the loop waits with. Tests have one of their own.
class World : public Clock {
  public:
    /// Until one of the descriptors has something, or until `until`; null: without end.
    virtual void wait(std::vector<pollfd>& descriptors, std::optional<base::Nanoseconds> until) = 0;
};

/// poll() and the monotonic clock, with a timer slack of 1 ns, so that steps begin when they are due.
std::unique_ptr<World> real_world();

/// Runs until the sitting is over. `left`: a session that was cut off, to go on with; null for none.
void run(Sitting& sitting, const std::vector<Front*>& fronts, World& world, const LeftSession* left = nullptr);

}  // namespace vyard::live
