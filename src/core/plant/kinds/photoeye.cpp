#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct PhotoEye {
    struct Model {
        double height_m = 0.03;
        Contact contact = Contact::NormallyOpen;
        double half_width_m = 0.2;
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
    }

    static void sense(const Model& model, State& state, Step& step) {
        state.blocked = false;
        const Pose& pose = step.device->pose;
        const double beam_m = pose.z_m + model.height_m;
        const bool along_x = (pose.heading & 1) == 0;
        for (const Item& item : step.state.items) {
            const double half_along = along_x ? item.half_x_m : item.half_y_m;
            const double half_across = along_x ? item.half_y_m : item.half_x_m;
            const bool there = std::abs(pose.along(item.x_m, item.y_m)) <= half_along &&
                               std::abs(pose.left(item.x_m, item.y_m)) < model.half_width_m + half_across;
            if (there && item.z_m <= beam_m && beam_m <= item.z_m + item.height_m) state.blocked = true;
        }
        step.input(kSignal, contact_value(model.contact, state.blocked));
    }
};

}  // namespace

Kind photoeye_kind() {
    return make_kind<PhotoEye>();
}

}  // namespace vyard::plant
