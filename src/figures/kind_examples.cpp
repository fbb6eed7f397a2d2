// The table of examples. Each builds, and is drawn after a moment of running.
#include <algorithm>

#include "figures/kind_figures.hpp"

namespace vyard::figures {

namespace {

constexpr std::string_view kBricks = R"(
[item.brick]
size = ["240 mm", "115 mm", "71 mm"]
mass = "3.5 kg"
code = 7
label = "B-7"
[belt.line]
at = ["0 m", "0 m"]
length = "1.6 m"
speed = "0.3 m/s"
[infeed.bricks]
on = "line"
at = "0.2 m"
item = "brick"
limit = 1
)";
constexpr std::string_view kOne = R"(
[item.brick]
size = ["240 mm", "115 mm", "71 mm"]
)";
constexpr std::string_view kTank = R"(
[tank.vat]
at = ["0 m", "0 m"]
length = "1 m"
width = "0.6 m"
depth = "1 m"
level = "0.6 m"
)";
constexpr std::string_view kTwoTanks = R"(
[tank.vat]
at = ["0 m", "0 m"]
length = "0.8 m"
width = "0.6 m"
depth = "1 m"
level = "0.8 m"
[tank.bath]
at = ["1.6 m", "0 m"]
length = "0.8 m"
width = "0.6 m"
depth = "1 m"
level = "0.2 m"
)";
constexpr std::string_view kRod = R"(
[cylinder.lift]
stroke = "200 mm"
)";
constexpr std::string_view kMotor = R"(
[motor.fan]
)";

}  // namespace

