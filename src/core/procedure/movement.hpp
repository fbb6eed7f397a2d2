// What moves in a plant when one thing is done to it: the inputs that change, and the actuals of the device that it is
// done to. Each try works on a copy of a session that stands still.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::procedure {

/// An input point that changed.
struct Change {
    int point = 0;
    base::Nanoseconds after{};  ///< Since it was done, its first change.
    double from = 0.0, to = 0.0;
};

struct Movement {
    std::vector<Change> inputs;        ///< In order of time.
    std::vector<std::string> actuals;  ///< "lift.position 0.25 m", as they are in the end; of the device alone.
    bool any() const { return !inputs.empty() || !actuals.empty(); }
};

/// Does things to copies of a session.
class Trials {
  public:
    explicit Trials(const session::Session& at_rest) : rest_(at_rest) {}

    using Act = std::function<void(session::Session&)>;

    /// What `act` moves, which is meant for `point`, an output of the plant: until nothing has changed for half a
    /// second, or for 25 s. What moves without it does not count. The air of the plant is on meanwhile. Where nothing
    /// moves, it is done once more after each other output of the device has been on and let go: to retract something,
    /// it has to be out. Cost: up to two runs of 25 s, and as many again for each other output of the device.
    Movement moved(int point, const Act& act);

  private:
    struct Stage {
        session::Session session;
        std::optional<std::vector<bool>> restless;  ///< By point: it changes by itself.
    };

    /// With the air of all supplies on, but for a device that is one.
    Stage& with_air(int device);
    Movement moved(Stage& stage, int device, const Act& act);

    session::Session rest_;
    std::optional<Stage> plain_, airy_;
};

}  // namespace vyard::procedure
