#include <fmt/format.h>
#include "core/plant/clearance.hpp"

#include <algorithm>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Tool : int { Vacuum = 0, Gripper = 1 };

// Two or three axes that carry a tool over the plan. Each goes to its wanted position at its speed. The tool takes the
// item under it when it is close enough to its top; what it carries stops at what stands in its way, and so does the
// axis.
struct Gantry {
    struct Model {
        double x_travel_m = 1.0, y_travel_m = 1.0, z_travel_m = 0.5;
        double speed_m_s = 0.5, lift_m_s = 0.3, take_s = 0.2, weight_kg = 20.0;
        Tool tool = Tool::Vacuum;
        double opening_m = 0.3, jaws_m = 0.05;
        int air = kNone;
    };
    struct State {
        double x_m = 0.0, y_m = 0.0, down_m = 0.0;  ///< From the corner, along its heading and to its left; down.
        double sucking_s = 0.0;
        std::uint32_t item = 0;  ///< Its id; 0 for none.
        bool weak = false, jammed = false, moves = false;
    };
    enum Points { kX, kY, kDown, kGrip, kHeld, kArrived, kAtX, kAtY, kAtDown };
    enum Mishaps { kLetGo, kAgainst };
    static constexpr double kDrop_m = 0.01;    ///< That what is let go may drop; more breaks or topples it.
    static constexpr double kReach_m = 0.006;  ///< From the tool to the top of what it takes.
    static constexpr double kArrived_m = 0.0005;
    static constexpr double kMostAskew = 0.087;  ///< Sine of 5 deg, which closing jaws turn straight.
    static constexpr double kLeastAir_pa = 2e5;  ///< Gauge pressure at which an ejector still makes a vacuum.

    static void declare(Declaration<Gantry>& kind) {
        kind.names("gantry", "transport", Placement::Plan,
                   "carries items over the plan with a vacuum cup or a gripper; `at` is the corner it counts from, "
                   "`elevation` that of the raised tool")
            .drawn(Layer::Overhead)
            .from_corner()
            .quantity("x_travel", &Model::x_travel_m, Dimension::Length, "", 0.01, 100.0, "along its heading")
            .quantity("y_travel", &Model::y_travel_m, Dimension::Length, "0 m", 0.0, 100.0, "to the left of it")
            .quantity("z_travel", &Model::z_travel_m, Dimension::Length, "", 0.01, 20.0, "downwards")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.5 m/s", 0.01, 5.0, "in the plan, of each axis")
            .quantity("lift_speed", &Model::lift_m_s, Dimension::Speed, "0.3 m/s", 0.01, 5.0, "up and down")
            .choice("tool", &Model::tool, {"vacuum", "gripper"}, "vacuum", "how it holds")
            .quantity(
                "opening", &Model::opening_m, Dimension::Length, "300 mm", 0.001, 5.0,
                "of a gripper's jaws, which close across its heading: the part goes between them, turned as they are")
            .quantity("jaws", &Model::jaws_m, Dimension::Length, "50 mm", 0.005, 2.0,
                      "how far a gripper's jaws reach down; `down` counts to their tips")
            .device("air", &Model::air, {"air_supply"}, false,
                    "where a vacuum cup's air comes from: under 2 bar it holds nothing; a gripper's spring holds on")
            .quantity("grip_time", &Model::take_s, Dimension::Time, "0.2 s", 0.0, 10.0, "until it holds, from grip")
            .quantity("payload", &Model::weight_kg, Dimension::Mass, "20 kg", 0.01, 10000.0,
                      "what is heavier stays where it is")
            .analog_output("x", Dimension::Length, "wanted position along its heading")
            .takes([](const Model& m) {
                return std::pair{0.0, m.x_travel_m};
            })
            .analog_output("y", Dimension::Length, "wanted position to the left")
            .takes([](const Model& m) {
                return std::pair{0.0, m.y_travel_m};
            })
            .only_if([](const Model& m) { return m.y_travel_m > 0.0; })
            .analog_output("down", Dimension::Length, "wanted position downwards")
            .takes([](const Model& m) {
                return std::pair{0.0, m.z_travel_m};
            })
            .output("grip", "TRUE takes what is under the tool, FALSE lets go")
            .input("held", "TRUE while it holds an item")
            .input("in_position", "TRUE while every axis is at its wanted position")
            .analog_input("at_x", Dimension::Length, "position along its heading")
            .analog_input("at_y", Dimension::Length, "position to the left")
            .only_if([](const Model& m) { return m.y_travel_m > 0.0; })
            .analog_input("at_down", Dimension::Length, "position downwards")
            .actual("actual_x", PointType::Analog, Dimension::Length, "position along its heading", &State::x_m)
            .actual("actual_y", PointType::Analog, Dimension::Length, "position to the left", &State::y_m)
            .actual("actual_down", PointType::Analog, Dimension::Length, "position downwards", &State::down_m)
            .actual("holding", PointType::Boolean, Dimension::Plain, "it holds an item",
                    [](const Model&, const State& s, const PlantModel&, const PlantState&, int) {
                        return s.item != 0 ? 1.0 : 0.0;
                    })
            .moves("one of its axes moves", &State::moves)
            .fault("weak", "does not hold: what it carries drops", &State::weak)
            .fault("jammed", "no axis moves", &State::jammed)
            .mishap("let_go_in_the_air", "what it held is let go more than 10 mm above what is under it")
            .mishap("driven_against", "what it carries is driven against something that does not give way");
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.length_m = model.x_travel_m;
        at.device.width_m = model.y_travel_m;
        at.moves_up_to(model.speed_m_s * std::numbers::sqrt2);
    }

