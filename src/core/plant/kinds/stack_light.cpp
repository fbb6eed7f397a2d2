#include "core/plant/drawing.hpp"
#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct StackLight {
    struct Model {
        int lamps = 3;
        bool sounder = false;
    };
    struct State {
        int lit = 0;
        bool sounding = false, broken = false;
    };
    enum Points { kRed, kYellow, kGreen, kBlue, kSound };

    static void declare(Declaration<StackLight>& kind) {
        kind.names("stack_light", "panel", Placement::Panel, "a column of lamps, with or without a sounder")
            .whole("lamps", &Model::lamps, "3", 1, 4, "red, yellow, green, blue, from the first")
            .choice("sounder", &Model::sounder, {"none", "with"}, "none", "whether it has one")
            .output("red", "TRUE lights it")
            .output("yellow", "TRUE lights it")
            .only_if([](const Model& m) { return m.lamps > 1; })
            .output("green", "TRUE lights it")
            .only_if([](const Model& m) { return m.lamps > 2; })
            .output("blue", "TRUE lights it")
            .only_if([](const Model& m) { return m.lamps > 3; })
            .output("sound", "TRUE sounds it")
            .only_if([](const Model& m) { return m.sounder; })
            .actual("lit", PointType::Number, Dimension::Plain, "lamps lit: red 1, yellow 2, green 4, blue 8, added up",
                    &State::lit)
            .actual("sounding", PointType::Boolean, Dimension::Plain, "it sounds", &State::sounding)
            .fault("broken", "no lamp of it lights", &State::broken);
    }
    static Face face(const Model& model, const State& state) {
        static constexpr std::pair<const char*, Tone> kLamps[] = {
            {"red", Tone::Out}, {"yellow", Tone::Light}, {"green", Tone::Runs}, {"blue", Tone::Water}};
        Face out;
        for (int lamp = 0; lamp < model.lamps; ++lamp) {
            const bool lit = ((state.lit >> lamp) & 1) != 0;
            out.lamps.emplace_back(kLamps[lamp].second, lit);
            if (lit) out.text += (out.text.empty() ? "" : ", ") + std::string(kLamps[lamp].first);
        }
        if (out.text.empty()) out.text = "dark";
        if (state.sounding) out.text += ", sounds";
        return out;
    }
    static void actuate(const Model&, State& state, Step& step) {
        state.lit = 0;
        for (int lamp = kRed; lamp <= kBlue; ++lamp) state.lit |= step.output(lamp) != 0.0 ? 1 << lamp : 0;
        if (state.broken) state.lit = 0;
        state.sounding = step.output(kSound) != 0.0;
    }
};

}  // namespace

Kind stack_light_kind() {
    return make_kind<StackLight>();
}

}  // namespace vyard::plant
