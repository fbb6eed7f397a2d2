// The list of kinds. To add one: a file in this folder, a name here.
#pragma once

#include "core/plant/declaration.hpp"

// clang-format off
#define VYARD_KINDS(X) \
    X(belt) X(roller_bed) X(turntable) X(lift) X(chute) X(diverter) X(index_table) X(merge) X(shelf) X(infeed) X(outfeed) \
    X(stopper) X(gate_arm) X(wall) X(pusher) X(gantry) X(station) \
    X(cylinder) X(rotary_actuator) X(air_supply) X(motor) X(drive) X(axis) X(text_axis) \
    X(tank) X(valve) X(pump) X(demand) X(heater) X(hopper) X(bulk_feeder) \
    X(endswitch) X(photoeye) X(light_grid) X(proximity) X(colour_reader) X(code_reader) X(checkweigher) \
    X(distance_sensor) X(encoder) X(speed_monitor) X(level_switch) X(level_transmitter) X(flow_transmitter) \
    X(pressure_transmitter) X(temperature_transmitter) \
    X(button) X(estop) X(pull_cord) X(selector) X(potentiometer) X(number_setter) X(joystick) X(guard_door) \
    X(lamp) X(stack_light) X(horn) X(display) X(text_display) X(meter) X(hour_meter)
// clang-format on

namespace vyard::plant {

#define VYARD_KIND(name) Kind name##_kind();
VYARD_KINDS(VYARD_KIND)
#undef VYARD_KIND

}  // namespace vyard::plant
