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

/// Observes after every step. Most steps change little, so whole blocks are compared first: the points of the plant,
/// and the part of each controller's memory that holds its tags. Cost per step: those bytes; the channels of a block
/// when it changed; gauges and inner variables one by one.
class Recorder {
  public:
    Recorder(const session::Session& session, std::vector<Channel> channels);
    void observe(const session::Session& session);
    Trace finish(const session::Session& session);

  private:
    struct Tagged {
        std::vector<std::byte> last;  ///< Memory up to Program::tags_end.
        std::vector<std::uint32_t> channels;
    };
    void note(std::uint32_t channel, const session::Session& session);

    Trace trace_;
    std::vector<double> last_;
    std::vector<Tagged> tagged_;  ///< Per controller.
    std::vector<double> last_points_;
    std::vector<std::uint32_t> points_;  ///< Channels that are points.
    std::vector<std::uint32_t> gauges_;  ///< Channels of the plant that are no points.
    std::vector<std::uint32_t> inner_;   ///< Variables that are no tags; they change only in scans.
};

}  // namespace vyard::trace