    static std::uint32_t held(const State& state) { return state.item; }
    static int carried(const State& state, const Step& step) {
        if (state.item == 0) return kNone;
        for (std::size_t i = 0; i < step.state.items.size(); ++i) {
            if (step.state.items[i].id == state.item && !step.state.items[i].gone) return static_cast<int>(i);
        }
        return kNone;
    }
    static Vector2 tool(const State& state, const Pose& pose) { return pose.at(state.x_m, state.y_m); }

    static void actuate(const Model& model, State& state, Step& step) {
        int item = carried(state, step);
        if (item == kNone) state.item = 0;
        const bool air = model.tool == Tool::Gripper || model.air == kNone ||
                         pressure_of_pa(step.model, step.state, model.air) >= kLeastAir_pa;
        const bool grip = step.output(kGrip) != 0.0 && !state.weak && air;
        state.sucking_s = grip ? std::min(state.sucking_s + step.dt_s, model.take_s + 1.0) : 0.0;
        bool against = false;
        const double x_m = state.x_m, y_m = state.y_m, down_m = state.down_m;
        if (!grip) {
            if (item != kNone) let_go(item, step);
            state.item = 0;
            item = kNone;
        } else if (item == kNone && state.sucking_s >= model.take_s - 1e-9) {
            item = take(model, state, step);
        }
        if (!state.jammed) {
            const Pose& pose = step.device->pose;
            const bool free_x =
                go(state.x_m, step.output(kX), model.x_travel_m, model.speed_m_s, pose.heading.ahead(), item, step);
            const bool free_y =
                go(state.y_m, step.output(kY), model.y_travel_m, model.speed_m_s, pose.heading.left(), item, step);
            go_down(model, state, item, step);
            against = !free_x || !free_y;
        }
        state.moves = state.x_m != x_m || state.y_m != y_m || state.down_m != down_m;
        step.mishap(kAgainst, against, kNone, item == kNone ? nullptr : &base::at(step.state.items, item));
        if (item != kNone) step.state.hold(base::at(step.state.items, item));
    }

    static void let_go(int item, Step& step) {
        Item& held = base::at(step.state.items, item);
        const Item before = held;
        sink_item(step.model, step.state, static_cast<std::size_t>(item), 2.0 * kDrop_m);  // as far as it would drop
        const double drop_m = before.z_m - held.z_m;
        held = before;
        if (drop_m > kDrop_m) step.mishap_once(kLetGo, &held);
    }

    static int take(const Model& model, State& state, Step& step) {
        const Vector2 at = tool(state, step.device->pose);
        const double height_m = step.device->pose.z_m - state.down_m;
        for (std::size_t i = 0; i < step.state.items.size(); ++i) {
            Item& item = step.state.items[i];
            const bool there =
                !item.gone && (model.tool == Tool::Vacuum ? step.model.footprint(item).contains(at) &&
                                                                std::abs(step.model.top_m(item) - height_m) <= kReach_m
                                                          : between_jaws(model, step, item, at, height_m));
            if (!there || step.model.type_of(item).mass_kg > model.weight_kg) continue;
            state.item = item.id;
            item.support = item.below = kNone;
            item.on_floor = false;
            item.speed_m_s = 0.0;
            step.state.near.unsettle(i);
            return static_cast<int>(i);
        }
        return kNone;
    }

