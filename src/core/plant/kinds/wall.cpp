#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Wall {
    struct Model {
        double length_m = 1.0, thickness_m = 0.02, tall_m = 0.1;
    };
    struct State {};

    static void declare(Declaration<Wall>& kind) {
        kind.names("wall", "transport", Placement::Plan, "a fixed guide or end stop: items stop at it")
            .drawn(Layer::Actor)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.01, 100.0, "along its heading")
            .quantity("thickness", &Model::thickness_m, Dimension::Length, "20 mm", 0.001, 5.0, "across")
            .quantity("height", &Model::tall_m, Dimension::Length, "100 mm", 0.01, 10.0,
                      "from its elevation to its top");
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.length_m = model.length_m;
        at.device.width_m = model.thickness_m;
        const Pose& p = at.device.pose;
        at.add_solid({p.origin(), model.length_m / 2.0, model.thickness_m / 2.0, p.heading}, p.z_m,
                     p.z_m + model.tall_m, p.heading.ahead(), 0.0, true);
    }

    static void draw(Drawing& d) { d.box(d.area(), {Tone::Faint}, {}); }
};

}  // namespace

Kind wall_kind() {
    return make_kind<Wall>();
}

}  // namespace vyard::plant
