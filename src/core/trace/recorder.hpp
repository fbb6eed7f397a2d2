// What was recorded of a run: every change of the chosen signals. A Recorder lies beside the session and only looks;
// what it sees goes to sinks, in memory or straight to files, so that a long run need not be held.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::trace {

struct Channel {
    std::string name;
    session::Signal signal;
    std::shared_ptr<const logic::ValueNames> names{};       ///< Of an enumeration.
    std::shared_ptr<const logic::ValueNames> case_names{};  ///< What the logic calls some values of a whole number.
};

/// Where changes go: once begin(), then changes in order of time, each channel's first one at the time of begin(), then
/// once end(). The channels outlive the sink's use.
class Sink {
  public:
    virtual ~Sink() = default;
    virtual void begin(const std::vector<Channel>& channels, base::Nanoseconds time) = 0;
    virtual void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) = 0;
    virtual void end(base::Nanoseconds time) = 0;
};

/// A value from a time on.
struct Moment {
    base::Nanoseconds time{};
    std::uint64_t bits = 0;  ///< As logic::Value has them; of a text its number in Trace::texts.

    bool operator==(const Moment&) const = default;
};

/// Changes in memory, by channel, each list in order of time.
class Trace final : public Sink {
  public:
    void begin(const std::vector<Channel>& of, base::Nanoseconds time) override;
    void change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) override;
    void end(base::Nanoseconds time) override { end_ = time; }

    const std::vector<Channel>& channels() const { return channels_; }
    const std::vector<Moment>& of(std::uint32_t channel) const { return moments_[channel]; }
    std::size_t change_count() const;
    base::Nanoseconds begin_time() const { return begin_; }
    base::Nanoseconds end_time() const { return end_; }

    std::optional<std::uint32_t> find(std::string_view name) const;
    logic::Value value(std::uint32_t channel, const Moment& moment) const;
    /// The value at a time; before its first moment that one. Cost: the logarithm of its moments.
    logic::Value value_at(std::uint32_t channel, base::Nanoseconds time) const;
    struct Edge {
        std::uint32_t channel;
        bool rising;
    };
    /// Time of the first such edge at or after `start`; null when there is none.
    std::optional<base::Nanoseconds> edge(Edge wanted, base::Nanoseconds start) const;

    bool operator==(const Trace& other) const {
        return moments_ == other.moments_ && texts_ == other.texts_ && begin_ == other.begin_ && end_ == other.end_;
    }

  private:
    std::vector<Channel> channels_;
    std::vector<std::vector<Moment>> moments_;
    std::vector<std::string> texts_;
    base::Nanoseconds begin_{}, end_{};
};

/// A cell of a table for a value, the same in all: BOOL as TRUE and FALSE, durations in seconds, enumerations by name,
/// moments as the language writes them, numbers plain and exact, texts as they are.
std::string cell_text(const Channel& channel, const logic::Value& value);

/// All tags and all points of a yard, the usual set; then `extra` names (actuals, inner variables) that are not in it.
std::vector<Channel> usual_channels(const session::SessionModel& model, const std::vector<Channel>& extra = {});
/// The channel of a name's signal.
Channel make_channel(const session::SessionModel& model, std::string name, const session::Signal& signal);

/// Observes after every step. Most steps change little, so bytes are compared first: the wires of the plant, and the
/// parts of each controller's memory, and of what leaves it, that hold its tags. Cost per step: those bytes; the
/// channels of the words that changed; actuals and inner variables one by one.
class Recorder {
  public:
    /// The sinks outlive the recorder.
    Recorder(const session::Session& session, std::vector<Channel> channels, std::vector<Sink*> sinks);
    void observe(const session::Session& session);
    void finish(const session::Session& session);

    const std::vector<Channel>& channels() const { return channels_; }
    std::size_t change_count() const { return changes_; }
    /// The program of a controller changed: channels of variables that are gone stay at their last value.
    void follow(int controller, const controller::Rebinding& rebinding, const session::Session& session);

  private:
    /// A block of bytes as it was seen last, and the channels that lie in each of its words of 8 bytes.
    class Block {
      public:
        Block(const std::byte* now, std::size_t size);
        void add(std::uint32_t channel, std::size_t offset, std::size_t size);
        /// Calls with every channel of a word that changed.
        template <class Each>
        void look(const std::byte* now, const Each& each);

      private:
        std::vector<std::byte> last_;
        std::vector<std::vector<std::uint32_t>> channels_;
    };
    void sort_channels(const session::Session& session);
    void sort_channel(std::uint32_t channel, const session::SessionModel& model);
    void note(std::uint32_t channel, const session::Session& session);

    std::vector<Channel> channels_;
    std::vector<Sink*> sinks_;
    std::vector<bool> gone_;
    std::vector<std::uint64_t> last_;      ///< As session::bits() gives them.
    std::vector<std::string> last_texts_;  ///< Of tags that are texts.
    std::vector<std::uint64_t> seen_;      ///< Per controller: scans and touches.
    std::vector<Block> tagged_, leaving_;  ///< Per controller.
    std::vector<Block> wires_;             ///< One, with the channels that are points.
    std::vector<std::uint32_t> actuals_;   ///< Channels of the plant that are no points.
    std::vector<std::uint32_t> inner_;     ///< Variables that are no tags; they change only in scans.
    std::size_t changes_ = 0;
};

}  // namespace vyard::trace
