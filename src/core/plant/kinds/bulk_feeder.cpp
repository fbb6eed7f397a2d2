#include "core/plant/kinds/kinds.hpp"
#include "core/plant/liquids.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A screw or a belt for bulk. It draws from a hopper at a rate that goes with its speed; what it has drawn travels its
// length, in cells, and falls off its end. At standstill it keeps what lies on it.
struct BulkFeeder {
    enum class Control : int { OnOff = 0, Speed = 1 };
    static constexpr int kCells = 64;
    struct Model {
        int from = kNone, into = kNone;
        double rate_m3_s = 1e-3, length_m = 2.0, speed_m_s = 0.3;
        Control control = Control::OnOff;
    };
    struct State {
        std::array<double, kCells> cells{};  ///< m3, a ring; the one at `last` falls off now.
        double passed = 0.0;                 ///< Of the passage of a cell, 0 to 1.
        double leaving_m3 = 0.0;             ///< What the last cell held when it came to the end.
        double flow_m3_s = 0.0, delivered_m3 = 0.0;
        int last = 0;
        bool jammed = false, slips = false;
    };
    enum Points { kRun, kSpeed, kTurning };

    static void declare(Declaration<BulkFeeder>& kind) {
        kind.names("bulk_feeder", "bulk", Placement::Panel,
                   "a screw or belt that carries bulk out of a hopper, into another or away, and takes its time")
            .tile(Tile::Pump)
            .drives()
            .device("from", &Model::from, {"hopper"}, true, "the hopper it draws from")
            .device("into", &Model::into, {"hopper"}, false, "the hopper it ends over; without one, away")
            .quantity("rate", &Model::rate_m3_s, Dimension::Flow, "1 l/s", 1e-6, 10.0, "drawn at full speed")
            .quantity("length", &Model::length_m, Dimension::Length, "2 m", 0.1, 1000.0, "that the bulk travels")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.3 m/s", 0.001, 10.0,
                      "of the bulk, at full speed")
            .choice("control", &Model::control, {"on/off", "setpoint"}, "on/off", "how it is driven")
            .output("run", "TRUE runs it")
            .only_if([](const Model& m) { return m.control == Control::OnOff; })
            .analog_output("speed", Dimension::Percent, "of its full speed, 0 to 100 %")
            .takes([](const Model&) {
                return std::pair{0.0, 100.0};
            })
            .only_if([](const Model& m) { return m.control == Control::Speed; })
            .input("running", "TRUE while its shaft turns")
            .actual("flow", PointType::Analog, Dimension::Flow, "off its end, now", &State::flow_m3_s)
            .actual("on_it", PointType::Analog, Dimension::Volume, "of bulk on its way",
                    [](const Model&, const State& s, const PlantModel&, const PlantState&, int) { return on_it_m3(s); })
            .actual("delivered", PointType::Analog, Dimension::Volume, "off its end so far", &State::delivered_m3)
            .moves_by_drive()
            .fault("jammed", "does not turn", &State::jammed)
            .fault("slipping", "turns, but carries nothing", &State::slips);
    }

    static double on_it_m3(const State& state) {
        double sum = 0.0;
        for (const double cell : state.cells) sum += cell;
        return sum;
    }

    static double share(const Model& model, const State& state, const Step& step) {
        if (state.jammed) return 0.0;
        return model.control == Control::OnOff ? (step.output(kRun) != 0.0 ? 1.0 : 0.0)
                                               : std::clamp(step.output(kSpeed) / 100.0, 0.0, 1.0);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        step.drive_ratio() = share(model, state, step);
        const double turns = state.slips ? 0.0 : step.drive_ratio();
        double cells = turns * model.speed_m_s * step.dt_s / (model.length_m / kCells);
        double out_m3 = 0.0;
        const double drawn_m3 = move_liquid(step, model.from, kNone, turns * model.rate_m3_s * step.dt_s);
        const double per_cell_m3 = cells > 0.0 ? drawn_m3 / cells : 0.0;
        while (cells > 0.0) {
            const double way = std::min(cells, 1.0 - state.passed);
            const double off_m3 = std::min(state.leaving_m3 * way, last(state));
            last(state) -= off_m3;
            out_m3 += off_m3;
            first(state) += per_cell_m3 * way;
            state.passed += way;
            cells -= way;
            if (state.passed >= 1.0 - 1e-12) out_m3 += next_cell(state);
        }
        state.flow_m3_s = out_m3 / step.dt_s;
        state.delivered_m3 += out_m3;
        if (model.into != kNone) step.liquid(model.into).volume_m3 += out_m3;
    }

    static double& last(State& state) { return base::at(state.cells, state.last); }
    /// The cell that is being filled: the ring has no gap, so it follows the one that falls off.
    static double& first(State& state) { return base::at(state.cells, (state.last + kCells - 1) % kCells); }
    /// All cells are one further; what rounding left in the last one falls off with it.
    static double next_cell(State& state) {
        const double left_m3 = last(state);
        last(state) = 0.0;
        state.last = (state.last + 1) % kCells;
        state.passed = 0.0;
        state.leaving_m3 = last(state);
        return left_m3;
    }

    static void sense(const Model&, State&, Step& step) { step.input(kTurning, step.drive_ratio() > 0.01 ? 1.0 : 0.0); }
};

}  // namespace

Kind bulk_feeder_kind() {
    return make_kind<BulkFeeder>();
}

}  // namespace vyard::plant
