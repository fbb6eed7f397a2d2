#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Counts pulses of the way a surface goes, up ahead and down backwards, as a counter module shows them: a whole number
// that wraps at 32 bits; and the two tracks, a quarter of a pulse apart.
struct Encoder {
    struct Model {
        int on = kNone;
        double pulses_per_m = 1000.0;
        bool tracks = false;
    };
    struct State {
        double way_m = 0.0;
        bool slipping = false;
    };
    enum Points { kCount, kTrackA, kTrackB, kSpeed };

    static void declare(Declaration<Encoder>& kind) {
        kind.names("encoder", "sensors", Placement::Panel,
                   "counts pulses of the distance that a belt travels, up and down")
            .device("on", &Model::on, {"belt", "roller_bed", "turntable", "lift"}, true, "whose surface it runs on")
            .quantity("pulses_per_metre", &Model::pulses_per_m, Dimension::Plain, "1000", 0.01, 1e6, "of belt")
            .number_input("count", "pulses so far: up when it runs ahead, down when back")
            .choice("outputs", &Model::tracks, {"count", "count and tracks"}, "count", "what is wired")
            .input("track_a", "the first track; useful below a pulse in two steps only")
            .only_if([](const Model& m) { return m.tracks; })
            .input("track_b", "the second track, a quarter of a pulse behind the first when it runs ahead")
            .only_if([](const Model& m) { return m.tracks; })
            .analog_input("speed", Dimension::Speed, "of the surface")
            .actual("distance", PointType::Analog, Dimension::Length, "travelled so far, against the heading less",
                    &State::way_m)
            .fault("slipping", "its wheel lifts off: it counts nothing", &State::slipping);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const int surface = base::at(step.model.devices, model.on).surface;
        const double speed = state.slipping ? 0.0 : step.surface(surface).speed_m_s;
        state.way_m += speed * step.dt_s;
        const double pulses = state.way_m * model.pulses_per_m;
        const double phase = pulses - std::floor(pulses);
        step.input(kCount, static_cast<double>(static_cast<std::int32_t>(
                               static_cast<std::uint32_t>(static_cast<std::int64_t>(std::floor(pulses + 1e-9))))));
        step.input(kTrackA, phase < 0.5 ? 1.0 : 0.0);
        step.input(kTrackB, phase >= 0.25 && phase < 0.75 ? 1.0 : 0.0);
        step.input(kSpeed, speed);
    }
};

}  // namespace

Kind encoder_kind() {
    return make_kind<Encoder>();
}

}  // namespace vyard::plant
