#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Sees : int { Inductive = 0, Capacitive = 1 };

struct Proximity {
    struct Model {
        Sees type = Sees::Inductive;
        double range_m = 0.01, height_m = 0.0;
        Contact contact = Contact::NormallyOpen;
        int zone = kNone;
        Vector2 face;
    };
    struct State {
        bool near = false;
    };
    enum Points { kSignal };

    static void declare(Declaration<Proximity>& kind) {
        kind.names("proximity", "sensors", Placement::Mounted,
                   "a switch beside a surface that feels what comes close: metal only, or anything")
            .drawn(Layer::Sensor)
            .stands_free()
            .choice("type", &Model::type, {"inductive", "capacitive"}, "inductive",
                    "inductive feels items of metal only, capacitive all items")
            .quantity("range", &Model::range_m, Dimension::Length, "150 mm", 0.001, 2.0,
                      "from its side of the surface to the near side of the item")
            .quantity(
                "height", &Model::height_m, Dimension::Length, "0 m", 0.0, 20.0,
                "of its face above the surface; of one that stands freely, above the floor. It looks to its right from "
                "the left side, to its left from the right")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while something is near (normally open)")
            .wired(&Model::contact)
            .actual("near", PointType::Boolean, Dimension::Plain, "something is near", &State::near);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.device.mounted_on == kNone ? 0.0 : at.mounted_device().width_m;
        const double side = at.device.on_left ? 0.5 : -0.5;
        model.face = at.device.pose.at(0.0, side * at.device.width_m);
        model.zone = at.add_zone(model.face, model.range_m);
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.near = false;
        const Heading heading = step.device->pose.heading;
        const double side = step.device->on_left ? -0.5 : 0.5;
        const OrientedBox field{model.face + heading.left() * (side * model.range_m), 0.0, model.range_m / 2.0,
                                heading};
        step.each_near(model.zone, [&](const Item& item) {
            const ItemType& type = step.model.type_of(item);
            const bool feels = model.type == Sees::Capacitive || type.material == Material::Metal;
            const double face_m = step.device->pose.z_m + model.height_m;
            const bool level =
                std::abs(item.z_m - face_m) < 0.05 || (item.z_m <= face_m && face_m <= step.model.top_m(item));
            if (feels && level && overlap(step.model.footprint(item), field, 0.0)) state.near = true;
        });
        step.input(kSignal, contact_value(model.contact, state.near));
    }

    static void draw(Drawing& d) {
        const DeviceModel& v = *d.device;
        const bool near = d.actual("near") != 0;
        const Vector2 at = v.pose.at(0, (v.on_left ? 1 : -1) * (v.width_m / 2 + 0.05));
        d.mark(Mark::Square, at, 5, {near ? Tone::Active : Tone::Paper}, {});
        d.label(at, d.name(), v.on_left ? Side::Above : Side::Below);
    }
};

}  // namespace

Kind proximity_kind() {
    return make_kind<Proximity>();
}

}  // namespace vyard::plant
