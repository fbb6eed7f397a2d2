#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Belt {
    struct Model {
        double length_m = 1.0, width_m = 0.4, speed_m_s = 0.0;
        int driven_by = kNone;
    };
    struct State {
        bool jammed = false;
    };
    enum Points { kRun };

    static void declare(Declaration<Belt>& kind) {
        kind.names("belt", "transport", Symbol::Belt, Placement::Surface,
                   "carries items along its heading while it runs")
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.05, 200.0, "from start to end")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "", -5.0, 5.0,
                      "when it runs; negative runs backwards")
            .device("driven_by", &Model::driven_by, {"motor"}, false,
                    "the motor that turns it; without one the belt has a point of its own")
            .output("run", "TRUE runs the belt")
            .only_if([](const Model& m) { return m.driven_by == kNone; })
            .gauge("speed", PointType::Analog, Dimension::Speed, "of its surface, now",
                   [](const Model&, const State&, const PlantModel& plant, const PlantState& state, int device) {
                       return state
                           .surfaces[static_cast<std::size_t>(plant.devices[static_cast<std::size_t>(device)].surface)]
                           .speed_m_s;
                   })
            .fault("jammed", "stands still whatever drives it", &State::jammed);
    }

    static void place(Placing& at, Model& model, State&) {
        at.add_surface(model.length_m, model.width_m, 0.0, false, 0.0);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double drive = model.driven_by == kNone
                                 ? (step.output(kRun) != 0.0 ? 1.0 : 0.0)
                                 : step.state.drive_ratio[static_cast<std::size_t>(model.driven_by)];
        step.state.surfaces[static_cast<std::size_t>(step.device->surface)].speed_m_s =
            state.jammed ? 0.0 : model.speed_m_s * drive;
    }
};

}  // namespace

Kind belt_kind() {
    return make_kind<Belt>();
}

}  // namespace vyard::plant
