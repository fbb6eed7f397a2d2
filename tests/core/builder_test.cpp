#include "core/support.hpp"

using namespace vyard;
using test::PlantText;

namespace {

std::string build(const PlantText& text) {
    base::Diagnostics diagnostics;
    const auto model = plant::build_plant(text.definition, diagnostics);
    CHECK((model == nullptr) == diagnostics.has_errors());
    return test::joined(test::lines_of(diagnostics));
}

const PlantText::Keys kBelt = {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "0.3 m/s"}};

PlantText belt() {
    PlantText p;
    p.brick().add("belt.a", kBelt);
    return p;
}

}  // namespace

TEST_CASE("a wrong plant is reported device by device, key by key") {
    struct Row {
        std::string device;
        PlantText::Keys keys;
        const char* message;
    };
    const Row rows[] = {
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"length", "2 m"}},
         "3:1 belt 'x' needs 'speed': when it runs; negative runs backwards\n"},
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"length", "#2"}, {"speed", "1 m/s"}},
         "3:3 a length needs a unit, written as a string; accepted: mm, cm, m [such as \"2 m\"]\n"},
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"length", "2 s"}, {"speed", "1 m/s"}},
         "3:3 's' is not a unit of length; accepted: mm, cm, m\n"},
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"length", "900 m"}, {"speed", "1 m/s"}},
         "3:3 900 m is out of range; accepted: 0.05 to 200 m\n"},
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"lenght", "2 m"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:3 a belt has no 'lenght' [did you mean 'length'?]\n"},
        {"belt.x",
         {{"length", "2 m"}, {"speed", "1 m/s"}},
         "3:1 belt 'x' needs a place [at = [\"0 m\", \"0 m\"], or after = \"another\", or beside = \"another\" and at "
         "= \"1 m\"]\n"},
        {"belt.x",
         {{"at", "[0 m]"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:2 a place in the plan is two lengths [at = [\"0 m\", \"1.5 m\"]]\n"},
        {"belt.x",
         {{"after", "b"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:2 no device is named 'b' [did you mean 'a'?]\n"},
        {"belt.x",
         {{"after", "x"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:1 'x' is placed after itself, by way of others\n"},
        {"belt.x",
         {{"beside", "a"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:1 'beside' needs 'at', a distance along the other [at = \"1.2 m\"]\n"},
        {"belt.x",
         {{"beside", "a"}, {"at", "1 m"}, {"side", "up"}, {"length", "2 m"}, {"speed", "1 m/s"}},
         "3:4 'side' takes one of: left, right (seen along the belt)\n"},
        {"belt.x",
         {{"at", "[0 m, 0 m]"}, {"length", "2 m"}, {"speed", "1 m/s"}, {"driven_by", "a"}},
         "3:5 'a' is a belt; 'driven_by' needs a motor or drive\n"},
        {"photoeye.x",
         {{"on", "a"}},
         "3:1 photoeye 'x' needs 'on' and 'at' [on = \"a belt\" and at = \"1.2 m\" along it; or at "
         "= [\"2 m\", \"0 m\"] in the plan]\n"},
        {"photoeye.x", {{"on", "a"}, {"at", "3 m"}}, "3:3 3 m is out of range; accepted: 0 to 2 m\n"},
        {"photoeye.x",
         {{"on", "a"}, {"at", "1 m"}, {"contact", "nc"}},
         "3:4 'contact' takes one of: normally open, normally closed\n"},
        {"fotoeye.x",
         {{"on", "a"}, {"at", "1 m"}},
         "3:1 no device kind is named 'fotoeye' [did you mean 'photoeye'?]\n"},
        {"belt.A", kBelt, "3:1 'A' is declared twice; first at plant.toml:2:1\n"},
        {"belt.in-feed", kBelt,
         "3:1 'in-feed' cannot be a name; names are letters, digits and underscores [conditions and orders could not "
         "name it]\n"},
        {"infeed.x",
         {{"on", "a"}, {"at", "1 m"}, {"item", "brik"}},
         "3:4 no item is named 'brik' [did you mean 'brick'?]\n"},
        {"infeed.x",
         {{"on", "a"}, {"at", "1 m"}, {"item", "brick"}, {"limit", "#1.5"}},
         "3:5 'limit' takes a whole number\n"},
        {"infeed.x",
         {{"on", "a"}, {"at", "1 m"}, {"item", "brick"}, {"limit", "#-1"}},
         "3:5 -1 is out of range; accepted: 0 to 1000000\n"},
        {"selector.x", {{"positions", "[one]"}}, "3:2 'positions' is a list of two to eight names\n"},
        {"endswitch.x",
         {{"on", "a"}, {"at", "1 m"}},
         "3:2 'a' is a belt; 'on' needs a cylinder, pusher, stopper, axis or text_axis\n"},
        {"tank.x",
         {{"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}},
         "3:1 tank 'x' needs 'at' [at = [\"2 m\", \"0 m\"]: its middle in the plan]\n"},
        {"tank.x",
         {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"colour", "pink"}},
         "3:6 'pink' is not a colour of this plant [known: plain]\n"},
        {"valve.x", {{"flow", "1 m/s"}}, "3:2 'm/s' is not a unit of flow; accepted: ml/s, l/s, l/min, m3/h\n"},
        {"item.x",
         {{"mass", "1 kg"}},
         "3:1 item 'x' needs its size [size = [\"240 mm\", \"115 mm\", \"71 mm\"]  (length, width, height)]\n"},
        {"item.x",
         {{"size", "[1 m, 1 m]"}},
         "3:2 a size is three lengths: length, width, height [size = [\"240 mm\", \"115 mm\", \"71 mm\"]]\n"},
        {"item.x",
         {{"size", "[1 m, 1 m, 1 m]"}, {"weight", "1 kg"}},
         "3:3 an item has no 'weight' [known: size, mass, colour, code, label, material]\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.device);
        CAPTURE(row.message);
        PlantText p = belt();
        p.add(row.device, row.keys);
        CHECK(build(p) == row.message);
    }
}

TEST_CASE("mistakes in several devices are all reported, and do not echo") {
    PlantText p = belt();
    p.add("belt.b", {{"after", "a"}, {"length", "fast"}, {"speed", "1 m/s"}});
    p.add("photoeye.e", {{"on", "b"}, {"at", "1 m"}});  // depends on the wrong one: no message of its own
    p.add("photoeye.f", {{"on", "a"}, {"at", "5 m"}});
    p.add("cylinder.c", {{"lifts", "b"}, {"stroke", "1 s"}});
    CHECK(build(p) ==
          "3:3 'fast' is not a valid length; expected a number and a unit (mm, cm, m)\n"
          "5:3 5 m is out of range; accepted: 0 to 2 m\n"
          "6:3 's' is not a unit of length; accepted: mm, cm, m\n");
}

TEST_CASE("a circle of placements is found") {
    PlantText p;
    p.add("belt.a", {{"after", "b"}, {"length", "1 m"}, {"speed", "1 m/s"}})
        .add("belt.b", {{"after", "a"}, {"length", "1 m"}, {"speed", "1 m/s"}});
    CHECK(build(p) == "1:1 'a' is placed after itself, by way of others\n");
}

TEST_CASE("devices stand where their file puts them, in any order of the file") {
    PlantText p;
    p.add("belt.c", {{"beside", "b"}, {"at", "0.5 m"}, {"side", "right"}, {"length", "1 m"}, {"speed", "1 m/s"}});
    p.add("belt.b", {{"after", "a"}, {"length", "1 m"}, {"speed", "1 m/s"}});
    p.add("belt.a",
          {{"at", "[1 m, 2 m]"}, {"heading", "90 deg"}, {"elevation", "0.5 m"}, {"length", "3 m"}, {"speed", "1 m/s"}});
    base::Diagnostics diagnostics;
    const auto model = plant::build_plant(p.definition, diagnostics);
    REQUIRE(model != nullptr);
    const auto pose = [&](const char* name) { return base::at(model->devices, model->find_device(name)).pose; };
    CHECK(pose("b").y_m == doctest::Approx(5.0));
    CHECK(pose("b").z_m == 0.5);
    CHECK(pose("b").heading == plant::Heading::quarter(1));
    CHECK(pose("c").x_m == doctest::Approx(1.2));  // right of a belt that leads up the page
    CHECK(pose("c").y_m == doctest::Approx(5.5));
    CHECK(pose("c").heading == plant::Heading::quarter(0));
}

TEST_CASE("readings: a device's only point, actuals, the plant's own counts, nothing else") {
    PlantText p = belt();
    p.add("photoeye.eye", {{"on", "a"}, {"at", "1 m"}}).add("motor.m", {});
    base::Diagnostics diagnostics;
    const auto model = plant::build_plant(p.definition, diagnostics);
    REQUIRE(model != nullptr);
    CHECK(plant::find_reading(*model, "EYE"));
    CHECK(plant::find_reading(*model, "eye.signal"));
    CHECK(plant::find_reading(*model, "eye.blocked"));
    CHECK(plant::find_reading(*model, "plant.items"));
    CHECK_FALSE(plant::find_reading(*model, "m"));  // several points
    CHECK_FALSE(plant::find_reading(*model, "eye.nothing"));
    CHECK_FALSE(plant::find_reading(*model, ""));
}

TEST_CASE("a device without a place of its own is drawn where `place` says, within its assembly too") {
    PlantText p;
    p.add("motor.m", {{"place", "[2 m, 1 m]"}}).add("motor.n", {}).add("valve.v", {{"place", "[3 m, 0 m]"}});
    test::Bench b(p);
    const plant::DeviceModel& m = b.model->device(b.device("m"));
    CHECK(m.in_plan);
    CHECK(m.pose.x_m == 2.0);
    CHECK(m.pose.y_m == 1.0);
    CHECK_FALSE(b.model->device(b.device("n")).in_plan);
    CHECK(b.model->device(b.device("v")).in_plan);
    // Within an assembly it counts from where that is placed, turned as it is.
    plant::AssemblyDefinition pump;
    pump.name = "skid";
    pump.devices = PlantText().add("motor.m", {{"place", "[1 m, 0 m]"}}).definition.devices;
    PlantText placed;
    placed.definition.assemblies.push_back(pump);
    placed.add("skid.a", {{"at", "[5 m, 2 m]"}, {"heading", "90 deg"}});
    test::Bench in(placed);
    CHECK(in.model->device(in.device("a.m")).pose.x_m == doctest::Approx(5.0));
    CHECK(in.model->device(in.device("a.m")).pose.y_m == doctest::Approx(3.0));
    PlantText wrong;
    wrong.add("motor.m", {{"place", "2 m"}}).add("motor.n", {{"at", "[2 m, 1 m]"}});
    base::Diagnostics diagnostics;
    plant::build_plant(wrong.definition, diagnostics);
    CHECK(diagnostics.error_count() == 2);
}
