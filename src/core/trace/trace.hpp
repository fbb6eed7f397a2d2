// What was recorded of a run: every change of the chosen signals. A Recorder lies beside the session and only looks.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/signals.hpp"

namespace vyard::trace {

struct Channel {
    std::string name;
    session::Signal signal;
};

struct Change {
    base::Nanoseconds time{};
    std::uint32_t channel = 0;
    double value = 0.0;
};

/// Changes in order of time, then channel; every channel has one at the first time.
struct Trace {
    std::vector<Channel> channels;
    std::vector<Change> changes;
    base::Nanoseconds begin{}, end{};

    std::optional<std::uint32_t> find(std::string_view name) const;
    /// The changes of one channel: times and values.
    std::vector<Change> of(std::uint32_t channel) const;
    double value_at(std::uint32_t channel, base::Nanoseconds time) const;
    struct Edge {
        std::uint32_t channel;
        bool rising;
    };
    /// Time of the first such edge at or after `start`; null when there is none.
    std::optional<base::Nanoseconds> edge(Edge wanted, base::Nanoseconds start) const;
};

/// All tags and all points of a yard, the usual set; then `extra` names (gauges, inner variables) that are not in it.
std::vector<Channel> usual_channels(const session::SessionModel& model, const std::vector<Channel>& extra = {});

/// Observes after every step. Cost per step: the channels; nothing is allocated but the growing list of changes.
class Recorder {
  public:
    Recorder(const session::Session& session, std::vector<Channel> channels);
    void observe(const session::Session& session);
    Trace finish(const session::Session& session);

  private:
    void note(std::size_t channel, double value, base::Nanoseconds now);

    Trace trace_;
    std::vector<double> last_;
    std::vector<std::uint32_t> scanned_;   ///< Channels that change only when a controller scans.
    std::vector<std::uint32_t> stepped_;   ///< Channels of the plant.
};

}  // namespace vyard::trace
