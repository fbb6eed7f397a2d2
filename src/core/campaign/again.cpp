// The campaign "again": a second day is like the first. From the end of every procedure, and from moments within it at
// which it is stopped, with everything left lying where it lies, a plain operator makes the machine ready and starts
// it: as it was left, after a cold start of its controllers, and after power was cut and came back. What that person
// wonders about, and did not on the first day, is a finding; so is a second day that delivers much less than the first.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/campaign/beginnings.hpp"
#include "core/campaign/operator_day.hpp"

namespace vyard::campaign {

namespace {

using base::Nanoseconds;
using namespace std::chrono_literals;

constexpr Nanoseconds kRest = 5s;  ///< From stop to the next day.
constexpr std::size_t kCopiesOfCycles = 24;
constexpr double kMuchLess = 0.5;  ///< Of what the first day delivered.

enum class Restart { AsItWas, Cold, Power };

struct Repetition {
    std::optional<std::size_t> nominal;  ///< Null: behind a first day.
    Nanoseconds at{};
    Restart restart = Restart::AsItWas;
};

class Again final : public Campaign {
  public:
    explicit Again(const Setup& setup)
        : setup_(setup), model_(*setup.model), panel_(find_panel(model_)), fresh_(setup.model) {
        if (panel_.starts.empty()) {
            remarks_.emplace_back("no start button is found: nothing is started again");
            return;
        }
        RunRow row;
        OperatorDay day(setup_, panel_, watching(setup_, fresh_), {"again", {}, true}, row, nullptr);
        day.run();
        first_day_ = day.noted();
        delivered_ = delivered(day.end().session);
        for (const Sight& s : row.sights) first_day_.insert(s.key.substr(s.key.find(": ") + 2));
        nominals_ = nominals_of(setup, remarks_);
        beginnings_ = beginnings_of(setup, nominals_, fresh_, kCopiesOfCycles);
        if (beginnings_.size() < nominals_.size()) return;  // ended from outside
        for (const Restart restart : {Restart::AsItWas, Restart::Cold, Restart::Power}) {
            jobs_.push_back({{}, {}, restart});
            for (std::size_t n = 0; n < nominals_.size(); ++n) {
                for (const Nanoseconds at : thinned(nominals_[n].moments, std::max<std::size_t>(setup.moments / 2, 1)))
                    jobs_.push_back({n, at, restart});
                jobs_.push_back({n, nominals_[n].end, restart});
            }
        }
    }

    const char* kind() const override { return "again"; }
    std::size_t jobs() const override { return jobs_.size(); }
    const std::vector<std::string>& remarks() const override { return remarks_; }

    RunRow run(std::size_t number, Story* story) const override {
        const Repetition& job = jobs_[number];
        RunRow row;
        row.disturbance = job.restart == Restart::AsItWas ? "as it was left"
                          : job.restart == Restart::Cold  ? "after a cold start"
                                                          : "after power was cut";
        Branch now =
            job.nominal ? base::at(beginnings_, static_cast<int>(*job.nominal)).at(job.at) : after_a_day(story);
        row.procedure = job.nominal ? nominals_[*job.nominal].verdict.name : std::string();
        row.at = now.session.now();
        if (story != nullptr) {
            for (const procedure::Deed& d : now.run.deeds()) story->lines.push_back({d.time, d.text, false});
        }
        bring_to_rest(now, job.restart, row, story);
        OperatorDay day(setup_, panel_, watching(setup_, now.session), {"again", first_day_, false}, row, story);
        const auto before = delivered(now.session);
        day.run();
        if (!job.nominal) compare(before, day.end(), row, story);
        row.outcome = row.sights.empty() ? "as on the first day" : "otherwise";
        tell(story, day.end());
        return row;
    }

  private:
    Branch after_a_day(Story* story) const {
        RunRow row;
        OperatorDay day(setup_, panel_, watching(setup_, fresh_), {"first day", {}, true}, row, story);
        day.run();
        return day.end();
    }

    /// Nobody holds anything, nothing is broken, it is stopped, and stands for a while.
    void bring_to_rest(Branch& now, Restart restart, RunRow& row, Story* story) const {
        const auto say = [&](const std::string& line) { obey(now, line, row, story); };
        const auto wait = [&](Nanoseconds time) {
            for (const Nanoseconds until = now.session.now() + time; now.session.now() < until;) now.session.step();
        };
        say("heal all");
        for (const std::string& order : release_buttons(model_)) say(order);
        say("unforce all");
        for (const std::string& order : reset_overloads(model_)) say(order);
        for (const int stop : panel_.stops) say(press_text(model_, stop));
        wait(kRest);
        for (const controller::ControllerModel& c : model_.controllers) {
            if (restart == Restart::Cold) {
                say("stop " + c.name);
                say("start " + c.name);
            } else if (restart == Restart::Power) {
                say("power off " + c.name);
            }
        }
        if (restart == Restart::AsItWas) return;
        wait(kRest);
        for (const controller::ControllerModel& c : model_.controllers) {
            if (restart == Restart::Power) say("power on " + c.name);
        }
        wait(kRest);
    }

    /// What each device has delivered so far.
    std::vector<double> delivered(const session::Session& session) const {
        std::vector<double> out;
        for (const plant::DeviceModel& d : model_.plant->devices) {
            const auto counted = plant::find_actual(*model_.plant, d.name, "counted");
            out.push_back(counted ? plant::read(*model_.plant, session.plant(), *counted) : 0.0);
        }
        return out;
    }
    void compare(const std::vector<double>& before, const Branch& end, RunRow& row, Story* story) const {
        const std::vector<double> after = delivered(end.session);
        for (std::size_t d = 0; d < before.size(); ++d) {
            const double second = after[d] - before[d];
            if (delivered_[d] < 2.0 || second >= kMuchLess * delivered_[d]) continue;
            const std::string& name = model_.plant->devices[d].name;
            see(row, story, end,
                {fmt::format("again: {} gets less", name),
                 fmt::format("{} got {} on the first day, {} on the second", name, delivered_[d], second),
                 end.session.now()},
                fmt::format("expect {}.counted >= {}", name, before[d] + std::ceil(kMuchLess * delivered_[d])));
        }
    }

    Setup setup_;
    const session::SessionModel& model_;
    Panel panel_;
    session::Session fresh_;
    std::set<std::string> first_day_;
    std::vector<double> delivered_;
    std::vector<Nominal> nominals_;
    std::vector<Beginnings> beginnings_;
    std::vector<Repetition> jobs_;
    std::vector<std::string> remarks_;
};

}  // namespace

std::unique_ptr<const Campaign> make_again(const Setup& setup) {
    return std::make_unique<Again>(setup);
}

}  // namespace vyard::campaign
