#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct ColourReader {
    struct Model {
        double half_width_m = 0.2;
        int zone = kNone;
    };
    struct State {
        int code = 0;
    };
    enum Points { kColour };

    static void declare(Declaration<ColourReader>& kind) {
        kind.names("colour_reader", "sensors", Placement::Mounted, "reads the colour of the item before it as a number")
            .drawn(Layer::Sensor)
            .number_input("colour", "0 for nothing, else the place of the colour in [plant] colours, counted from 1")
            .actual("actual_colour", PointType::Number, Dimension::Plain,
                    "of the item before it, whatever the wire says", &State::code);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = base::at(at.model.devices, at.device.mounted_on).width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone = at.add_zone({at.device.pose.origin(), 0.0, model.half_width_m, at.device.pose.heading});
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.code = 0;
        const Pose& pose = step.device->pose;
        step.each_near(model.zone, [&](const Item& item) {
            const double half_along = step.model.footprint(item).half_extent(pose.heading.ahead());
            const bool there = std::abs(pose.along(item.x_m, item.y_m)) <= half_along &&
                               std::abs(pose.left(item.x_m, item.y_m)) < model.half_width_m;
            if (there && std::abs(item.z_m - pose.z_m) < 0.05) state.code = item.colour + 1;
        });
        step.input(kColour, state.code);
    }

    static void draw(Drawing& d) {
        const int code = static_cast<int>(d.actual("actual_colour"));
        const Vector2 at = d.device->pose.at(0, d.device->width_m / 2 + 0.08);
        const bool seen = code > 0;
        d.mark(Mark::Diamond, at, 8, {Tone::Paper, 1.0, seen ? code - 1 : kNone}, {Tone::Ink, 2});
        d.label(at, seen ? fmt::format("{} {}", d.name(), base::at(d.model.colours, code - 1)) : d.name(), Side::Above);
    }
};

}  // namespace

Kind colour_reader_kind() {
    return make_kind<ColourReader>();
}

}  // namespace vyard::plant
