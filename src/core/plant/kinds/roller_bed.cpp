#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Accumulation : int { None = 0, ZeroPressure = 1 };

// Driven rollers in zones. With zero pressure a zone whose end is taken runs only while the next one can take what it
// gives, so that items queue without touching.
struct RollerBed {
    static constexpr int kMostZones = 16;
    struct Model {
        double length_m = 1.0, width_m = 0.4, speed_m_s = 0.3;
        int zones = 1;
        Accumulation accumulation = Accumulation::ZeroPressure;
        int first = kNone;
        std::array<int, kMostZones> looks{};
    };
    struct State {
        int taken = 0;
        bool jammed = false;
    };
    enum Points { kRun, kRelease, kWaiting };
    static constexpr double kLook_m = 0.03;  ///< How far before its end a zone looks.

    static void declare(Declaration<RollerBed>& kind) {
        kind.names("roller_bed", "transport", Placement::Surface,
                   "driven rollers in zones that let items queue without pressing")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.1, 200.0, "of all zones")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.3 m/s", 0.01, 5.0, "of the rollers that run")
            .whole("zones", &Model::zones, "3", 1, kMostZones, "of equal length")
            .choice("accumulation", &Model::accumulation, {"none", "zero pressure"}, "zero pressure",
                    "none: all zones run together")
            .output("run", "TRUE runs it")
            .output("release", "TRUE lets the last zone give its item away")
            .only_if([](const Model& m) { return m.accumulation == Accumulation::ZeroPressure; })
            .input("waiting", "TRUE while an item stands at the end")
            .actual("taken", PointType::Number, Dimension::Plain, "zones that have an item at their end", &State::taken)
            .actual("speed", PointType::Analog, Dimension::Speed, "of its last zone, now",
                    [](const Model& m, const State&, const PlantModel&, const PlantState& state, int) {
                        return base::at(state.surfaces, m.first + m.zones - 1).speed_m_s;
                    })
            .moves_by_surface()
            .fault("jammed", "no roller turns", &State::jammed);
    }

    static void place(Placing& at, Model& model, State&) {
        const double zone_m = model.length_m / model.zones;
        for (int z = 0; z < model.zones; ++z) {
            const int surface = at.add_surface(zone_m, model.width_m, z * zone_m);
            if (z == 0) model.first = surface;
            base::at(model.looks, z) = at.add_zone(
                {at.device.pose.at((z + 1) * zone_m - kLook_m, 0.0), 0.0, model.width_m / 2.0, at.device.pose.heading});
        }
        at.moves_up_to(model.speed_m_s);
    }

    /// Whether an item lies across the end of a zone.
    static bool taken(const Model& model, int zone, Step& step) {
        const Pose& pose = step.surface(model.first).pose;
        const double end_m = (zone + 1) * model.length_m / model.zones - kLook_m;
        bool found = false;
        step.each_near(base::at(model.looks, zone), [&](const Item& item) {
            const double half = step.model.footprint(item).half_extent(pose.heading.ahead());
            const bool across = std::abs(pose.along(item.x_m, item.y_m) - end_m) <= half &&
                                std::abs(pose.left(item.x_m, item.y_m)) <= model.width_m / 2.0;
            found = found || (across && std::abs(item.z_m - pose.z_m) < kStepUp_m);
        });
        return found;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const bool on = step.output(kRun) != 0.0 && !state.jammed;
        bool next_takes = model.accumulation == Accumulation::None || step.output(kRelease) != 0.0;
        for (int z = model.zones - 1; z >= 0; --z) {
            const bool runs = on && (next_takes || !taken(model, z, step));
            step.surface(model.first + z).speed_m_s = runs ? model.speed_m_s : 0.0;
            if (model.accumulation == Accumulation::ZeroPressure) next_takes = runs;
        }
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.taken = 0;
        for (int z = 0; z < model.zones; ++z) state.taken += taken(model, z, step) ? 1 : 0;
        step.input(kWaiting, taken(model, model.zones - 1, step) ? 1.0 : 0.0);
    }

    static void draw(Drawing& d) {
        d.rollers();
        d.surface_label(fmt::format("{}  {:.0f} waiting", d.name(), d.actual("taken")));
    }
};

}  // namespace

Kind roller_bed_kind() {
    return make_kind<RollerBed>();
}

}  // namespace vyard::plant