    /// Jaws need the part between them: within their opening, at the height of their tips, turned as they are, or
    /// across.
    static bool between_jaws(const Model& model, const Step& step, const Item& item, Vector2 at, double tips_m) {
        const OrientedBox body = step.model.footprint(item);
        const Heading heading = step.device->pose.heading;
        const double sine = std::abs(item.heading.sin * heading.cos - item.heading.cos * heading.sin);
        const double askew = std::min(sine, std::sqrt(std::max(0.0, 1.0 - sine * sine)));
        const Vector2 off = body.centre - at;
        const double across_m = std::abs(dot(off, heading.left())), along_m = std::abs(dot(off, heading.ahead()));
        return askew <= kMostAskew && across_m + body.half_extent(heading.left()) <= model.opening_m / 2.0 + kTouch_m &&
               along_m <= body.half_extent(heading.ahead()) && tips_m >= item.z_m - kCatch_m &&
               tips_m <= step.model.top_m(item) - kCatch_m;
    }

    /// False when what it carries stops it.
    static bool go(double& position, double wanted, double travel, double speed, Vector2 axis, int item, Step& step) {
        const double most = speed * step.dt_s;
        double way = std::clamp(std::clamp(wanted, 0.0, travel) - position, -most, most);
        const double asked = way;
        if (item != kNone && way != 0.0) {
            const double sign = way > 0.0 ? 1.0 : -1.0;
            const double free =
                free_way_of_item(step.model, step.state, static_cast<std::size_t>(item), axis * sign, std::abs(way));
            way = sign * free;
            Item& carried = base::at(step.state.items, item);
            carried.x_m += axis.x_m * way;
            carried.y_m += axis.y_m * way;
        }
        position += way;
        return std::abs(asked - way) <= kTouch_m;
    }

    static void go_down(const Model& model, State& state, int item, Step& step) {
        const double most = model.lift_m_s * step.dt_s;
        double way = std::clamp(std::clamp(step.output(kDown), 0.0, model.z_travel_m) - state.down_m, -most, most);
        if (item != kNone) {
            Item& carried = base::at(step.state.items, item);
            const double before_m = carried.z_m;
            sink_item(step.model, step.state, static_cast<std::size_t>(item), way);
            way = before_m - carried.z_m;
        } else if (way > 0.0) {
            way = std::min(way, room_below(model, state, step));
        }
        state.down_m += way;
    }

    /// An empty tool stops on what it meets: a cup with its middle, a gripper with its jaws, or with what is between
    /// them when the part comes up to its palm.
    static double room_below(const Model& model, const State& state, const Step& step) {
        const Vector2 at = tool(state, step.device->pose);
        const double height_m = step.device->pose.z_m - state.down_m;
        const Vector2 jaw = step.device->pose.heading.left() * (model.opening_m / 2.0);
        const bool jaws = model.tool == Tool::Gripper;
        double room = height_m;
        const auto stops = [&](double end_m, double top_m) {
            if (top_m <= end_m + 1e-9) room = std::min(room, end_m - top_m);
        };
        for (const Item& item : step.state.items) {
            if (item.gone) continue;
            const double top_m = step.model.top_m(item);
            const OrientedBox body = step.model.footprint(item);
            if (jaws && (body.contains(at + jaw) || body.contains(at - jaw)))
                stops(height_m, top_m);
            else if (body.contains(at))
                stops(height_m + (jaws ? model.jaws_m : 0.0), top_m);
        }
        return std::max(room, 0.0);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const auto there = [&](int spec, double position, double travel) {
            return std::abs(std::clamp(step.output(spec), 0.0, travel) - position) <= kArrived_m;
        };
        step.input(kHeld, state.item != 0 ? 1.0 : 0.0);
        step.input(kArrived, there(kX, state.x_m, model.x_travel_m) && there(kY, state.y_m, model.y_travel_m) &&
                                     there(kDown, state.down_m, model.z_travel_m)
                                 ? 1.0
                                 : 0.0);
        step.input(kAtX, state.x_m);
        step.input(kAtY, state.y_m);
        step.input(kAtDown, state.down_m);
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        d.box(v.pose.box(0, v.length_m, 0, std::max(v.width_m, 0.02)), {Tone::Travel, 0.05}, {Tone::Travel, 1.2, true});
        const Vector2 tool = v.pose.at(d.actual("actual_x"), d.actual("actual_y"));
        const bool holds = d.actual("holding") != 0;
        d.mark(Mark::Dot, tool, 9, {holds ? Tone::Travel : Tone::Paper}, {Tone::Ink, 1.5});
        d.mark(Mark::Cross, tool, 14, {}, {Tone::Ink, 1.5});
        d.label(tool, fmt::format("{} {:.2f} m down{}", d.name(), d.actual("actual_down"), holds ? ", holds" : ""),
                Side::Right, 18);
    }
};

}  // namespace

Kind gantry_kind() {
    return make_kind<Gantry>();
}

}  // namespace vyard::plant
