#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct HourMeter {
    struct Model {
        double start_s = 0.0;
    };
    struct State {
        double counted_s = 0.0;
    };
    enum Points { kRun };

    static void declare(Declaration<HourMeter>& kind) {
        kind.names("hour_meter", "panel", Placement::Panel, "counts how long something ran")
            .quantity("initial", &Model::start_s, Dimension::Time, "0 h", 0.0, 3.6e9, "at the start of a run")
            .output("run", "TRUE lets it count")
            .actual("run_time", PointType::Analog, Dimension::Time, "so far", &State::counted_s);
    }
    static void place(Placing&, Model& model, State& state) { state.counted_s = model.start_s; }
    static void actuate(const Model&, State& state, Step& step) {
        if (step.output(kRun) != 0.0) state.counted_s += step.dt_s;
    }
};

}  // namespace

Kind hour_meter_kind() {
    return make_kind<HourMeter>();
}

}  // namespace vyard::plant
