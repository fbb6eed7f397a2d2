#include <fmt/format.h>

#include <algorithm>

#include "core/plant/drawing.hpp"
#include "core/plant/items.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Works on the item that stands in it: presses, fills, prints, heats. After its time the item is another one, or of
// another colour. It has to stand still all the while; what moves begins anew.
struct Station {
    struct Model {
        double length_m = 0.4, work_s = 1.0;
        ItemList becomes;
        int colour = kNone, zone = kNone;
        double half_width_m = 0.2;
    };
    struct State {
        double worked_s = 0.0, x_m = 0.0, y_m = 0.0;
        std::uint32_t item = 0;  ///< Whom it works on; 0 for none.
        std::uint32_t last = 0;  ///< Whom it has done; not again while it stays.
        int worked = 0, spoilt = 0;
        bool busy = false, done = false, failed = false, idle_tool = false, jammed = false;
    };
    enum Points { kWork, kBusy, kDone, kFailed };
    static constexpr double kStill_m = 0.001;  ///< An item that moved by more does not stand.

    static void declare(Declaration<Station>& kind) {
        kind.names(
                "station", "transport", Placement::Mounted,
                "works on the item that stands in it: presses, fills, prints, heats; after its time it is another one")
            .drawn(Layer::Overhead)
            .quantity("length", &Model::length_m, Dimension::Length, "400 mm", 0.02, 10.0,
                      "of the stretch it works on, `at` is its middle")
            .quantity("work_time", &Model::work_s, Dimension::Time, "1 s", 0.0, 3600.0, "for one item")
            .items("becomes", &Model::becomes,
                   "what the item is afterwards: with another size, mass or code; the first of "
                   "a list")
            .optional()
            .colour("colour", &Model::colour, "of the item afterwards")
            .output("work", "TRUE works on what stands in it; FALSE gives up")
            .input("busy", "TRUE while it works")
            .input("done", "TRUE from when an item is done until work is FALSE")
            .input("failed", "TRUE when the item moved away or its tool stuck, until work is FALSE")
            .actual("worked", PointType::Number, Dimension::Plain, "items done so far", &State::worked)
            .actual("spoilt", PointType::Number, Dimension::Plain, "items that it said were done and were not",
                    &State::spoilt)
            .actual("progress", PointType::Analog, Dimension::Percent, "of its work on the item",
                    [](const Model& m, const State& s, const PlantModel&, const PlantState&, int) {
                        return m.work_s > 0.0 ? 100.0 * std::min(1.0, s.worked_s / m.work_s) : 0.0;
                    })
            .fault("no_effect", "it says done, and the item is as it was", &State::idle_tool)
            .fault("jammed", "its tool sticks: it fails", &State::jammed);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.length_m = model.length_m;
        at.device.width_m = at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone =
            at.add_zone({at.device.pose.origin(), model.length_m / 2.0, model.half_width_m, at.device.pose.heading});
    }

    /// The first item whose middle is in it; kNone for none.
    static int item_in(const Model& model, Step& step) {
        const Pose& pose = step.device->pose;
        int found = kNone;
        step.each_near(model.zone, [&](const Item& item) {
            const bool here = !item.gone && std::abs(pose.along(item.x_m, item.y_m)) <= model.length_m / 2.0 &&
                              std::abs(pose.left(item.x_m, item.y_m)) <= model.half_width_m &&
                              item.z_m > pose.z_m - 0.05;
            if (here && found == kNone) found = static_cast<int>(&item - step.state.items.data());
        });
        return found;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const int number = item_in(model, step);
        if (number == kNone || base::at(step.state.items, number).id != state.last) state.last = 0;
        if (step.output(kWork) == 0.0) {
            state.busy = state.done = state.failed = false;
            state.item = 0;
            state.worked_s = 0.0;
            return;
        }
        if (state.done || state.failed) return;
        if (state.busy) return go_on(model, state, step, number);
        if (number == kNone || state.last != 0) return;
        const Item& item = base::at(step.state.items, number);
        state.busy = true;
        state.item = item.id;
        state.x_m = item.x_m;
        state.y_m = item.y_m;
        state.worked_s = 0.0;
    }

    static void go_on(const Model& model, State& state, Step& step, int number) {
        const bool there = number != kNone && base::at(step.state.items, number).id == state.item;
        if (there) {
            const Item& item = base::at(step.state.items, number);
            const double moved = std::max(std::abs(item.x_m - state.x_m), std::abs(item.y_m - state.y_m));
            state.failed = moved > kStill_m;
        }
        state.failed = state.failed || !there || state.jammed;
        state.worked_s += step.dt_s;
        if (state.failed || state.worked_s < model.work_s - 1e-9) {
            state.busy = !state.failed;
            return;
        }
        state.busy = false;
        state.done = true;
        state.last = state.item;
        if (state.idle_tool) {
            ++state.spoilt;
            return;
        }
        ++state.worked;
        Item& item = base::at(step.state.items, number);
        if (model.becomes.count > 0) become(item, step.model, model.becomes.number(step.model, 0));
        if (model.colour != kNone) item.paint(model.colour);
        step.state.near.forget();
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kBusy, state.busy ? 1.0 : 0.0);
        step.input(kDone, state.done ? 1.0 : 0.0);
        step.input(kFailed, state.failed ? 1.0 : 0.0);
    }

    static void draw(Drawing& d) {
        const bool busy = d.actual("progress") > 0.0;
        d.box(d.area(), {Tone::Active, busy ? 0.25 : 0.08}, {Tone::Ink, 1.2, true});
        d.label(d.device->pose.at(0, d.device->width_m / 2),
                fmt::format("{}  {:.0f} done", d.name(), d.actual("worked")), Side::Above);
    }
};

}  // namespace

Kind station_kind() {
    return make_kind<Station>();
}

}  // namespace vyard::plant
