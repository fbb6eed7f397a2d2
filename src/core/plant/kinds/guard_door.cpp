#include "core/plant/kinds/kinds.hpp"

namespace vyard::plant {

namespace {

using base::Dimension;

struct GuardDoor {
    struct Model {
        double lock_s = 0.2, stops_s = 0.5;
        bool locks = false;
    };
    struct State {
        bool open = false, bridged = false, wants_open = false;
        double locked = 0.0;  ///< 0 free, 1 locked.
        double open_s = 0.0;
    };
    enum Points { kLock, kClosed, kLocked };
    enum Mishaps { kMotion };

    static void declare(Declaration<GuardDoor>& kind) {
        kind.names("guard_door", "panel", Placement::Panel,
                   "a door in the fence with its switch, and a lock that holds it shut")
            .choice("lock", &Model::locks, {"none", "locked by power"}, "none", "whether it can be held shut")
            .quantity("lock_time", &Model::lock_s, Dimension::Time, "0.2 s", 0.0, 10.0, "of the bolt")
            .quantity("stopping_time", &Model::stops_s, Dimension::Time, "0.5 s", 0.0, 60.0,
                      "within which all that moves has to stand once the door is open")
            .output("lock", "TRUE bolts the door while it is shut")
            .only_if([](const Model& m) { return m.locks; })
            .input("closed", "TRUE while the door is shut")
            .input("locked", "TRUE while the bolt is in")
            .only_if([](const Model& m) { return m.locks; })
            .control("open", "opens the door, or tries as long as it is bolted",
                     [](const Model&, State& s) { s.wants_open = true; })
            .control("close", "shuts the door", [](const Model&, State& s) { s.wants_open = s.open = false; })
            .actual("open", PointType::Boolean, Dimension::Plain, "the door is open", &State::open)
            .fault("bypassed", "its switch reads shut whatever the door does", &State::bridged)
            .mishap("motion_while_open", "something moves though the door has been open for its stopping time");
    }
    static void actuate(const Model& model, State& state, Step& step) {
        const double way = model.lock_s > 0.0 ? step.dt_s / model.lock_s : 1.0;
        const bool lock = model.locks && step.output(kLock) != 0.0 && !state.open;
        state.locked = std::clamp(state.locked + (lock ? way : -way), 0.0, 1.0);
        if (state.wants_open && state.locked < 0.5) state.open = true;
        state.open_s = state.open ? std::min(state.open_s + step.dt_s, model.stops_s + 1.0) : 0.0;
        const int moves = state.open_s > model.stops_s + 1e-9 ? what_moves(step) : kNone;
        step.mishap(kMotion, moves != kNone, moves);
    }
    static int what_moves(const Step& step) {
        for (std::size_t d = 0; d < step.model.devices.size(); ++d) {
            if (moves(step.model, step.state, static_cast<int>(d))) return static_cast<int>(d);
        }
        return kNone;
    }

    static void sense(const Model&, State& state, Step& step) {
        step.input(kClosed, !state.open || state.bridged ? 1.0 : 0.0);
        step.input(kLocked, state.locked >= 1.0 ? 1.0 : 0.0);
    }
};

}  // namespace

Kind guard_door_kind() {
    return make_kind<GuardDoor>();
}

}  // namespace vyard::plant
