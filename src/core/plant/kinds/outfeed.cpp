#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct Outfeed {
    struct Model {
        double length_m = 0.5, width_m = 0.6;
        int zone = kNone;
        ItemList takes;
    };
    struct State {
        int counted = 0, wrong = 0;
    };
    enum Mishaps { kWrongItem };

    static void declare(Declaration<Outfeed>& kind) {
        kind.names("outfeed", "transport", Placement::Surface,
                   "takes away every item whose middle reaches it, and counts")
            .drawn(Layer::Floor)
            .carries_nothing()
            .quantity("length", &Model::length_m, Dimension::Length, "500 mm", 0.05, 10.0, "along its heading")
            .quantity("width", &Model::width_m, Dimension::Length, "600 mm", 0.05, 10.0, "across")
            .items("accepts", &Model::takes, "the items it should get; without it, any")
            .optional()
            .actual("counted", PointType::Number, Dimension::Plain, "items taken away so far", &State::counted)
            .actual("wrong", PointType::Number, Dimension::Plain, "items so far that it should not get", &State::wrong)
            .mishap("wrong_item", "an item comes that it should not get");
    }

    static void place(Placing& at, Model& model, State&) {
        model.zone = at.add_zone(area(at.device.pose, model));
        at.device.length_m = model.length_m;
        at.device.width_m = model.width_m;
    }

    static OrientedBox area(const Pose& pose, const Model& model) {
        return pose.box(0.0, model.length_m, model.width_m / 2.0, model.width_m / 2.0);
    }

    static void actuate(const Model& model, State& state, Step& step) {
        const OrientedBox box = area(step.device->pose, model);
        step.each_near(model.zone, [&](Item& item) {
            if (item.gone || !box.contains({item.x_m, item.y_m})) return;
            step.state.take_away(item);
            ++state.counted;
            if (accepts(model, item, step)) return;
            ++state.wrong;
            step.mishap_once(kWrongItem, &item);
        });
    }

    static bool accepts(const Model& model, const Item& item, const Step& step) {
        if (model.takes.count == 0) return true;
        for (int i = 0; i < model.takes.count; ++i) {
            if (model.takes.number(step.model, i) == item.type) return true;
        }
        return false;
    }

    static void draw(Drawing& d) {
        d.box(d.area(), {}, {Tone::Faint, 1.5, true});
        d.number(d.actual("counted"));
        d.surface_label(d.name());
    }
};

}  // namespace

Kind outfeed_kind() {
    return make_kind<Outfeed>();
}

}  // namespace vyard::plant
