#include "core/campaign/operator_day.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::campaign {

using base::Nanoseconds;
using namespace std::chrono_literals;

namespace {

constexpr Nanoseconds kSettles = 2s;  ///< Before anything is touched.
constexpr Nanoseconds kRuns = 60s;
constexpr Nanoseconds kStopped = 5s;

std::set<std::pair<int, int>> mishaps_in(const session::Session& session) {
    std::set<std::pair<int, int>> out;
    for (const plant::Mishap& m : session.plant().mishaps) out.emplace(m.device, m.number);
    return out;
}

}  // namespace

OperatorDay::OperatorDay(const Setup& setup, const Panel& panel, Branch at, DayOptions options, RunRow& row,
                         Story* story)
    : setup_(setup),
      model_(*setup.model),
      panel_(panel),
      options_(std::move(options)),
      row_(row),
      story_(story),
      now_(std::move(at)),
      happened_(mishaps_in(now_.session)),
      trouble_(happened_, now_),
      devices_(static_cast<int>(model_.plant->devices.size())),
      moved_(static_cast<std::size_t>(devices_), 0) {}

void OperatorDay::run() {
    if (options_.fresh) wait(kSettles, [&](int d) { see_device(d, "moves before anything is touched"); });
    make_ready();
    if (!panel_.starts.empty()) work();
    if (!panel_.stops.empty()) stop();
}

template <class Moving>
void OperatorDay::wait(Nanoseconds length, Moving moving) {
    for (const Nanoseconds end = now_.session.now() + length; now_.session.now() < end;) {
        now_.session.step();
        now_.run.watch(now_.session);
        trouble_.look(now_, options_.prefix, row_, story_);
        look_at_alarms();
        for (int d = 0; d < devices_; ++d) {
            if (!plant::moves(*model_.plant, now_.session.plant(), d)) continue;
            last_moved_ = now_.session.now();
            moving(d);
        }
    }
}
void OperatorDay::press(const std::vector<int>& buttons) {
    for (const int b : buttons) {
        obey(now_, press_text(model_, b), row_, story_);
        wait(kPress, [&](int d) { base::at(moved_, d) = 1; });
    }
}

void OperatorDay::make_ready() {
    for (const auto& orders : {make_safe(model_, panel_), turn_to_automatic(model_, panel_)}) {
        for (const std::string& order : orders) obey(now_, order, row_, story_);
    }
    press(panel_.resets);
}

void OperatorDay::work() {
    press(panel_.starts);
    wait(kRuns, [&](int d) { base::at(moved_, d) = 1; });
    const Nanoseconds still = now_.session.now() - last_moved_;
    const bool any = std::find(moved_.begin(), moved_.end(), 1) != moved_.end();
    if (!any)
        note("nothing moves after start", fmt::format("nothing has moved in {}", base::clock_text(kRuns)));
    else if (still > kRuns / 3)
        note("it comes to a stand", fmt::format("nothing has moved since {}", base::clock_text(last_moved_)));
    for (int d = 0; d < devices_ && any; ++d) {
        if (model_.plant->device(d).kind->moving != plant::kNone && base::at(moved_, d) == 0)
            note(fmt::format("{} never moves", model_.plant->device(d).name),
                 fmt::format("{} has not moved in {} of work", model_.plant->device(d).name, base::clock_text(kRuns)));
    }
}

void OperatorDay::stop() {
    press(panel_.stops);
    wait(setup_.allowed, [](int) {});
    wait(kStopped, [&](int d) { see_device(d, "moves after stop"); });
}

void OperatorDay::look_at_alarms() {
    if (!now_.session.scanned()) return;
    for (std::size_t a = 0; a < setup_.alarms.signals.size(); ++a) {
        const session::Signal& signal = setup_.alarms.signals[a];
        if (session::bits(now_.session, signal) == setup_.alarms.quiet[a]) continue;
        const std::string text = session::value_text(now_.session, signal);
        note(fmt::format("{} = {}", setup_.alarms.names[a], text),
             fmt::format("the alarm {} = {} at {}", setup_.alarms.names[a], text, base::clock_text(now_.session.now())),
             fmt::format("expect not ({} = {})", setup_.alarms.names[a], text));
    }
}

void OperatorDay::see_device(int device, const char* what) {
    const std::string& name = model_.plant->device(device).name;
    note(fmt::format("{} {}", name, what),
         fmt::format("{} {}, at {}", name, what, base::clock_text(now_.session.now())),
         fmt::format("expect not {}.moving", name));
}
/// Each once.
void OperatorDay::note(const std::string& what, const std::string& text, const std::string& check) {
    if (!noted_.insert(what).second || options_.known.contains(what)) return;
    see(row_, story_, now_, {fmt::format("{}: {}", options_.prefix, what), text, now_.session.now()}, check);
}

}  // namespace vyard::campaign
