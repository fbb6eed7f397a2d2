// What transmitters share.
#pragma once

#include <cmath>

namespace vyard::plant {

/// A measured value with a first-order lag, exact over a step
/// for a constant input: y += (x - y)(1 - exp(-dt / T)).
struct Lagged {
    double shown = 0.0;
    bool settled = false;

    double follow(double value, double lag_s, double dt_s) {
        if (!settled || lag_s <= 0.0)
            shown = value;  // at power-up it has been there for long
        else
            shown += (value - shown) * -std::expm1(-dt_s / lag_s);
        settled = true;
        return shown;
    }
};

}  // namespace vyard::plant
