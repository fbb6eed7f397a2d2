// The campaign "stops": at many moments of each procedure the machine is stopped, in every way the yard has. What still
// moves after the time that is allowed, what comes on again without a start, and what does not go on once it is reset
// and started, are findings; so are mishaps and broken rules on the way.
#include <fmt/format.h>

#include <algorithm>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

namespace {

using base::Nanoseconds;
using namespace std::chrono_literals;

constexpr Nanoseconds kHeld = 3s;      ///< How long it is kept stopped.
constexpr Nanoseconds kReleased = 3s;  ///< How long it is watched once what stopped it is undone.
constexpr Nanoseconds kBefore = 5s;    ///< What moved last so long ago was at work when it was stopped.

struct Moment {
    std::size_t nominal = 0;
    Branch branch;
};

class Stops final : public Campaign {
  public:
    explicit Stops(const Setup& setup) : setup_(setup), model_(*setup.model), panel_(find_panel(model_)) {
        events_ = events_of(model_, panel_);
        if (panel_.starts.empty()) remarks_.emplace_back("no start button is found, so nothing is started again");
        nominals_ = nominals_of(setup, remarks_);
        const session::Session fresh(setup.model);
        for (std::size_t n = 0; n < nominals_.size(); ++n) {
            const auto times = thinned(nominals_[n].moments, setup.moments);
            for (Branch& b : branches_at(setup.book, nominals_[n].procedure, fresh, times))
                moments_.push_back({n, std::move(b)});
        }
    }

    const char* kind() const override { return "stops"; }
    std::size_t jobs() const override { return moments_.size() * events_.size(); }
    const std::vector<std::string>& remarks() const override { return remarks_; }

    RunRow run(std::size_t job, Story* story) const override {
        const Moment& moment = moments_[job / events_.size()];
        const Nominal& nominal = nominals_[moment.nominal];
        return Attempt(*this, events_[job % events_.size()], nominal, moment.branch, story).run();
    }

  private:
    /// One job.
    class Attempt {
      public:
        Attempt(const Stops& of, const Event& event, const Nominal& nominal, const Branch& from, Story* story)
            : of_(of),
              event_(event),
              nominal_(nominal),
              now_(from),
              story_(story),
              trouble_(nominal.mishaps, from),
              devices_(static_cast<int>(of.model_.plant->devices.size())) {
            row_.disturbance = event.name;
            row_.procedure = nominal.verdict.name;
            row_.at = from.session.now();
        }

        RunRow run() {
            const std::optional<std::vector<std::string>> end = how_to_undo();
            if (!end) {
                row_.outcome = "no change";
                return std::move(row_);
            }
            for (int d = 0; d < devices_; ++d) at_work_.push_back(at_work(d));
            // A procedure may have put faults on, or not have started anything.
            const bool sound = session::faults_text(now_.session).empty() && started();
            for (const std::string& line : event_.act) obey(now_, line, row_, story_);
            const bool stopped = hold();
            for (const std::string& line : *end) obey(now_, line, row_, story_);
            released(stopped);
            if (sound) go_on();
            if (row_.outcome.empty()) row_.outcome = stopped ? "comes to rest" : "runs on";
            tell(story_, now_);
            return std::move(row_);
        }

      private:
        /// It moved shortly before, and would have moved again soon.
        bool at_work(int device) const {
            return nominal_.moved_within(device, row_.at - kBefore, row_.at) &&
                   nominal_.moved_within(device, row_.at + kPress, row_.at + of_.setup_.patience);
        }
        /// Whether a start button was pressed so far.
        bool started() const {
            return std::any_of(of_.panel_.starts.begin(), of_.panel_.starts.end(), [&](int start) {
                const std::string press = "press " + of_.model_.plant->device(start).name;
                return std::any_of(now_.run.deeds().begin(), now_.run.deeds().end(), [&](const procedure::Deed& d) {
                    return d.text == press || d.text.starts_with(press + " ");
                });
            });
        }
        bool moves(int device) const { return plant::moves(*of_.model_.plant, now_.session.plant(), device); }
        void step() {
            now_.session.step();
            now_.run.watch(now_.session);
            if (trouble_.look(now_, event_.name, row_, story_)) row_.outcome = "trouble";
        }

        /// Null when the event would change nothing.
        std::optional<std::vector<std::string>> how_to_undo() const {
            if (event_.selector < 0) return event_.end;
            const plant::DeviceModel& device = of_.model_.plant->device(event_.selector);
            const std::string back =
                fmt::format("turn {} to {}", device.name, base::at(device.positions, position_of(event_.selector)));
            if (back == event_.name) return std::nullopt;
            return std::vector{back};
        }
        /// The contact that is closed tells; in the first position none is.
        int position_of(int selector) const {
            const plant::DeviceModel& device = of_.model_.plant->device(selector);
            for (std::size_t i = 0; i + 1 < device.positions.size(); ++i) {
                const int point = device.points[i];
                if (point != plant::kNone && now_.session.plant().shown(point) != 0.0) return static_cast<int>(i) + 1;
            }
            return 0;
        }

