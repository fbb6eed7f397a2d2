#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct PhotoEye {
    struct Model {
        double height_m = 0.03;
        Contact contact = Contact::NormallyOpen;
        double half_width_m = 0.2;
        int zone = kNone;
    };
    struct State {
        bool blocked = false;
    };
    enum Points { kSignal };

    static void declare(Declaration<PhotoEye>& kind) {
        kind.names("photoeye", "sensors", Symbol::Eye, Placement::Mounted, "a beam across a surface that items break")
            .quantity("height", &Model::height_m, Dimension::Length, "30 mm", 0.0, 5.0,
                      "of the beam above the surface at rest")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while an item is in the beam (normally open)")
            .gauge("blocked", PointType::Boolean, Dimension::Plain, "an item is in the beam, whatever the wire says",
                   &State::blocked);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.model.devices[static_cast<std::size_t>(at.device.mounted_on)].width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone = at.add_zone(at.device.pose.origin(), model.half_width_m);
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.blocked = false;
        const Pose& pose = step.device->pose;
        const double beam_m = pose.z_m + model.height_m;
        const OrientedBox beam{pose.origin(), 0.0, model.half_width_m, pose.heading};
        step.each_near(model.zone, [&](const Item& item) {
            const bool level = item.z_m <= beam_m && beam_m <= item.z_m + item.height_m;
            const bool near = std::abs(pose.along(item.x_m, item.y_m)) <= item.radius_m;
            if (near && level && overlap(footprint(item), beam, 0.0)) state.blocked = true;
        });
        step.input(kSignal, contact_value(model.contact, state.blocked));
    }
};

}  // namespace

Kind photoeye_kind() {
    return make_kind<PhotoEye>();
}

}  // namespace vyard::plant
