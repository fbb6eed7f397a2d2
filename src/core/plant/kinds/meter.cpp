#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Meter {
    struct Model {
        double low = 0.0, high = 100.0;
    };
    struct State {
        double shown = 0.0;
    };
    enum Points { kValue };

    static void declare(Declaration<Meter>& kind) {
        kind.names("meter", "panel", Placement::Panel, "shows a number with its fraction, on a scale")
            .quantity("low", &Model::low, Dimension::Plain, "0", -1e9, 1e9, "lower end of its scale")
            .quantity("high", &Model::high, Dimension::Plain, "100", -1e9, 1e9, "upper end of its scale")
            .analog_output("value", Dimension::Plain, "what it shows, within its scale")
            .spans([](const Model& m) {
                return std::pair{m.low, m.high};
            })
            .actual("shown", PointType::Analog, Dimension::Plain, "what it shows", &State::shown);
    }
    static void actuate(const Model& model, State& state, Step& step) {
        state.shown = std::clamp(step.output(kValue), std::min(model.low, model.high), std::max(model.low, model.high));
    }
};

}  // namespace

Kind meter_kind() {
    return make_kind<Meter>();
}

}  // namespace vyard::plant
