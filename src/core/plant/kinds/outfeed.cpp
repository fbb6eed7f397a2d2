#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Outfeed {
    struct Model {
        double length_m = 0.5, width_m = 0.6;
        double x0_m = 0.0, y0_m = 0.0, x1_m = 0.0, y1_m = 0.0;
    };
    struct State {
        int counted = 0;
    };

    static void declare(Declaration<Outfeed>& kind) {
        kind.names("outfeed", "transport", Symbol::Outfeed, Placement::Surface,
                   "takes away every item whose middle reaches it, and counts")
            .quantity("length", &Model::length_m, Dimension::Length, "500 mm", 0.05, 10.0, "along its heading")
            .quantity("width", &Model::width_m, Dimension::Length, "600 mm", 0.05, 10.0, "across")
            .gauge("counted", PointType::Number, Dimension::Plain, "items taken away so far", &State::counted);
    }

    static void place(Placing& at, Model& model, State&) {
        const Rectangle r = at.device.pose.box(0.0, model.length_m, model.width_m / 2.0, model.width_m / 2.0);
        model.x0_m = r.x0_m;
        model.y0_m = r.y0_m;
        model.x1_m = r.x1_m;
        model.y1_m = r.y1_m;
        at.device.length_m = model.length_m;
        at.device.width_m = model.width_m;
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const Rectangle area{model.x0_m, model.y0_m, model.x1_m, model.y1_m};
        state.counted += static_cast<int>(
            std::erase_if(step.state.items, [&](const Item& i) { return area.contains(i.x_m, i.y_m); }));
    }
};

}  // namespace

Kind outfeed_kind() {
    return make_kind<Outfeed>();
}

}  // namespace vyard::plant