const std::vector<KindExample>& kind_examples() {
    static const std::vector<KindExample> all = {
        {"belt",
         R"([belt.feed]
at = ["0 m", "0 m"]
length = "1.6 m"
speed = "0.30 m/s"
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n[infeed.bricks]\non = \"feed\"\nat = \"0.2 "
         "m\"\nitem = \"brick\"\ninterval = \"1.4 s\"\n",
         {"feed.run"},
         3.0},
        {"roller_bed",
         R"([roller_bed.queue]
at = ["0 m", "0 m"]
length = "1.8 m"
zones = 4
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n[infeed.bricks]\non = \"queue\"\nat = \"0.2 "
         "m\"\nitem = \"brick\"\ninterval = \"2 s\"\n",
         {"queue.run"},
         8.0},
        {"turntable",
         R"([turntable.corner]
at = ["0 m", "0 m"]
turn_time = "2 s"
)",
         "",
         {"corner.turn"},
         0.9},
        {"lift",
         R"([lift.up]
at = ["0 m", "0 m"]
elevation = "0.4 m"
travel = "1.2 m"
)",
         "",
         {"up.up"},
         2.0},
        {"chute",
         R"([chute.reject]
at = ["0 m", "0 m"]
length = "1.5 m"
drop = "500 mm"
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n[infeed.bricks]\non = \"reject\"\nat = \"0.2 "
         "m\"\nitem = \"brick\"\nlimit = 1\n",
         {},
         0.6},
        {"diverter",
         R"([diverter.wheels]
on = "line"
at = "0.9 m"
angle = "45 deg"
)",
         kBricks,
         {"line.run", "wheels.raise"},
         1.9},
        {"index_table",
         R"([index_table.table]
at = ["0 m", "0 m"]
radius = "500 mm"
stations = 4
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n",
         {"table.index"},
         0.5},
        {"merge",
         R"([merge.lanes]
at = ["0 m", "0 m"]
length = "1.6 m"
width = "600 mm"
to = "right"
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n[infeed.bricks]\non = \"lanes\"\nat = \"0.2 "
         "m\"\nleft = \"150 mm\"\nitem = \"brick\"\ninterval = \"1.6 s\"\n",
         {"lanes.run"},
         4.3},
        {"shelf",
         R"([shelf.board]
at = ["0 m", "0 m"]
length = "1.2 m"
items = ["brick", "brick", "brick"]
first = "200 mm"
pitch = "400 mm"
)",
         kOne,
         {},
         0.1},
        {"infeed",
         R"([infeed.bricks]
on = "feed"
at = "0.3 m"
item = "brick"
interval = "1.5 s"
)",
         "[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\n[belt.feed]\nat = [\"0 m\", \"0 m\"]\nlength = "
         "\"1.6 m\"\nspeed = \"0.3 m/s\"\n",
         {"feed.run"},
         3.2},
        {"outfeed",
         R"([outfeed.away]
after = "line"
)",
         kBricks,
         {"line.run"},
         6.0},
        {"stopper",
         R"([stopper.blade]
on = "line"
at = "1.1 m"
)",
         kBricks,
         {"line.run", "blade.raise"},
         4.0},
        {"gate_arm",
         R"([gate_arm.arm]
on = "line"
at = "1.1 m"
)",
         kBricks,
         {"line.run"},
         4.0},
        {"wall",
         R"([wall.guide]
at = ["0.9 m", "0 m"]
heading = "30 deg"
elevation = "0.8 m"
length = "1 m"
)",
         kBricks,
         {"line.run"},
         3.0},
        {"pusher",
         R"([pusher.off]
on = "line"
at = "1.0 m"
stroke = "300 mm"
)",
         kBricks,
         {"off.extend"},
         0.5},
        {"gantry",
         R"([gantry.arm]
at = ["0 m", "0 m"]
elevation = "1.4 m"
x_travel = "1.4 m"
y_travel = "0.6 m"
z_travel = "0.6 m"
)",
         kOne,
         {"arm.x=0.9", "arm.y=0.3", "arm.down=0.2"},
         2.5},
        {"cylinder",
         R"([cylinder.lift]
stroke = "200 mm"
)",
         "",
         {"lift.extend"},
         0.4},
        {"rotary_actuator",
         R"([rotary_actuator.flap]
)",
         "",
         {"flap.turn"},
         1.0},
        {"air_supply",
         R"([air_supply.air]
)",
         "",
         {"air.open"},
         3.0},
        {"motor",
         R"([motor.fan]
)",
         "",
         {"fan.run"},
         1.0},
        {"drive",
         R"([drive.spindle]
)",
         "",
         {"spindle.enable", "spindle.setpoint=60"},
         3.0},
        {"axis",
         R"([axis.slide]
travel = "1.2 m"
speed = "0.5 m/s"
)",
         "",
         {"slide.enable", "slide.forward"},
         1.0},
        {"text_axis",
         R"([text_axis.slide]
travel = "1.2 m"
speed = "0.5 m/s"
)",
         "",
         {},
         1.0},
        {"tank",
         R"([tank.vat]
at = ["0 m", "0 m"]
length = "1 m"
width = "0.6 m"
depth = "1 m"
level = "0.6 m"
)",
         "",
         {},
         1.0},
        {"valve",
         R"([valve.between]
from = "vat"
into = "bath"
bore = "40 mm"
)",
         kTwoTanks,
         {"between.open"},
         2.0},
        {"pump",
         R"([pump.over]
from = "vat"
into = "bath"
)",
         kTwoTanks,
         {"over.run"},
         2.0},
        {"demand",
         R"([demand.users]
from = "vat"
)",
         kTank,
         {},
         2.0},
        {"heater",
         R"([heater.coil]
tank = "vat"
power = "6 kW"
)",
         kTank,
         {"coil.on"},
         2.0},
        {"hopper",
         R"([hopper.bin]
at = ["0 m", "0 m"]
volume = "200 l"
initial = "140 l"
)",
         "",
         {"bin.open"},
         2.0},
        {"bulk_feeder",
         R"([bulk_feeder.screw]
from = "bin"
into = "scale_bin"
rate = "0.8 l/s"
length = "1.5 m"
)",
         "[hopper.bin]\nat = [\"0 m\", \"0 m\"]\nvolume = \"200 l\"\ninitial = \"140 l\"\n[hopper.scale_bin]\nat = "
         "[\"1.8 m\", \"0 m\"]\nvolume = \"100 l\"\n",
         {"screw.run"},
         30.0},
        {"endswitch",
         R"([endswitch.is_out]
on = "lift"
at = "200 mm"
)",
         kRod,
         {"lift.extend"},
         3.0},
        {"photoeye",
         R"([photoeye.eye]
on = "line"
at = "1.1 m"
height = "40 mm"
)",
         kBricks,
         {"line.run"},
         3.0},
        {"light_grid",
         R"([light_grid.heights]
on = "line"
at = "1.1 m"
)",
         kBricks,
         {"line.run"},
         3.0},
        {"proximity",
         R"([proximity.metal_seen]
on = "line"
at = "1.1 m"
)",
         kBricks,
         {"line.run"},
         3.0},
        {"colour_reader",
         R"([colour_reader.reader]
on = "line"
at = "1.1 m"
)",
         "[plant]\ncolours = [\"clay\", \"cobalt\"]\n[item.brick]\nsize = [\"240 mm\", \"115 mm\", \"71 mm\"]\ncolour "
         "= \"cobalt\"\n[belt.line]\nat = [\"0 m\", \"0 m\"]\nlength = \"1.6 m\"\nspeed = \"0.3 "
         "m/s\"\n[infeed.bricks]\non = \"line\"\nat = \"0.2 m\"\nitem = \"brick\"\nlimit = 1\n",
         {"line.run"},
         3.0},
        {"code_reader",
         R"([code_reader.reader]
on = "line"
at = "0.2 m"
gives = "both"
)",
         kBricks,
         {"reader.trigger"},
         0.5},
        {"station",
         R"([station.press]
on = "line"
at = "0.8 m"
work_time = "1.5 s"
)",
         kBricks,
         {"line.run"},
         2.0},
        {"checkweigher",
         R"([checkweigher.scale]
on = "line"
at = "0.8 m"
length = "0.8 m"
)",
         kBricks,
         {"line.run"},
         2.0},
        {"distance_sensor",
         R"([distance_sensor.looks]
on = "line"
at = "1.4 m"
)",
         kBricks,
         {"line.run"},
         2.0},
        {"encoder",
         R"([encoder.way]
on = "line"
pulses_per_metre = 200
)",
         kBricks,
         {"line.run"},
         2.0},
        {"speed_monitor",
         R"([speed_monitor.turns]
on = "fan"
)",
         kMotor,
         {"fan.run"},
         2.0},
        {"level_switch",
         R"([level_switch.high]
tank = "vat"
at = "0.5 m"
)",
         kTank,
         {},
         1.0},
        {"level_transmitter",
         R"([level_transmitter.level]
tank = "vat"
)",
         kTank,
         {},
         1.0},
        {"flow_transmitter",
         R"([flow_transmitter.flow]
through = "fill"
)",
         "[valve.fill]\ninto = \"vat\"\n[tank.vat]\nat = [\"0 m\", \"0 m\"]\nlength = \"1 m\"\nwidth = \"0.6 "
         "m\"\ndepth = \"1 m\"\n",
         {"fill.open"},
         3.0},
        {"pressure_transmitter",
         R"([pressure_transmitter.head]
tank = "vat"
)",
         kTank,
         {},
         3.0},
        {"temperature_transmitter",
         R"([temperature_transmitter.warm]
tank = "vat"
)",
         kTank,
         {},
         1.0},
        {"button",
         R"([button.start]
)",
         "",
         {},
         0.1},
        {"estop",
         R"([estop.stop_all]
)",
         "",
         {},
         0.1},
        {"pull_cord",
         R"([pull_cord.cord]
)",
         "",
         {},
         0.1},
        {"selector",
         R"([selector.mode]
positions = ["hand", "off", "automatic"]
)",
         "",
         {},
         0.1},
        {"potentiometer",
         R"([potentiometer.speed_knob]
)",
         "",
         {},
         0.1},
        {"number_setter",
         R"([number_setter.batch]
initial = 12
)",
         "",
         {},
         0.1},
        {"joystick",
         R"([joystick.stick]
)",
         "",
         {},
         0.1},
        {"guard_door",
         R"([guard_door.door]
lock = "locked by power"
)",
         "",
         {"door.lock"},
         0.5},
        {"lamp",
         R"([lamp.running]
)",
         "",
         {"running.on"},
         0.1},
        {"stack_light",
         R"([stack_light.tower]
)",
         "",
         {"tower.green"},
         0.1},
        {"horn",
         R"([horn.warning]
)",
         "",
         {"warning.on"},
         0.1},
        {"display",
         R"([display.count]
)",
         "",
         {"count.value=42"},
         0.1},
        {"text_display",
         R"([text_display.line]
)",
         "",
         {"line.text=all in place"},
         0.1},
        {"meter",
         R"([meter.load]
)",
         "",
         {"load.value=63"},
         0.1},
        {"hour_meter",
         R"([hour_meter.hours]
)",
         "",
         {"hours.run"},
         60.0},
    };
    return all;
}

const KindExample* find_kind_example(std::string_view kind) {
    const auto& all = kind_examples();
    const auto found = std::find_if(all.begin(), all.end(), [&](const KindExample& e) { return e.kind == kind; });
    return found == all.end() ? nullptr : &*found;
}

}  // namespace vyard::figures
