#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Looks : int { Ahead = 0, Back = 1, Across = 2 };

struct DistanceSensor {
    struct Model {
        Looks looks = Looks::Back;
        double range_m = 2.0, height_m = 0.03;
        int zone = kNone;
        WireSignal signal = WireSignal::AsTheCard;
    };
    struct State {
        double distance_m = 0.0;
    };
    enum Points { kDistance, kInRange };

    static void declare(Declaration<DistanceSensor>& kind) {
        kind.names("distance_sensor", "sensors", Placement::Mounted,
                   "measures how far the nearest item is from it along a line")
            .drawn(Layer::Sensor)
            .choice("looks", &Model::looks, {"ahead", "back", "across"}, "back",
                    "along the surface, against it, or from its side across it")
            .quantity("range", &Model::range_m, Dimension::Length, "2 m", 0.01, 100.0, "upper end of its signal")
            .quantity("height", &Model::height_m, Dimension::Length, "30 mm", 0.0, 5.0, "of its line above the surface")
            .analog_input("distance", Dimension::Length, "to the nearest item; the range when there is none")
            .spans([](const Model& m) {
                return std::pair{0.0, m.range_m};
            })
            .electrical(&Model::signal)
            .input("in_range", "TRUE while an item is within the range")
            .actual("actual_distance", PointType::Analog, Dimension::Length, "to the nearest item", &State::distance_m);
    }

    static Vector2 start(const Model& model, const DeviceModel& d) {
        if (model.looks != Looks::Across) return d.pose.origin();
        return d.pose.at(0.0, d.on_left ? d.width_m / 2.0 : -d.width_m / 2.0);
    }
    static Vector2 way(const Model& model, const DeviceModel& d) {
        const Heading h = d.pose.heading;
        if (model.looks == Looks::Across) return d.on_left ? h.left() * -1.0 : h.left();
        return model.looks == Looks::Ahead ? h.ahead() : h.ahead() * -1.0;
    }

    static void place(Placing& at, Model& model, State& state) {
        at.device.width_m = at.mounted_device().width_m;
        const Vector2 middle = start(model, at.device) + way(model, at.device) * (model.range_m / 2.0);
        model.zone = at.add_zone(middle, model.range_m / 2.0);
        state.distance_m = model.range_m;
    }

    static void sense(const Model& model, State& state, Step& step) {
        const DeviceModel& d = *step.device;
        const OrientedBox point{start(model, d), 0.0, 0.0, d.pose.heading};
        const double line_m = d.pose.z_m + model.height_m;
        state.distance_m = model.range_m;
        step.each_near(model.zone, [&](const Item& item) {
            const bool level = item.z_m <= line_m && line_m <= step.model.top_m(item);
            if (level)
                state.distance_m =
                    std::min(state.distance_m, free_way(point, step.model.footprint(item), way(model, d)));
        });
        step.input(kDistance, state.distance_m);
        step.input(kInRange, state.distance_m < model.range_m ? 1.0 : 0.0);
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const Vector2 at = v.pose.at(0, (v.on_left ? 1 : -1) * (v.width_m / 2 + 0.05));
        d.mark(Mark::Square, at, 5, {}, {});
        d.label(at, fmt::format("{} {:.2f} m", d.name(), d.actual("actual_distance")),
                v.on_left ? Side::Above : Side::Below);
    }
};

}  // namespace

Kind distance_sensor_kind() {
    return make_kind<DistanceSensor>();
}

}  // namespace vyard::plant
