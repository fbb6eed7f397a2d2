// The campaign "smoke": what a plain operator does, without any procedure: all contacts healthy, automatic, reset,
// start, wait, stop. Whether each drive moves, and whether anything alarms, mishaps, stands still or goes on after
// stop.
#include <fmt/format.h>

#include <algorithm>

#include "core/campaign/jobs.hpp"

namespace vyard::campaign {

namespace {

using base::Nanoseconds;
using namespace std::chrono_literals;

constexpr Nanoseconds kSettles = 2s;  ///< Before anything is touched: what moves then moves by itself.
constexpr Nanoseconds kRuns = 60s;
constexpr Nanoseconds kPress = 500ms;
constexpr Nanoseconds kStopped = 5s;

class Smoke final : public Campaign {
  public:
    explicit Smoke(const Setup& setup) : setup_(setup), model_(*setup.model), panel_(find_panel(model_)) {
        if (panel_.starts.empty()) remarks_.emplace_back("no start button is found: nothing is started");
        if (panel_.stops.empty()) remarks_.emplace_back("no stop button is found: nothing is stopped");
        if (setup.alarms.names.empty())
            remarks_.emplace_back("no tag is called an alarm: name those that tell, with --alarms");
    }
    const char* kind() const override { return "smoke"; }
    std::size_t jobs() const override { return 1; }
    const std::vector<std::string>& remarks() const override { return remarks_; }

    RunRow run(std::size_t, Story* story) const override { return Day(*this, story).run(); }

  private:
    class Day {
      public:
        Day(const Smoke& of, Story* story)
            : of_(of),
              story_(story),
              fresh_(of.setup_.model),
              now_{fresh_, procedure::Run(of.setup_.book, of.setup_.book->procedures.size() - 1, fresh_)},
              trouble_(none_, now_),
              devices_(static_cast<int>(of.model_.plant->devices.size())),
              moved_(static_cast<std::size_t>(devices_), 0) {
            row_.disturbance = "a plain operator";
        }

        RunRow run() {
            wait(kSettles, [&](int d) { see_device(d, "moves before anything is touched"); });
            make_ready();
            if (!of_.panel_.starts.empty()) work();
            if (!of_.panel_.stops.empty()) stop();
            if (row_.outcome.empty()) row_.outcome = row_.sights.empty() ? "works" : "works, with findings";
            tell(story_, now_);
            return std::move(row_);
        }

      private:
        template <class Moving>
        void wait(Nanoseconds length, Moving moving) {
            for (const Nanoseconds end = now_.session.now() + length; now_.session.now() < end;) {
                now_.session.step();
                now_.run.watch(now_.session);
                trouble_.look(now_, "smoke", row_, story_);
                look_at_alarms();
                for (int d = 0; d < devices_; ++d) {
                    if (!plant::moves(*of_.model_.plant, now_.session.plant(), d)) continue;
                    last_moved_ = now_.session.now();
                    moving(d);
                }
            }
        }
        void press(const std::vector<int>& buttons) {
            for (const int b : buttons) {
                obey(now_, press_text(of_.model_, b), row_, story_);
                wait(kPress, [&](int d) { base::at(moved_, d) = 1; });
            }
        }

        void make_ready() {
            const auto say = [&](const std::string& order) { obey(now_, order, row_, story_); };
            const auto name = [&](int d) -> const std::string& { return of_.model_.plant->device(d).name; };
            for (const int e : of_.panel_.estops) say("release " + name(e));
            for (const int c : of_.panel_.cords) say("reset " + name(c));
            for (const int d : of_.panel_.doors) say("close " + name(d));
            for (const Selector& s : of_.panel_.selectors) {
                if (s.automatic >= 0)
                    say(fmt::format("turn {} to {}", name(s.device),
                                    base::at(of_.model_.plant->device(s.device).positions, s.automatic)));
            }
            press(of_.panel_.resets);
        }

        void work() {
            press(of_.panel_.starts);
            wait(kRuns, [&](int d) { base::at(moved_, d) = 1; });
            const Nanoseconds still = now_.session.now() - last_moved_;
            const bool any = std::find(moved_.begin(), moved_.end(), 1) != moved_.end();
            if (!any)
                note("nothing moves after start", fmt::format("nothing has moved in {}", base::clock_text(kRuns)));
            else if (still > kRuns / 3)
                note("it comes to a stand", fmt::format("nothing moves since {}", base::clock_text(last_moved_)));
            for (int d = 0; d < devices_ && any; ++d) {
                if (of_.model_.plant->device(d).kind->moving != plant::kNone && base::at(moved_, d) == 0)
                    note(fmt::format("{} never moves", of_.model_.plant->device(d).name),
                         fmt::format("{} has not moved in {} of work", of_.model_.plant->device(d).name,
                                     base::clock_text(kRuns)));
            }
        }

        void stop() {
            press(of_.panel_.stops);
            wait(of_.setup_.allowed, [](int) {});
            wait(kStopped, [&](int d) { see_device(d, "moves after stop"); });
        }

        void look_at_alarms() {
            if (!now_.session.scanned()) return;
            for (std::size_t a = 0; a < of_.setup_.alarms.signals.size(); ++a) {
                const session::Signal& signal = of_.setup_.alarms.signals[a];
                if (session::bits(now_.session, signal) == of_.setup_.alarms.quiet[a]) continue;
                const std::string text = session::value_text(now_.session, signal);
                note(fmt::format("{} = {}", of_.setup_.alarms.names[a], text),
                     fmt::format("the alarm {} = {} at {}", of_.setup_.alarms.names[a], text,
                                 base::clock_text(now_.session.now())),
                     fmt::format("expect not ({} = {})", of_.setup_.alarms.names[a], text));
            }
        }

        void see_device(int device, const char* what) {
            const std::string& name = of_.model_.plant->device(device).name;
            note(fmt::format("{} {}", name, what),
                 fmt::format("{} {}, at {}", name, what, base::clock_text(now_.session.now())),
                 fmt::format("expect not {}.moving", name));
        }
        /// Each once.
        void note(const std::string& what, const std::string& text, const std::string& check = {}) {
            const std::string key = "smoke: " + what;
            const bool known =
                std::any_of(row_.sights.begin(), row_.sights.end(), [&](const Sight& s) { return s.key == key; });
            if (!known) see(row_, story_, now_, {key, text, now_.session.now()}, check);
        }

        const Smoke& of_;
        Story* story_;
        session::Session fresh_;
        Branch now_;
        RunRow row_;
        const std::set<std::pair<int, int>> none_;
        TroubleWatch trouble_;
        int devices_;
        std::vector<std::uint8_t> moved_;
        Nanoseconds last_moved_{};
    };

    Setup setup_;
    const session::SessionModel& model_;
    Panel panel_;
    std::vector<std::string> remarks_;
};

}  // namespace

std::unique_ptr<const Campaign> make_smoke(const Setup& setup) {
    return std::make_unique<Smoke>(setup);
}

}  // namespace vyard::campaign
