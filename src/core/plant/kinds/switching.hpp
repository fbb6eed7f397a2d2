// What contactors suffer from: being switched too often, and being changed over to the other direction at once.
#pragma once

#include <algorithm>

namespace vyard::plant {

/// s. The least pause between one direction and the other. A contactor takes 20 to 50 ms to drop out and its arc as
/// long to go out; smaller: both directions could be closed for a moment, which is a short circuit between phases.
inline constexpr double kLeastPause_s = 0.05;

/// How often a contactor may be switched on for a longer time, per second, and how many times more at once. Contactors
/// are rated for some thousand operations an hour (IEC 60947-4-1, classes of intermittent duty: 1200 at most); larger
/// and a flickering signal goes unseen, smaller and belts that are fed on piece by piece count as flickering.
inline constexpr double kMostPerSecond = 2.0, kMostAtOnce = 4.0;

struct Switching {
    double filled = 0.0;  ///< Rises that have not leaked away.
    double off_s = 1.0;   ///< Since it was last on; more than a second says no more.
    int last = 0, last_way = 0;
    bool chatters = false, reversed = false;

    /// `way`: 1 on, or forward; -1 reverse; 0 off. `turns`: its speed now, as a share.
    void look(int way, double turns, double dt_s) {
        filled = std::max(0.0, filled - kMostPerSecond * dt_s);
        reversed = false;
        if (way != 0 && way != last) {
            filled += 1.0;
            reversed = last_way == -way && (off_s < kLeastPause_s - 1e-9 || turns * way < -0.02);
        }
        chatters = chatters ? filled > 1.0 : filled > kMostAtOnce;
        off_s = way != 0 ? 0.0 : std::min(off_s + dt_s, 1.0);
        if (way != 0) last_way = way;
        last = way;
    }
};

}  // namespace vyard::plant
