// The lines of a yard's controllers that are executed elsewhere: the plant's side of them.
//
//   std::string problem;
//   const auto links = Links::open(model, problem);        // listens, or connects when it is time
//   session::Session session(model, nullptr, links.get());
//
// Where a link is not locked, the plant keeps real time: an exchange waits until it is due.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"
#include "link/pace.hpp"

namespace vyard::link {

class OneLink;

/// How a link does: exchanges, and how they lie to when they were due.
struct LinkFigures {
    std::string name, where;      ///< Of its controller; "server at 127.0.0.1:1502".
    std::uint64_t exchanges = 0;  ///< Scans.
    std::uint64_t came = 0;       ///< In which something came.
    std::uint64_t requests = 0;   ///< Modbus requests, either way.
    double latest_ms = 0.0;       ///< An exchange behind its time, at most; in real time alone.
    double jitter_ms = 0.0;       ///< Standard deviation of that.
    bool locked = false;
    std::string problem;  ///< What is wrong now, such as a connection that is refused; "" for nothing.
};

/// One exchange, by the wall clock.
struct Exchanged {
    int controller = 0;
    base::Nanoseconds now{};                       ///< Of the run.
    std::optional<double> late_ms = std::nullopt;  ///< Behind its time; null where it has none, in lock step.
    double took_ms = 0.0;
    bool came = false;
};

class Links final : public controller::Partner {
  public:
    /// Null with why in `problem`: an address that cannot be listened at.
    static std::unique_ptr<Links> open(const session::SessionModel& model, std::string& problem);
    ~Links() override;

    /// Waits until every controller has been heard of, `longest` at most by the wall clock; false when one was not.
    /// `ended` is asked meanwhile.
    bool wait_for_all(base::Nanoseconds longest, const std::function<bool()>& ended);

    bool exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                  std::span<std::byte> outputs) override;

    /// Called after each exchange. Null: nobody looks.
    void on_exchange(std::function<void(const Exchanged&)> look) { look_ = std::move(look); }
    /// Whether exchanges keep real time by themselves; not where something else keeps it.
    void keep_real_time(bool keeps) { keeps_time_ = keeps; }
    std::vector<LinkFigures> figures() const;
    /// The port that a link listens at; 0 for one that connects.
    int port(int controller) const;

  private:
    Links();
    std::map<int, std::unique_ptr<OneLink>> links_;
    Pace pace_;
    bool keeps_time_ = true;
    std::function<void(const Exchanged&)> look_;
};

/// Writes down what comes, so that a run can be done again without the controller.
class LinkRecorder final : public controller::Partner {
  public:
    LinkRecorder(controller::Partner& partner, const session::SessionModel& model) : partner_(partner), model_(model) {}
    bool exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                  std::span<std::byte> outputs) override;
    /// CSV: time in seconds, controller, tag, value; without a tag whether anything came from then on.
    const std::string& text() const { return text_; }

  private:
    controller::Partner& partner_;
    const session::SessionModel& model_;
    std::map<int, bool> came_;
    std::string text_ = "time_s,controller,tag,value\n";
};

/// What a recorder wrote, in the place of the controller: run after run as they were, then from the first again.
class LinkReplay final : public controller::Partner {
  public:
    /// Null after reports: no such tag, no value of its type.
    static std::unique_ptr<LinkReplay> read(const base::SourcePtr& source, const session::SessionModel& model,
                                            base::Diagnostics& diagnostics);
    bool exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                  std::span<std::byte> outputs) override;

  private:
    struct Event {
        base::Nanoseconds time{};
        controller::Spot spot;
        std::optional<logic::Value> value;  ///< Null: only whether it comes.
        bool came = false;
    };
    /// Of one controller: the runs that were recorded one after the other.
    struct Track {
        std::vector<std::vector<Event>> runs;
        std::size_t run = 0, next = 0;
        bool begun = false, comes = false;
    };
    std::map<int, Track> tracks_;
};

}  // namespace vyard::link
