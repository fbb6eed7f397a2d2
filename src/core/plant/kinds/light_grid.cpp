#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct LightGrid {
    struct Model {
        double lowest_m = 0.01, pitch_m = 0.02, half_width_m = 0.2;
        int beams = 8, zone = kNone;
        Contact contact = Contact::NormallyClosed;
    };
    struct State {
        int broken = 0;
        double height_m = 0.0;
        bool dirty = false;
    };
    enum Points { kClear, kBroken, kHeight };

    static void declare(Declaration<LightGrid>& kind) {
        kind.names("light_grid", "sensors", Placement::Mounted,
                   "several beams one above the other across a surface; measures height")
            .drawn(Layer::Sensor)
            .whole("beams", &Model::beams, "8", 1, 64, "one above the other")
            .quantity("lowest", &Model::lowest_m, Dimension::Length, "10 mm", 0.0, 5.0, "height of the lowest beam")
            .quantity("pitch", &Model::pitch_m, Dimension::Length, "20 mm", 0.001, 1.0, "from beam to beam")
            .contact(&Model::contact, "normally closed")
            .input("contact", "normally closed: TRUE while no beam is broken")
            .wired(&Model::contact)
            .number_input("beams_broken", "how many beams are broken")
            .analog_input("height", Dimension::Length, "of the highest broken beam above the surface, 0 when clear")
            .spans([](const Model& m) {
                return std::pair{0.0, m.lowest_m + (m.beams - 1) * m.pitch_m};
            })
            .actual("actual_beams_broken", PointType::Number, Dimension::Plain, "how many beams are broken",
                    &State::broken)
            .actual("actual_height", PointType::Analog, Dimension::Length, "of the highest broken beam",
                    &State::height_m)
            .fault("dirty", "the lowest beam reads as broken", &State::dirty);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone = at.add_zone({at.device.pose.origin(), 0.0, model.half_width_m, at.device.pose.heading});
    }

    static void sense(const Model& model, State& state, Step& step) {
        const Pose& pose = step.device->pose;
        const OrientedBox beams{pose.origin(), 0.0, model.half_width_m, pose.heading};
        std::uint64_t broken = state.dirty ? 1 : 0;
        step.each_near(model.zone, [&](const Item& item) {
            if (!overlap(step.model.footprint(item), beams, 0.0)) return;
            for (int b = 0; b < model.beams; ++b) {
                const double z_m = pose.z_m + model.lowest_m + b * model.pitch_m;
                if (item.z_m <= z_m && z_m <= step.model.top_m(item)) broken |= std::uint64_t{1} << b;
            }
        });
        state.broken = 0;
        state.height_m = 0.0;
        for (int b = 0; b < model.beams; ++b) {
            if ((broken >> b & 1U) == 0) continue;
            ++state.broken;
            state.height_m = model.lowest_m + b * model.pitch_m;
        }
        step.input(kClear, contact_value(model.contact, state.broken > 0));
        step.input(kBroken, state.broken);
        step.input(kHeight, state.height_m);
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const double side = v.on_left ? 1 : -1, half_m = v.width_m / 2 + 0.05;
        const bool broken = d.actual("actual_beams_broken") > 0;
        const Vector2 near = v.pose.at(0, side * half_m), far = v.pose.at(0, -side * half_m);
        d.line(near, far, {broken ? Tone::Active : Tone::Faint, broken ? 4.0 : 2.0, !broken});
        d.mark(Mark::Square, near, 5, {broken ? Tone::Active : Tone::Paper}, {});
        d.label(near, fmt::format("{} {:.0f} mm", d.name(), d.actual("actual_height") * 1000),
                v.on_left ? Side::Above : Side::Below);
    }
};

}  // namespace

Kind light_grid_kind() {
    return make_kind<LightGrid>();
}

}  // namespace vyard::plant
