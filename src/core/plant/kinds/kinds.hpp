// The list of kinds. To add one: a file in this folder, a name here.
#pragma once

#include "core/plant/kind.hpp"

// clang-format off
#define VYARD_KINDS(X) \
    X(belt) X(infeed) X(outfeed) X(chute) X(stopper) X(pusher) \
    X(cylinder) X(endswitch) X(photoeye) X(colour_reader) X(tank) X(valve) \
    X(level_transmitter) X(level_switch) X(motor) X(button) X(estop) X(selector) \
    X(potentiometer) X(lamp) X(horn) X(display)
// clang-format on

namespace vyard::plant {

#define VYARD_KIND(name) Kind name##_kind();
VYARD_KINDS(VYARD_KIND)
#undef VYARD_KIND

}  // namespace vyard::plant
