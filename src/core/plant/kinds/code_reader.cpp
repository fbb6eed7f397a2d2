#include <fmt/format.h>

#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

enum class Gives : int { Code = 0, Label = 1, Both = 2 };

struct CodeReader {
    struct Model {
        int zone = kNone, rides = kNone;
        double half_width_m = 0.2;
        Gives gives = Gives::Code;
    };
    struct State {
        int code = 0, reads = 0;
        int label = kNone;  ///< The type of item whose label it read.
        bool last_trigger = false, dirty = false;
    };
    enum Points { kTrigger, kCode, kText, kGood, kReads };

    static void declare(Declaration<CodeReader>& kind) {
        kind.names("code_reader", "sensors", Placement::Mounted,
                   "reads the code and the label of the item before it when it is triggered, and keeps them")
            .drawn(Layer::Sensor)
            .choice("gives", &Model::gives, {"code", "label", "both"}, "code",
                    "the code of an item is a number, its label a string")
            .device("rides", &Model::rides, {"axis", "text_axis"}, false,
                    "the axis that carries it along the surface, from its place at the low end")
            .output("trigger", "a rising edge reads")
            .number_input("code", "of the last reading; 0 when nothing was read")
            .only_if([](const Model& m) { return m.gives != Gives::Label; })
            .text_input("text", "the label of the item of the last reading; empty when nothing was read")
            .only_if([](const Model& m) { return m.gives != Gives::Code; })
            .input("good", "TRUE when the last reading found a code or a label")
            .number_input("reads", "readings done so far, so that the same code twice is seen")
            .actual("actual_code", PointType::Number, Dimension::Plain, "of the last reading", &State::code)
            .actual("along", PointType::Analog, Dimension::Length, "how far its axis has carried it",
                    [](const Model& m, const State&, const PlantModel& plant, const PlantState& state, int) {
                        return gone_m(m, plant, state);
                    })
            .fault("dirty", "finds no code", &State::dirty);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        const double length_m = at.mounted_device().length_m;
        const double reach_m = model.rides == kNone ? 0.0 : length_m / 2.0;
        model.zone =
            at.add_zone({at.device.pose.at(reach_m, 0.0), reach_m, model.half_width_m, at.device.pose.heading});
    }

    static void sense(const Model& model, State& state, Step& step) {
        const bool trigger = step.output(kTrigger) != 0.0;
        if (trigger && !state.last_trigger) read(model, state, step);
        state.last_trigger = trigger;
        step.input(kCode, state.code);
        step.text_input(kText, state.label == kNone ? std::string_view{} : label(state.label, step));
        step.input(kGood, state.code != 0 || state.label != kNone ? 1.0 : 0.0);
        step.input(kReads, state.reads);
    }

    static double gone_m(const Model& model, const PlantModel& plant, const PlantState& state) {
        return model.rides == kNone ? 0.0 : extension_of_m(plant, state, model.rides);
    }
    static std::string_view label(int type, const Step& step) { return base::at(step.model.item_types, type).label; }

    static void read(const Model& model, State& state, Step& step) {
        ++state.reads;
        state.code = 0;
        state.label = kNone;
        const Pose& pose = step.device->pose;
        const OrientedBox line{pose.at(gone_m(model, step.model, step.state), 0.0), 0.0, model.half_width_m,
                               pose.heading};
        step.each_near(model.zone, [&](const Item& item) {
            const bool level = std::abs(item.z_m - pose.z_m) < 0.05;
            if (state.dirty || !level || !overlap(step.model.footprint(item), line, 0.0)) return;
            state.code = step.model.type_of(item).code;
            state.label = label(item.type, step).empty() ? kNone : item.type;
        });
    }

    static void draw(Drawing& d) {
        // Where its axis has carried it to, with the text it reads.
        const Vector2 at = d.device->pose.at(d.actual("along"), d.device->width_m / 2 + 0.08);
        const int point = base::at(d.device->points, kText);
        const std::string_view text = point == kNone
                                          ? std::string_view{}
                                          : base::at(d.state.texts, base::at(d.model.points, point).text).shown.view();
        d.mark(Mark::Diamond, at, 8, {}, {Tone::Ink, 2});
        d.label(at, fmt::format("{}{}{}", d.name(), text.empty() ? "" : " ", text), Side::Above);
    }
};

}  // namespace

Kind code_reader_kind() {
    return make_kind<CodeReader>();
}

}  // namespace vyard::plant
