#include <fmt/format.h>
#include "core/plant/items.hpp"

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/plant.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Feed : int { Interval = 0, Command = 1, Running = 2, Gap = 3 };
enum class Choice : int { InTurn = 0, Random = 1 };

struct Infeed {
    struct Model {
        ItemList items;
        NumberList ratio;
        Choice choice = Choice::InTurn;
        Feed feed = Feed::Interval;
        double interval_s = 5.0;
        int limit = 0;
        double along_m = 0.0, gap_m = 0.0, left_m = 0.0, turned_rad = 0.0, jitter_percent = 0.0;
        int zone = kNone;
    };
    struct State {
        double waited_s = 0.0, wanted_s = 0.0;
        int fed = 0;
        int next = kNone;  ///< Place in the list; kNone while not chosen.
        bool due = true;   ///< The first item comes at once.
        bool last_release = false;
        bool empty = false;
    };
    enum Points { kRelease, kRun };

    static void declare(Declaration<Infeed>& kind) {
        kind.names("infeed", "transport", Placement::Mounted,
                   "lays new items on a surface: by interval, on command, while it runs, or as there is room")
            .drawn(Layer::Actor)
            .items("item", &Model::items,
                   "which item of [item.*] it lays down, or a list; { file = \"order.txt\" } is a list with an item a "
                   "line")
            .choice("sequence", &Model::choice, {"in turn", "random"}, "in turn",
                    "how it picks from a list; random follows the seed of the yard")
            .numbers("ratio", &Model::ratio, Dimension::Plain,
                     "how often each of the list comes, for random; default all the same")
            .choice(
                "feed", &Model::feed, {"interval", "command", "running", "gap"}, "interval",
                "one every interval; one at each rising edge of release; one every interval while run is TRUE, as a "
                "feeder does; or as soon as the gap is free")
            .quantity("interval", &Model::interval_s, Dimension::Time, "5 s", 0.01, 3600.0, "from one item to the next")
            .quantity("spread", &Model::jitter_percent, Dimension::Percent, "0 %", 0.0, 100.0,
                      "how far intervals stray at random, on both sides")
            .whole("limit", &Model::limit, "0", 0, 1000000, "items in all; 0 for no end")
            .quantity("gap", &Model::gap_m, Dimension::Length, "0 m", 0.0, 10.0,
                      "least distance to the next item on the surface")
            .quantity("left", &Model::left_m, Dimension::Length, "0 m", -5.0, 5.0, "of the middle of the surface")
            .quantity("angle", &Model::turned_rad, Dimension::Angle, "0 deg", -6.3, 6.3, "how items lie on it")
            .output("release", "a rising edge lays one item")
            .only_if([](const Model& m) { return m.feed == Feed::Command; })
            .output("run", "TRUE feeds")
            .only_if([](const Model& m) { return m.feed == Feed::Running; })
            .actual("fed", PointType::Number, Dimension::Plain, "items laid so far", &State::fed)
            .fault("empty", "no item comes any more", &State::empty);
    }

    static std::string check(const Model& model) {
        if (model.ratio.count == 0 || model.ratio.count == model.items.count) return {};
        return "'ratio' has a number for each item of the list";
    }

    static void place(Placing& at, Model& model, State& state) {
        const DeviceModel& other = at.mounted_device();
        model.along_m = other.pose.along(at.device.pose.x_m, at.device.pose.y_m);
        double longest_m = 0.0;
        for (int i = 0; i < model.items.count; ++i) {
            const ItemType& item = base::at(at.model.item_types, model.items.number(at.model, i));
            longest_m = std::max({longest_m, item.length_m, item.width_m});
        }
        model.zone = at.add_zone(at.device.pose.origin(), longest_m + model.gap_m + std::abs(model.left_m));
        state.due = model.feed != Feed::Command;
        state.wanted_s = model.interval_s;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        if (model.feed == Feed::Command) {
            const bool release = step.output(kRelease) != 0.0;
            state.due = state.due || (release && !state.last_release);
            state.last_release = release;
        } else if (model.feed == Feed::Gap) {
            state.due = true;
        } else if (!state.due && (model.feed == Feed::Interval || step.output(kRun) != 0.0)) {
            state.waited_s += step.dt_s;
            state.due = state.waited_s >= state.wanted_s - 1e-9;
        }
        const bool held_back = model.feed == Feed::Running && step.output(kRun) == 0.0;
        const bool used_up = model.limit > 0 && state.fed >= model.limit;
        if (!state.due || state.empty || used_up || held_back) return;
        if (state.next == kNone) state.next = choose(model, state, step);
        const int type = model.items.number(step.model, state.next);
        if (!keeps_gap(model, type, step) || !lay(model, type, step)) return;
        state.next = kNone;
        state.due = false;
        state.waited_s = 0.0;
        state.wanted_s = model.interval_s * (1.0 + model.jitter_percent / 100.0 * spread(model, step));
        ++state.fed;
    }

    static double spread(const Model& model, Step& step) {
        return model.jitter_percent == 0.0 ? 0.0 : 2.0 * step.state.random.share() - 1.0;
    }

    static int choose(const Model& model, const State& state, Step& step) {
        if (model.choice == Choice::InTurn) return state.fed % model.items.count;
        double total = 0.0;
        for (int i = 0; i < model.items.count; ++i) total += weight(model, i);
        double at = total * step.state.random.share();
        for (int i = 0; i < model.items.count; ++i) {
            at -= weight(model, i);
            if (at < 0.0) return i;
        }
        return model.items.count - 1;
    }
    static double weight(const Model& model, int i) {
        return i < model.ratio.count ? base::at(model.ratio.values, i) : 1.0;
    }

    static bool lay(const Model& model, int type, Step& step) {
        return place_item(step.model, step.state, type, step.device->mounted_on, model.along_m, std::nullopt,
                          model.left_m, Heading::of(model.turned_rad));
    }

    static bool keeps_gap(const Model& model, int type, Step& step) {
        const DeviceModel& other = base::at(step.model.devices, step.device->mounted_on);
        const Pose& pose = step.surface(other.surface).pose;
        const double half_m = base::at(step.model.item_types, type).length_m / 2.0;
        bool kept = true;
        step.each_near(model.zone, [&](const Item& item) {
            const bool on = item.support >= other.surface && item.support < other.surface + other.surface_count;
            const double reach_m = half_m + step.model.footprint(item).half_extent(pose.heading.ahead()) + model.gap_m;
            if (on && std::abs(pose.along(item.x_m, item.y_m) - model.along_m) < reach_m) kept = false;
        });
        return kept;
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const double edge_m = v.width_m / 2;
        d.polygon({v.pose.at(0, edge_m + 0.22), v.pose.at(-0.07, edge_m + 0.32), v.pose.at(0.07, edge_m + 0.32)},
                  {Tone::Ink});
        d.label(v.pose.at(0, 0.32), fmt::format("{}  {:.0f} in", d.name(), d.actual("fed")), Side::Above);
    }
};

}  // namespace

Kind infeed_kind() {
    return make_kind<Infeed>();
}

}  // namespace vyard::plant
