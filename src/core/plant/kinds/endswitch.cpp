#include <fmt/format.h>

#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct EndSwitch {
    struct Model {
        int on = kNone;
        double at_m = 0.0, window_m = 0.002;
        Contact contact = Contact::NormallyOpen;
    };
    struct State {};
    enum Points { kSignal };

    static void declare(Declaration<EndSwitch>& kind) {
        kind.names("endswitch", "sensors", Placement::Panel,
                   "an end or mid position switch on a cylinder, pusher, stopper or axis")
            .device("on", &Model::on, {"cylinder", "pusher", "stopper", "axis", "text_axis"}, true, "what it watches")
            .quantity("at", &Model::at_m, Dimension::Length, "", 0.0, 100.0,
                      "position of the rod, or of an axis from its low end, at which it switches")
            .quantity("window", &Model::window_m, Dimension::Length, "2 mm", 0.0, 1.0,
                      "how far on either side it stays switched")
            .contact(&Model::contact, "normally open")
            .input("signal", "TRUE while the rod is at the switch (normally open)")
            .wired(&Model::contact);
    }

    static std::string doubt(const Model& m, const PlantModel& plant) {
        const double reach_m = base::at(plant.reach_m, plant.device(m.on).extension);
        return m.at_m - m.window_m > reach_m + 1e-9
                   ? fmt::format("it switches at {:g} m, and '{}' goes no farther than {:g} m", m.at_m,
                                 plant.device(m.on).name, reach_m)
                   : std::string();
    }

    static void sense(const Model& model, State&, Step& step) {
        const double position = extension_of_m(step.model, step.state, model.on);
        step.input(kSignal, contact_value(model.contact, std::abs(position - model.at_m) <= model.window_m + 1e-9));
    }
};

}  // namespace

Kind endswitch_kind() {
    return make_kind<EndSwitch>();
}

}  // namespace vyard::plant
