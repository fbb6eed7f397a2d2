#include <fmt/format.h>

#include <cmath>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// A disc that goes on by one station at each rising edge.
struct IndexTable {
    struct Model {
        double radius_m = 0.5, index_s = 1.0;
        int stations = 4;
        int surface = kNone;
        Heading home;
    };
    struct State {
        double to_go_rad = 0.0, turned_rad = 0.0;
        int count = 0;
        bool last = false, jammed = false, moves = false;
    };
    enum Points { kIndex, kInPosition };
    enum Mishaps { kBlocked };

    static void declare(Declaration<IndexTable>& kind) {
        kind.names("index_table", "transport", Placement::Plan,
                   "a round table that turns on by one station at a time, counter-clockwise")
            .drawn(Layer::Carrier)
            .carries()
            .quantity("radius", &Model::radius_m, Dimension::Length, "", 0.05, 10.0, "of the table")
            .whole("stations", &Model::stations, "4", 2, 60, "in a whole turn")
            .quantity("index_time", &Model::index_s, Dimension::Time, "1 s", 0.05, 60.0, "from station to station")
            .output("index", "a rising edge turns it on by one station")
            .input("in_position", "TRUE while it stands at a station")
            .actual("count", PointType::Number, Dimension::Plain, "stations gone on so far", &State::count)
            .actual("angle", PointType::Analog, Dimension::Angle, "turned so far", &State::turned_rad)
            .moves("it turns", &State::moves)
            .fault("jammed", "does not turn", &State::jammed)
            .mishap("turn_blocked", "something stands in the way of what it turns");
    }

    static void place(Placing& at, Model& model, State&) {
        model.surface = at.add_surface(2.0 * model.radius_m, 2.0 * model.radius_m);
        SurfaceModel& s = at.surface(model.surface);
        s.disc = s.turns = true;
        s.pivot = at.device.pose.origin();
        s.turn_radius_m = model.radius_m;
        s.zone = at.add_zone(s.pivot, s.turn_radius_m);
        model.home = s.pose.heading;
        at.moves_up_to((model.radius_m + 0.5) * 2.0 * std::numbers::pi / model.stations / model.index_s);
    }

    static double station_rad(const Model& model) { return 2.0 * std::numbers::pi / model.stations; }

    static void actuate(const Model& model, State& state, Step& step) {
        const bool index = step.output(kIndex) != 0.0;
        if (index && !state.last && state.to_go_rad == 0.0) state.to_go_rad = station_rad(model);
        state.last = index;
        const double most = station_rad(model) * step.dt_s / model.index_s;
        step.surface(model.surface).turn_rad = state.jammed ? 0.0 : std::min(state.to_go_rad, most);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const Heading now = step.surface(model.surface).pose.heading;
        const Heading was = model.home.turned({std::cos(state.turned_rad), std::sin(state.turned_rad)});
        const double way = now.turned({was.cos, -was.sin}).radians();
        state.moves = std::abs(way) > 1e-12;
        step.mishap(kBlocked, !state.jammed && state.to_go_rad > 1e-9 && std::abs(way) < 1e-9);
        state.turned_rad += way;
        if (state.to_go_rad > 0.0) {
            state.to_go_rad -= way;
            if (state.to_go_rad < 1e-9) {
                state.to_go_rad = 0.0;
                ++state.count;
            }
        }
        step.input(kInPosition, state.to_go_rad == 0.0 ? 1.0 : 0.0);
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const double radius_m = v.length_m / 2, angle = d.actual("angle");
        d.disc(v.pose.origin(), radius_m, {Tone::Mist}, {Tone::Ink, 1.5});
        d.mark(Mark::Dot, v.pose.origin(), 4, {Tone::Ink}, {});
        d.line(v.pose.origin(), v.pose.origin() + Vector2{std::cos(angle), std::sin(angle)} * radius_m,
               {Tone::Faint, 1.5, true});
        d.label({v.pose.x_m, v.pose.y_m - radius_m}, fmt::format("{}  indexed {:.0f}", d.name(), d.actual("count")),
                Side::Below);
    }
};

}  // namespace

Kind index_table_kind() {
    return make_kind<IndexTable>();
}

}  // namespace vyard::plant
