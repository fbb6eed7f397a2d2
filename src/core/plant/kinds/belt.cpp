#include <fmt/format.h>

#include <cmath>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/kinds/switching.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Belt {
    enum class Control : int { OnOff = 0, Reversible = 1, Setpoint = 2 };
    struct Model {
        double length_m = 1.0, width_m = 0.4, speed_m_s = 0.0, acceleration_m_s2 = 0.0;
        Control control = Control::OnOff;
        int driven_by = kNone;
    };
    struct State {
        bool jammed = false, wrong_way = false;
        double slow_percent = 0.0;
        Switching contactors;
    };
    enum Points { kRun, kForward, kBackward, kSpeed };
    enum Mishaps { kBoth, kReversed, kChatters };

    static void declare(Declaration<Belt>& kind) {
        kind.names("belt", "transport", Placement::Surface, "carries items along its heading while it runs")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.05, 200.0, "from start to end")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "", -5.0, 5.0,
                      "when it runs; negative runs backwards")
            .choice("control", &Model::control, {"on/off", "reversible", "setpoint"}, "on/off",
                    "one point to run it, one for each direction, or a speed")
            .quantity("acceleration", &Model::acceleration_m_s2, Dimension::Acceleration, "0 m/s2", 0.0, 100.0,
                      "up and down; 0 for at once")
            .device("driven_by", &Model::driven_by, {"motor", "drive"}, false,
                    "the motor that turns it; without one the belt has points of its own")
            .output("run", "TRUE runs the belt")
            .only_if([](const Model& m) { return m.driven_by == kNone && m.control == Control::OnOff; })
            .output("forward", "TRUE runs it along its heading; with reverse too it stands still")
            .only_if([](const Model& m) { return m.driven_by == kNone && m.control == Control::Reversible; })
            .output("reverse", "TRUE runs it against its heading")
            .only_if([](const Model& m) { return m.driven_by == kNone && m.control == Control::Reversible; })
            .analog_output("setpoint", Dimension::Speed, "wanted speed, in both directions, within its own")
            .takes([](const Model& m) {
                return std::pair{-std::abs(m.speed_m_s), std::abs(m.speed_m_s)};
            })
            .only_if([](const Model& m) { return m.driven_by == kNone && m.control == Control::Setpoint; })
            .actual("speed", PointType::Analog, Dimension::Speed, "of its surface, now",
                    [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                        return base::at(state.surfaces, base::at(plant.devices, device).surface).speed_m_s;
                    })
            .moves_by_surface()
            .fault("jammed", "stands still whatever drives it", &State::jammed)
            .fault_amount("slow", Dimension::Percent, 50.0, 0.0, 100.0, "loses this share of its speed",
                          &State::slow_percent)
            .fault("wrong_direction", "runs in the other direction, as with two phases swapped", &State::wrong_way)
            .opposite(kForward, kBackward)
            .mishap("both_directions", "both directions are asked for at once")
            .mishap("reversed_at_once", "it is changed over without a pause, or while it still runs")
            .mishap("contactor_chatters", "its contactor is switched on again and again");
    }

    static void place(Placing& at, Model& model, State&) {
        at.add_surface(model.length_m, model.width_m);
        at.moves_up_to(std::abs(model.speed_m_s));
    }

    static double wanted_m_s(const Model& model, const Step& step) {
        if (model.driven_by != kNone) return model.speed_m_s * drive_ratio_of(step.model, step.state, model.driven_by);
        if (model.control == Control::OnOff) return step.output(kRun) != 0.0 ? model.speed_m_s : 0.0;
        if (model.control == Control::Reversible)
            return model.speed_m_s * (step.output(kForward) - step.output(kBackward));
        const double most = std::abs(model.speed_m_s);
        return std::clamp(step.output(kSpeed), -most, most);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        double& speed = step.surface(step.device->surface).speed_m_s;
        if (model.driven_by == kNone && model.control != Control::Setpoint) look(model, state, speed, step);
        double wanted = wanted_m_s(model, step) * (1.0 - state.slow_percent / 100.0);
        if (state.wrong_way) wanted = -wanted;
        const double change = model.acceleration_m_s2 * step.dt_s;
        speed = state.jammed ? 0.0 : change == 0.0 ? wanted : speed + std::clamp(wanted - speed, -change, change);
    }

    static void look(const Model& model, State& state, double speed_m_s, Step& step) {
        const int way = static_cast<int>(step.output(kRun) + step.output(kForward) - step.output(kBackward));
        const double turns = model.speed_m_s == 0.0 ? 0.0 : speed_m_s / model.speed_m_s;
        state.contactors.look(way, state.wrong_way ? -turns : turns, step.dt_s);
        step.mishap(kBoth, step.output(kForward) != 0.0 && step.output(kBackward) != 0.0);
        step.mishap(kReversed, state.contactors.reversed);
        step.mishap(kChatters, state.contactors.chatters);
    }

    static void draw(Drawing& d) {
        const double speed = d.actual("speed");
        const double lowered = base::at(d.model.surfaces, d.device->surface).pose.z_m - d.pose().z_m;
        const bool moved = std::abs(lowered) > 1e-6;
        d.box(d.area(), {Tone::Mist, moved ? 0.55 : 1.0}, {Tone::Ink, speed != 0 ? 2.0 : 1.0, moved});
        d.chevrons(speed != 0 ? Line{Tone::Runs, 2} : Line{Tone::Faint, 2, false, 0.6});
        std::string text = fmt::format("{}  {:.2f} m/s", d.name(), speed);
        if (moved) text += fmt::format(", {:.0f} mm {}", std::abs(lowered) * 1000, lowered > 0 ? "down" : "up");
        d.surface_label(std::move(text));
    }
};

}  // namespace

Kind belt_kind() {
    return make_kind<Belt>();
}

}  // namespace vyard::plant