        void see_moving(int device, const char* what, const std::string& text) {
            const std::string& name = of_.model_.plant->device(device).name;
            see(row_, story_, now_,
                {fmt::format("{}: {} {}", event_.name, name, what), fmt::format("{} {}", name, text),
                 now_.session.now()},
                fmt::format("expect not {}.moving", name));
            row_.outcome = what;
        }

        /// Until it is let go again. Whether all stood at the end.
        bool hold() {
            const Nanoseconds begin = now_.session.now();
            const bool locked = event_.door >= 0 && !door_opens();
            std::vector<std::uint8_t> stood(static_cast<std::size_t>(devices_), 0), told = stood;
            Nanoseconds last_move = begin;
            while (now_.session.now() - begin < of_.setup_.allowed + kHeld) {
                step();
                const Nanoseconds since = now_.session.now() - begin;
                for (int d = 0; d < devices_; ++d) {
                    auto& has_stood = base::at(stood, d);
                    if (!moves(d)) {
                        has_stood = 1;
                        continue;
                    }
                    last_move = now_.session.now();
                    at_work_[static_cast<std::size_t>(d)] =
                        at_work_[static_cast<std::size_t>(d)] && since <= of_.setup_.allowed;
                    if (!event_.must_stop || locked || since <= of_.setup_.allowed || base::at(told, d) != 0) continue;
                    base::at(told, d) = 1;
                    if (has_stood != 0)
                        see_moving(d, "moves again while it is stopped",
                                   fmt::format("moves again {} after '{}'", base::clock_text(since), event_.name));
                    else
                        see_moving(d, "still moves",
                                   fmt::format("still moves {} after '{}'", base::clock_text(since), event_.name));
                }
            }
            return now_.session.now() - last_move > 500ms;
        }
        bool door_opens() const {
            const plant::Reading reading =
                *plant::find_actual(*of_.model_.plant, of_.model_.plant->device(event_.door).name, "open");
            session::Session look = now_.session;
            look.step();
            return plant::read(*of_.model_.plant, look.plant(), reading) != 0.0;
        }

        /// What stopped it is undone: nothing may begin without a start, where all stood.
        void released(bool stopped) {
            const Nanoseconds begin = now_.session.now();
            std::vector<std::uint8_t> told(static_cast<std::size_t>(devices_), 0);
            while (now_.session.now() - begin < kReleased) {
                step();
                for (int d = 0; d < devices_; ++d) {
                    if (!moves(d)) continue;
                    at_work_[static_cast<std::size_t>(d)] = false;
                    if (!stopped || base::at(told, d) != 0) continue;
                    base::at(told, d) = 1;
                    see_moving(d, "comes on without a start",
                               fmt::format("comes on {} after '{}' was undone, without a start",
                                           base::clock_text(now_.session.now() - begin), event_.name));
                }
            }
        }

        /// Reset and start, as a person would: something of what was at work has to move again.
        void go_on() {
            const bool worked = std::find(at_work_.begin(), at_work_.end(), true) != at_work_.end();
            if (!worked || of_.panel_.starts.empty()) return;
            const auto press_all = [&](const std::vector<int>& buttons) {
                for (const int b : buttons) {
                    obey(now_, press_text(of_.model_, b), row_, story_);
                    for (const Nanoseconds end = now_.session.now() + kPress; now_.session.now() < end;) step();
                }
            };
            // What the procedure itself had pressed or opened is put right too.
            for (const std::string& line : make_safe(of_.model_, of_.panel_)) obey(now_, line, row_, story_);
            // An alarm may come just after it was reset; a person tries again.
            for (int round = 0; round < 2; ++round) {
                press_all(of_.panel_.resets);
                press_all(of_.panel_.starts);
                const Nanoseconds begin = now_.session.now();
                while (now_.session.now() - begin < of_.setup_.patience) {
                    for (int d = 0; d < devices_; ++d) {
                        if (at_work_[static_cast<std::size_t>(d)] && moves(d)) return;
                    }
                    step();
                }
            }
            std::vector<std::string> still;
            for (int d = 0; d < devices_; ++d) {
                if (at_work_[static_cast<std::size_t>(d)]) still.push_back(of_.model_.plant->device(d).name);
            }
            std::vector<std::string> any;
            for (const std::string& d : still) any.push_back(d + ".moving");
            see(row_, story_, now_,
                {fmt::format("{}: it does not go on", event_.name),
                 fmt::format("within {} of reset and start, twice, none of {} moves again",
                             base::clock_text(of_.setup_.patience), fmt::join(still, ", ")),
                 now_.session.now()},
                fmt::format("expect {}", fmt::join(any, " or ")));
            row_.outcome = "does not go on";
        }

        const Stops& of_;
        const Event& event_;
        const Nominal& nominal_;
        Branch now_;
        Story* story_;
        RunRow row_;
        TroubleWatch trouble_;
        int devices_;
        std::vector<bool>
            at_work_;  ///< What was stopped, and has to go on: not what moves whether it is stopped or not.
    };

    Setup setup_;
    const session::SessionModel& model_;
    Panel panel_;
    std::vector<Event> events_;
    std::vector<Nominal> nominals_;
    std::vector<Moment> moments_;
    std::vector<std::string> remarks_;
};

}  // namespace

std::unique_ptr<const Campaign> make_stops(const Setup& setup) {
    return std::make_unique<Stops>(setup);
}

}  // namespace vyard::campaign
