// The campaign "smoke": what a plain operator does, without any procedure: all contacts healthy, automatic, reset,
// start, wait, stop. Whether each drive moves, and whether anything alarms, mishaps, stands still or goes on after
// stop.
#include "core/campaign/operator_day.hpp"

namespace vyard::campaign {

namespace {

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

    RunRow run(std::size_t, Story* story) const override {
        RunRow row;
        row.disturbance = "a plain operator";
        const session::Session fresh(setup_.model);
        OperatorDay day(setup_, panel_, watching(setup_, fresh), {"smoke", {}, true}, row, story);
        day.run();
        row.outcome = row.sights.empty() ? "works" : "works, with findings";
        tell(story, day.end());
        return row;
    }

  private:
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
