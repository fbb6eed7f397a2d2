#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Edge : int { Left = 0, Right = 1 };

// Rollers that stand askew carry items ahead and towards a guide along one edge: what comes on several lanes leaves on
// one.
struct Merge {
    struct Model {
        double length_m = 2.0, width_m = 0.8, speed_m_s = 0.3, askew_rad = 0.3, tall_m = 0.1;
        Edge edge = Edge::Right;
    };
    struct State {
        bool jammed = false;
    };
    enum Points { kRun };
    static constexpr double kThick_m = 0.02;

    static void declare(Declaration<Merge>& kind) {
        kind.names("merge", "transport", Placement::Surface,
                   "skewed rollers that bring several lanes to one along a guide at its edge")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.1, 50.0, "along its heading")
            .quantity("width", &Model::width_m, Dimension::Length, "800 mm", 0.05, 5.0, "across, for all lanes")
            .quantity("speed", &Model::speed_m_s, Dimension::Speed, "0.3 m/s", 0.01, 5.0, "of its rollers")
            .quantity("skew", &Model::askew_rad, Dimension::Angle, "20 deg", 0.01, 1.2,
                      "how far its rollers turn items aside")
            .choice("to", &Model::edge, {"left", "right"}, "right", "the edge with the guide")
            .quantity("guide_height", &Model::tall_m, Dimension::Length, "100 mm", 0.01, 2.0, "of the guide")
            .output("run", "TRUE runs it")
            .actual("speed", PointType::Analog, Dimension::Speed, "of its rollers, along it",
                    [](const Model&, const State&, const PlantModel& model, const PlantState& state, int device) {
                        const int own = base::at(model.devices, device).surface;
                        return base::at(state.surfaces, own).speed_m_s;
                    })
            .moves_by_surface()
            .fault("jammed", "no roller turns", &State::jammed);
    }

    static void place(Placing& at, Model& model, State&) {
        at.add_surface(model.length_m, model.width_m);
        const Pose& p = at.device.pose;
        const double side = model.edge == Edge::Left ? 1.0 : -1.0;
        const double guide_m = side * (model.width_m / 2.0 + kThick_m / 2.0);
        at.add_solid({p.at(model.length_m / 2.0, guide_m), model.length_m / 2.0, kThick_m / 2.0, p.heading}, p.z_m,
                     p.z_m + model.tall_m, p.heading.ahead(), 0.0, true);
        at.moves_up_to(model.speed_m_s);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const double speed_m_s = step.output(kRun) != 0.0 && !state.jammed ? model.speed_m_s : 0.0;
        const double side = model.edge == Edge::Left ? 1.0 : -1.0;
        SurfaceState& own = step.surface(step.device->surface);
        own.speed_m_s = speed_m_s * std::cos(model.askew_rad);
        own.across_m_s = side * speed_m_s * std::sin(model.askew_rad);
    }

    static void draw(Drawing& d) {
        d.rollers();
        d.surface_label(fmt::format("{}  {:.2f} m/s", d.name(), d.actual("speed")));
    }
};

}  // namespace

Kind merge_kind() {
    return make_kind<Merge>();
}

}  // namespace vyard::plant
