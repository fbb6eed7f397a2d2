#include "core/plant/kinds/kinds.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct CodeReader {
    struct Model {
        int zone = kNone;
        double half_width_m = 0.2;
    };
    struct State {
        int code = 0, reads = 0;
        std::uint32_t last = 0;
        bool last_trigger = false, dirty = false;
    };
    enum Points { kTrigger, kCode, kGood, kReads };

    static void declare(Declaration<CodeReader>& kind) {
        kind.names("code_reader", "sensors", Symbol::Reader, Placement::Mounted,
                   "reads the code of the item before it when it is triggered, and keeps it")
            .output("trigger", "a rising edge reads")
            .number_input("code", "of the last reading; 0 when nothing was read")
            .input("good", "TRUE when the last reading found a code")
            .number_input("reads", "readings done so far, so that the same code twice is seen")
            .gauge("code", PointType::Number, Dimension::Plain, "of the last reading", &State::code)
            .fault("dirty", "finds no code", &State::dirty);
    }

    static void place(Placing& at, Model& model, State&) {
        at.device.width_m = at.mounted_device().width_m;
        model.half_width_m = at.device.width_m / 2.0;
        model.zone = at.add_zone(at.device.pose.origin(), model.half_width_m);
    }

    static void sense(const Model& model, State& state, Step& step) {
        const bool trigger = step.output(kTrigger) != 0.0;
        if (trigger && !state.last_trigger) read(model, state, step);
        state.last_trigger = trigger;
        step.input(kCode, state.code);
        step.input(kGood, state.code != 0 ? 1.0 : 0.0);
        step.input(kReads, state.reads);
    }

    static void read(const Model& model, State& state, Step& step) {
        ++state.reads;
        state.code = 0;
        const Pose& pose = step.device->pose;
        const OrientedBox line{pose.origin(), 0.0, model.half_width_m, pose.heading};
        step.each_near(model.zone, [&](const Item& item) {
            const bool level = std::abs(item.z_m - pose.z_m) < 0.05;
            if (!state.dirty && level && overlap(footprint(item), line, 0.0)) state.code = item.code;
        });
    }
};

}  // namespace

Kind code_reader_kind() {
    return make_kind<CodeReader>();
}

}  // namespace vyard::plant
