#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/tuning.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

// Sliding on an incline (Coulomb friction): a = g (sin t - mu cos t) down the slope, t = atan(drop / length).
// In plan the item sees a cos t.
struct Chute {
    struct Model {
        double length_m = 1.0, width_m = 0.4, drop_m = 0.3, friction = 0.2;
    };
    struct State {};

    static void declare(Declaration<Chute>& kind) {
        kind.names("chute", "transport", Placement::Surface, "items slide down it by their weight")
            .drawn(Layer::Floor)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.05, 50.0, "in the plan")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 5.0, "across")
            .quantity("drop", &Model::drop_m, Dimension::Length, "300 mm", 0.0, 20.0, "from its start to its end")
            .quantity("friction", &Model::friction, Dimension::Plain, "0.2", 0.0, 2.0,
                      "coefficient of sliding friction");
    }

    static std::string doubt(const Model& model, const PlantModel&) {
        return model.drop_m > model.friction * model.length_m
                   ? std::string()
                   : fmt::format("it is as flat as its friction, {:g} against {:g}: nothing starts to slide on it",
                                 model.drop_m / model.length_m, model.friction);
    }

    static void place(Placing& at, Model& model, State&) {
        const double slope = std::atan2(model.drop_m, model.length_m);
        const double down = kGravity_m_s2 * (std::sin(slope) - model.friction * std::cos(slope));
        SurfaceModel& surface = at.surface(at.add_surface(model.length_m, model.width_m));
        surface.drop_m = model.drop_m;
        surface.sliding = true;
        surface.slide_m_s2 = down * std::cos(slope);
        // It may come in at the plant's top speed, which is not known yet: a belt's 5 m/s at most.
        at.moves_up_to(std::sqrt(25.0 + 2.0 * std::max(surface.slide_m_s2, 0.0) * model.length_m));
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {}, {});
        const DeviceModel& v = *d.device;
        for (double along = 0.1; along < v.length_m; along += 0.12)
            d.line(v.pose.at(along, v.width_m * 0.4), v.pose.at(along, -v.width_m * 0.4),
                   {Tone::Faint, 1, false, 0.5 + 0.4 * along / v.length_m});
        d.chevrons({Tone::Faint, 2});
        d.surface_label(d.name());
    }
};

}  // namespace

Kind chute_kind() {
    return make_kind<Chute>();
}

}  // namespace vyard::plant
