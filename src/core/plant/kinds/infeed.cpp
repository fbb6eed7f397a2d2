#include "core/plant/items.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/plant.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Feed : int { Interval = 0, Command = 1 };

struct Infeed {
    struct Model {
        int item = 0;
        Feed feed = Feed::Interval;
        double interval_s = 5.0;
        int limit = 0;
        double along_m = 0.0, gap_m = 0.0;
        int zone = kNone;
    };
    struct State {
        double waited_s = 0.0;
        int fed = 0;
        bool due = true;  ///< The first item comes at once.
        bool last_release = false;
        bool empty = false;
    };
    enum Points { kRelease };

    static void declare(Declaration<Infeed>& kind) {
        kind.names("infeed", "transport", Symbol::Infeed, Placement::Mounted,
                   "lays new items on a belt, by interval or on command; waits while there is no room")
            .item("item", &Model::item, "which item of [item.*] it lays down")
            .choice("feed", &Model::feed, {"interval", "command"}, "interval",
                    "lay one every interval, or one at each rising edge of release")
            .quantity("interval", &Model::interval_s, Dimension::Time, "5 s", 0.01, 3600.0, "from one item to the next")
            .whole("limit", &Model::limit, "0", 0, 1000000, "items in all; 0 for no end")
            .quantity("gap", &Model::gap_m, Dimension::Length, "0 m", 0.0, 10.0,
                      "least distance to the next item on the belt")
            .output("release", "a rising edge lays one item")
            .only_if([](const Model& m) { return m.feed == Feed::Command; })
            .gauge("fed", PointType::Number, Dimension::Plain, "items laid so far", &State::fed)
            .fault("empty", "no item comes any more", &State::empty);
    }

    static void place(Placing& at, Model& model, State& state) {
        const DeviceModel& other = at.mounted_device();
        model.along_m = other.pose.along(at.device.pose.x_m, at.device.pose.y_m);
        const ItemType& item = at.model.item_types[static_cast<std::size_t>(model.item)];
        const double reach_m = std::max(item.length_m, item.width_m) + model.gap_m;
        model.zone = at.add_zone(at.device.pose.origin(), reach_m);
        state.due = model.feed == Feed::Interval;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        if (model.feed == Feed::Command) {
            const bool release = step.output(kRelease) != 0.0;
            state.due = state.due || (release && !state.last_release);
            state.last_release = release;
        } else if (!state.due) {
            state.waited_s += step.dt_s;
            state.due = state.waited_s >= model.interval_s - 1e-9;
        }
        const bool used_up = model.limit > 0 && state.fed >= model.limit;
        if (!state.due || state.empty || used_up || !keeps_gap(model, step)) return;
        if (!place_item(step.model, step.state, model.item, step.device->mounted_on, model.along_m)) return;
        state.due = false;
        state.waited_s = 0.0;
        ++state.fed;
    }

    static bool keeps_gap(const Model& model, Step& step) {
        const DeviceModel& other = step.model.devices[static_cast<std::size_t>(step.device->mounted_on)];
        const Pose& pose = step.surface(other.surface).pose;
        const double half_m = step.model.item_types[static_cast<std::size_t>(model.item)].length_m / 2.0;
        bool kept = true;
        step.each_near(model.zone, [&](const Item& item) {
            const bool on = item.support >= other.surface && item.support < other.surface + other.surface_count;
            const double reach_m = half_m + footprint(item).half_extent(pose.heading.ahead()) + model.gap_m;
            if (on && std::abs(pose.along(item.x_m, item.y_m) - model.along_m) < reach_m) kept = false;
        });
        return kept;
    }
};

}  // namespace

Kind infeed_kind() {
    return make_kind<Infeed>();
}

}  // namespace vyard::plant
