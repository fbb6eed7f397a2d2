#include <fmt/format.h>
#include "core/plant/items.hpp"

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Shelf {
    struct Model {
        double length_m = 1.0, width_m = 0.4, first_m = 0.1, pitch_m = 0.2;
        ItemList items;
    };
    struct State {
        bool laid = false;
    };

    static void declare(Declaration<Shelf>& kind) {
        kind.names("shelf", "transport", Placement::Surface,
                   "a board or table that stands still; items can stand on it from the start")
            .drawn(Layer::Carrier)
            .quantity("length", &Model::length_m, Dimension::Length, "", 0.05, 200.0, "along its heading")
            .quantity("width", &Model::width_m, Dimension::Length, "400 mm", 0.05, 10.0, "across")
            .items("items", &Model::items, "what stands on it at the start of a run, one after the other")
            .optional()
            .quantity("first", &Model::first_m, Dimension::Length, "100 mm", 0.0, 200.0,
                      "from its start to the middle of the first of them")
            .quantity("pitch", &Model::pitch_m, Dimension::Length, "200 mm", 0.01, 10.0, "from one to the next")
            .actual("items", PointType::Number, Dimension::Plain, "that stand on it",
                    [](const Model&, const State&, const PlantModel& model, const PlantState& state, int device) {
                        const int own = base::at(model.devices, device).surface;
                        return static_cast<double>(
                            std::count_if(state.items.begin(), state.items.end(),
                                          [&](const Item& i) { return !i.gone && i.support == own; }));
                    });
    }

    static std::string check(const Model& model) {
        return model.items.count == 0 || model.first_m + (model.items.count - 1) * model.pitch_m <= model.length_m
                   ? std::string()
                   : std::string("its items do not fit its length; make 'pitch' or the list shorter");
    }

    static void place(Placing& at, Model& model, State&) { at.add_surface(model.length_m, model.width_m); }

    static void actuate(const Model& model, State& state, Step& step) {
        if (state.laid) return;
        state.laid = true;
        for (int i = 0; i < model.items.count; ++i)
            place_item(step.model, step.state, model.items.number(step.model, i), step.index,
                       model.first_m + i * model.pitch_m);
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {}, {Tone::Ink, 1.5});
        d.surface_label(fmt::format("{}  {:.0f} items", d.name(), d.actual("items")));
    }
};

}  // namespace

Kind shelf_kind() {
    return make_kind<Shelf>();
}

}  // namespace vyard::plant
