#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/switching.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Lift {
    struct Model {
        double length_m = 0.6, width_m = 0.4, speed_m_s = 0.3, travel_m = 1.0, lift_m_s = 0.2, bottom_m = 0.0;
    };
    struct State {
        double position_m = 0.0;
        double against_s = 0.0;  ///< For how long it has been driven against an end.
        bool jammed = false, slipping = false, moves = false;
        Switching contactors;
    };
    enum Points { kRun, kUp, kDown, kBottom, kTop, kPosition };
    enum Mishaps { kBoth, kReversed, kAgainstEnd, kAcrossEdge };
    static constexpr double kMostAgainst_s = 0.5;  ///< Logic needs a scan or two to see the switch at the end.

    static void declare(Declaration<Lift>& kind) {
        kind.names("lift", "transport", Placement::Surface,
                   "a carriage with a belt on it that goes up and down; it starts at the bottom")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "600 mm", 0.05, 10.0, "of its belt")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.3 m/s", -5.0, 5.0, "of its belt")
            .quantity("travel", &Model::travel_m, Dimension::Length, "", 0.01, 50.0, "from the bottom to the top")
            .quantity("lift_speed", &Model::lift_m_s, Dimension::Speed, "0.2 m/s", 0.001, 5.0, "of the carriage")
            .output("run", "TRUE runs its belt")
            .output("up", "TRUE raises it; with down too it stands")
            .output("down", "TRUE lowers it")
            .input("bottom", "TRUE at the bottom")
            .input("top", "TRUE at the top")
            .analog_input("position", Dimension::Length, "of the carriage above the bottom")
            .actual("actual_position", PointType::Analog, Dimension::Length, "of the carriage above the bottom",
                    &State::position_m)
            .actual("speed", PointType::Analog, Dimension::Speed, "of its belt, now",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return base::at(state.surfaces, base::at(plant.devices, device).surface).speed_m_s;
                    })
            .moves("its carriage or its belt moves", &State::moves)
            .fault("jammed", "the carriage stays where it is", &State::jammed)
            .fault("slipping", "the brake is weak: without power it sinks at a tenth of its speed", &State::slipping)
            .opposite(kUp, kDown)
            .mishap("both_directions", "up and down are asked for at once")
            .mishap("reversed_at_once", "it is changed over between up and down without a pause")
            .mishap("driven_against_end", "it is driven against its end for more than half a second")
            .mishap("item_across_edge", "it moves while an item lies across its edge");
    }

    static void place(Placing& at, Model& model, State&) {
        at.add_surface(model.length_m, model.width_m);
        model.bottom_m = at.device.pose.z_m;
        at.moves_up_to(std::abs(model.speed_m_s));
    }

    static void actuate(const Model& model, State& state, Step& step) {
        SurfaceState& s = step.surface(step.device->surface);
        s.speed_m_s = step.output(kRun) != 0.0 ? model.speed_m_s : 0.0;
        double way = (step.output(kUp) - step.output(kDown)) * model.lift_m_s * step.dt_s;
        if (way == 0.0 && state.slipping) way = -0.1 * model.lift_m_s * step.dt_s;
        const double before_m = state.position_m;
        if (!state.jammed) state.position_m = std::clamp(state.position_m + way, 0.0, model.travel_m);
        const bool rises = state.position_m != before_m;
        state.moves = rises || s.speed_m_s != 0.0;
        look(model, state, rises, step);
        s.pose.z_m = model.bottom_m + state.position_m;
    }

    static void look(const Model& model, State& state, bool moves, Step& step) {
        const bool up = step.output(kUp) != 0.0, down = step.output(kDown) != 0.0;
        state.contactors.look((up ? 1 : 0) - (down ? 1 : 0), 0.0, step.dt_s);
        const bool at_end = up != down && state.position_m == (up ? model.travel_m : 0.0);
        state.against_s = at_end ? std::min(state.against_s + step.dt_s, 2.0 * kMostAgainst_s) : 0.0;
        const Item* across = moves ? item_across_edge(step.model, step.state, step.device->surface) : nullptr;
        step.mishap(kBoth, up && down);
        step.mishap(kReversed, state.contactors.reversed);
        step.mishap(kAgainstEnd, state.against_s > kMostAgainst_s);
        step.mishap(kAcrossEdge, across != nullptr, kNone, across);
    }

    static void sense(const Model& model, State& state, Step& step) {
        step.input(kBottom, state.position_m < 1e-6 ? 1.0 : 0.0);
        step.input(kTop, state.position_m > model.travel_m - 1e-6 ? 1.0 : 0.0);
        step.input(kPosition, state.position_m);
    }

    static void draw(Drawing& d) {
        const bool runs = d.actual("speed") != 0;
        d.box(d.area(), {Tone::Mist}, {Tone::Ink, runs ? 2.0 : 1.0});
        d.chevrons({runs ? Tone::Runs : Tone::Faint, 2});
        d.surface_label(fmt::format("{}  {:.2f} m up", d.name(), d.actual("actual_position")));
    }
};

}  // namespace

Kind lift_kind() {
    return make_kind<Lift>();
}

}  // namespace vyard::plant
