#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/lagged.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct FlowTransmitter {
    struct Model {
        int through = kNone;
        double range_m3_s = 1e-3, lag_s = 0.2, pulse_m3 = 1e-3;
        WireSignal signal = WireSignal::AsTheCard;
    };
    struct State {
        Lagged flow;
        double total_m3 = 0.0;
    };
    enum Points { kFlow, kPulses };

    static void declare(Declaration<FlowTransmitter>& kind) {
        kind.names("flow_transmitter", "sensors", Placement::Panel,
                   "measures what flows through a valve, pump or consumer")
            .device("through", &Model::through, {"valve", "pump", "demand"}, true, "whose flow it measures")
            .quantity("range", &Model::range_m3_s, Dimension::Flow, "1 l/s", 1e-7, 10.0, "upper end of its signal")
            .quantity("time_constant", &Model::lag_s, Dimension::Time, "0.2 s", 0.0, 600.0, "time constant")
            .quantity("pulse", &Model::pulse_m3, Dimension::Volume, "1 l", 1e-7, 10.0, "volume of one count")
            .analog_input("flow", Dimension::Flow, "within 0 to range")
            .spans([](const Model& m) {
                return std::pair{0.0, m.range_m3_s};
            })
            .electrical(&Model::signal)
            .number_input("pulse_count", "volume counted so far, in pulses")
            .actual("total", PointType::Analog, Dimension::Volume, "flown so far", &State::total_m3);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const DeviceModel& d = base::at(step.model.devices, model.through);
        double flow = 0.0;
        for (const ActualSpec& g : d.kind->actuals) {
            if (g.name != "flow") continue;
            flow = g.read(step.model.parameters.data() + d.model_offset, step.state.devices.data() + d.state_offset,
                          step.model, step.state, model.through);
        }
        state.total_m3 += flow * step.dt_s;
        step.input(kFlow, std::clamp(state.flow.follow(flow, model.lag_s, step.dt_s), 0.0, model.range_m3_s));
        step.input(kPulses, std::floor(state.total_m3 / model.pulse_m3));
    }
};

}  // namespace

Kind flow_transmitter_kind() {
    return make_kind<FlowTransmitter>();
}

}  // namespace vyard::plant
