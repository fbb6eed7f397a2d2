// Kinds in Structured Text, and assemblies.
#include "core/plant/own_kind.hpp"
#include "core/support.hpp"

using namespace vyard;
using doctest::Approx;
using test::Bench;
using test::PlantText;

namespace {

constexpr const char* kOven =
    "FUNCTION_BLOCK oven\n"
    "VAR_INPUT heat : BOOL; door_open : BOOL; kilowatts : REAL := 2.0; burnt_out : BOOL; END_VAR\n"
    "VAR_OUTPUT warm : BOOL; celsius : REAL := 20.0; END_VAR\n"
    "VAR on_time : TON; cycles : INT; last : BOOL; END_VAR\n"
    "on_time(IN := heat, PT := T#100ms);\n"
    "IF on_time.Q AND NOT burnt_out THEN celsius := celsius + kilowatts * 0.1; END_IF;\n"
    "IF door_open THEN celsius := celsius - 0.5; END_IF;\n"
    "IF heat AND NOT last THEN cycles := cycles + 1; END_IF;\n"
    "last := heat;\n"
    "warm := celsius > 40.0;\n"
    "END_FUNCTION_BLOCK\n";

plant::DefinitionValue text(const std::string& t) {
    return PlantText::value(t, {});
}

PlantText ovens(const char* logic = kOven) {
    PlantText p;
    plant::OwnKindDefinition k;
    k.name = "oven";
    k.block = "oven";
    k.logic = {base::make_source("oven.st", logic)};
    k.controls = {text("door_open")};
    k.parameters = {text("kilowatts")};
    k.faults = {text("burnt_out")};
    p.definition.own_kinds.push_back(std::move(k));
    p.add("oven.left", {{"kilowatts", "#4"}}).add("oven.right", {});
    return p;
}

std::string errors(const PlantText& p) {
    base::Diagnostics diagnostics;
    plant::build_plant(p.definition, diagnostics);
    return test::joined(test::lines_of(diagnostics));
}

}  // namespace

TEST_CASE("a function block is a device: points, parameters, hand controls, faults, actuals") {
    Bench b(ovens(), 0.01);
    CHECK(b.read("left.celsius") == 20.0);
    b.drive("left.heat", 1);
    b.drive("right.heat", 1);
    CHECK(b.until("left.warm", 1, 10) == Approx(0.1 + 20.0 / 0.4 * 0.01).epsilon(0.03));
    CHECK(b.read("right.celsius") < 32);
    CHECK(b.read("left.cycles") == 1);
    b.control("left", "door_open", 1);
    b.drive("left.heat", 0);
    b.step(10);
    CHECK(b.read("left.celsius") < 37);
    b.fault("right", "burnt_out");
    const double before = b.read("right.celsius");
    b.step(10);
    CHECK(b.read("right.celsius") == before);
    CHECK(plant::active_faults(*b.model, b.state)[0] == "right burnt_out");
    // Its state is part of a copy.
    plant::PlantState copy = b.state;
    for (int n = 0; n < 50; ++n) {
        plant::step(*b.model, copy);
        b.step();
    }
    CHECK(copy.devices == b.state.devices);
}

TEST_CASE("what a kind of one's own shows at power-up: its block has looked, and has not run") {
    PlantText p;
    plant::OwnKindDefinition k;
    k.name = "scale";
    k.block = "scale";
    k.logic = {base::make_source(
        "scale.st",
        "FUNCTION_BLOCK scale VAR_INPUT tare : REAL := 2.0; END_VAR VAR_OUTPUT kg : REAL; ready : BOOL; calls : INT; "
        "END_VAR kg := 10.0 - tare; ready := TRUE; calls := calls + 1; END_FUNCTION_BLOCK")};
    k.parameters = {text("tare")};
    p.definition.own_kinds.push_back(std::move(k));
    p.add("scale.s", {{"tare", "#4"}});
    Bench b(p, 0.01);
    plant::sense(*b.model, b.state);
    CHECK(b.read("s.actual_kg") == 6.0);
    CHECK(b.read("s.kg") == 6.0);
    CHECK(b.read("s.ready") == 1.0);
    b.run(0.05);
    CHECK(b.read("s.actual_calls") == 5.0);  // as often as it ran: the look ahead has left nothing behind
    CHECK(b.read("s.actual_kg") == 6.0);
}

TEST_CASE("a block that meets a run-time fault stops, and says so; the plant goes on") {
    Bench b(
        ovens("FUNCTION_BLOCK oven VAR_INPUT door_open : BOOL; kilowatts : INT; burnt_out : BOOL; END_VAR "
              "VAR_OUTPUT n : INT; END_VAR n := n + 1; IF n > 3 THEN n := 1 / (n - 4); END_IF; END_FUNCTION_BLOCK"));
    b.step(10);
    CHECK(b.read("left.stopped") == 1);
    CHECK(b.read("left.n") == 4);
}

TEST_CASE("texts of a block are points of text") {
    PlantText p = ovens(
        "FUNCTION_BLOCK oven VAR_INPUT ask : STRING; kilowatts : REAL; door_open : BOOL; burnt_out : BOOL; END_VAR\n"
        "VAR_OUTPUT says : STRING; END_VAR says := CONCAT(ask, '!'); END_FUNCTION_BLOCK");
    Bench b(p);
    const auto& points = b.model->points;
    const auto text_of = [&](const char* name) -> plant::WireText& {
        const int n = b.model->find_point(name);
        REQUIRE(n != plant::kNone);
        CHECK(base::at(points, n).type == plant::PointType::Text);
        return base::at(b.state.texts, base::at(points, n).text).shown;
    };
    text_of("left.ask").set("hot");
    b.step();
    CHECK(text_of("left.says").view() == "hot!");
    CHECK(text_of("right.says").view() == "!");
    p.definition.own_kinds[0].controls.push_back(text("ask"));
    CHECK(errors(p) == "0:0 'ask' is a string; strings can only be points of a device\n");
}

TEST_CASE("mistakes in kinds of one's own") {
    const std::string wrong =
        errors(ovens("FUNCTION_BLOCK oven VAR_INPUT door_open : BOOL; END_VAR x := 1; END_FUNCTION_BLOCK"));
    CHECK(wrong == "1:57 no variable is named 'x' [known: door_open]\n");
    PlantText p = ovens();
    p.definition.own_kinds[0].controls.push_back(text("dor_open"));
    CHECK(errors(p).starts_with("0:0 oven has no input 'dor_open' [did you mean 'door_open'?]\n"));
    PlantText place = ovens("FUNCTION_BLOCK oven VAR_INPUT place : REAL; END_VAR END_FUNCTION_BLOCK");
    place.definition.own_kinds[0].controls.clear();
    place.definition.own_kinds[0].faults.clear();
    place.definition.own_kinds[0].parameters = {text("place")};
    CHECK(errors(place).find("'place' says where a device is drawn; name the parameter otherwise") !=
          std::string::npos);
    PlantText twice = ovens();
    twice.definition.own_kinds[0].name = "belt";
    CHECK(errors(twice).find("there is a kind 'belt' already") != std::string::npos);
}

TEST_CASE("an assembly is placed many times, with its parameters, its place and its heading") {
    PlantText p;
    p.brick();
    plant::AssemblyDefinition a;
    a.name = "station";
    a.parameters = {{"speed", {}, text("0.2 m/s")}, {"eye", {}, text("0.5 m")}};
    PlantText inner;
    inner.add("belt.feed", {{"at", "[1 m, 0 m]"}, {"length", "2 m"}, {"speed", "$speed"}})
        .add("photoeye.end", {{"on", "feed"}, {"at", "$eye"}});
    a.devices = inner.definition.devices;
    p.definition.assemblies.push_back(a);
    p.add("station.one", {{"at", "[0 m, 0 m]"}})
        .add("station.two", {{"at", "[10 m, 5 m]"}, {"heading", "90 deg"}, {"speed", "0.4 m/s"}});
    SUBCASE("placed") {
        Bench b(p);
        const auto& two = base::at(b.model->devices, b.device("two.feed"));
        CHECK(two.pose.x_m == Approx(10.0));
        CHECK(two.pose.y_m == Approx(6.0));
        CHECK(two.pose.heading == plant::Heading::quarter(1));
        b.drive("one.feed.run", 1);
        b.drive("two.feed.run", 1);
        b.step();
        CHECK(b.read("one.feed.speed") == 0.2);
        CHECK(b.read("two.feed.speed") == 0.4);
        b.put("two.feed", 0.5);
        b.step();
        CHECK(b.read("two.end.signal") == 1);
    }
    SUBCASE("wrong parameter") {
        p.add("station.three", {{"at", "[0 m, 9 m]"}, {"sped", "1 m/s"}});
        CHECK(errors(p) == "4:3 assembly 'station' has no parameter 'sped' [did you mean 'speed'?]\n");
    }
    SUBCASE("unknown parameter within") {
        p.definition.assemblies[0].devices[0].keys[2].value = text("$sped");
        CHECK(errors(p).find("assembly 'station' has no parameter 'sped'") != std::string::npos);
    }
    SUBCASE("in itself") {
        plant::DeviceDefinition self;
        self.kind = "station";
        self.name = "again";
        p.definition.assemblies[0].devices.push_back(self);
        CHECK(errors(p).find("nested too deep or holds itself") != std::string::npos);
    }
}

TEST_CASE("a control of an own kind is no word of orders, and every verb is among those words") {
    PlantText p;
    plant::OwnKindDefinition k;
    k.name = "box";
    k.block = "box";
    k.logic = {
        base::make_source("box.st",
                          "FUNCTION_BLOCK box VAR_INPUT wait, lid : BOOL; END_VAR VAR_OUTPUT open : BOOL; level : "
                          "LREAL; END_VAR VAR zero : LREAL; END_VAR open := wait OR lid; level := 1.0 / zero; "
                          "END_FUNCTION_BLOCK")};
    k.controls = {text("wait")};
    p.definition.own_kinds.push_back(k);
    p.add("box.one", {});
    CHECK(errors(p).find("'wait' is a word of orders and procedures; name the control otherwise") != std::string::npos);
    p.definition.own_kinds[0].controls = {text("lid")};
    Bench b(p);
    b.control("one", "lid", 1);
    b.step(3);
    CHECK(b.read("one.open") == 1);
    CHECK(b.read("one.actual_open") == 1);
    CHECK(b.read("one.level") == 0);  // no wire carries what is not finite
    const auto& words = plant::order_words();
    for (const std::string& verb : procedure::OrderReader::verbs()) {
        bool control = false;
        for (const plant::Kind& kind : plant::all_kinds()) control = control || kind.find_control(verb) != nullptr;
        const bool known = control || std::find(words.begin(), words.end(), verb) != words.end();
        CHECK_MESSAGE(known, verb);
    }
}

TEST_CASE(
    "a plant read anew: a parameter of a kind of one's own acts, its state stays; a block that lies otherwise starts "
    "anew") {
    Bench b(ovens(), 0.01);
    b.drive("left.heat", 1);
    b.drive("right.heat", 1);
    b.step(50);
    const double before = b.read("left.celsius");
    CHECK(before > 21);
    const auto built = [](const PlantText& text) {
        plant::PlantDefinition definition = text.definition;
        definition.step_s = 0.01;
        base::Diagnostics diagnostics;
        auto model = plant::build_plant(definition, diagnostics);
        REQUIRE_MESSAGE(model != nullptr, diagnostics.render());
        return model;
    };
    PlantText hotter = ovens();
    hotter.definition.devices[0].keys[0].value = text("#40");
    const auto model = built(hotter);
    plant::CarriedOver carried = plant::carry_over(*b.model, b.state, *model);
    CHECK(carried.lost.empty());
    const auto celsius = *plant::find_reading(*model, "left.celsius");
    CHECK(plant::read(*model, carried.state, celsius) == before);
    for (int k = 0; k < 10; ++k) plant::step(*model, carried.state);
    CHECK(plant::read(*model, carried.state, celsius) == Approx(before + 10 * 40 * 0.1));
    // The same size, but other variables in it.
    std::string swapped = kOven;
    swapped.replace(swapped.find("cycles : INT; last : BOOL;"), 26, "kycles : INT; last : BOOL;");
    for (std::size_t at = swapped.find(" cycles := cycles + 1"); at != std::string::npos;
         at = swapped.find(" cycles := cycles + 1"))
        swapped.replace(at, 21, " kycles := kycles + 1");
    const auto other = built(ovens(swapped.c_str()));
    plant::CarriedOver anew = plant::carry_over(*b.model, b.state, *other);
    CHECK(test::joined(anew.lost) == "device 'left' is another\ndevice 'right' is another\n");
    plant::sense(*other, anew.state);
    CHECK(plant::read(*other, anew.state, *plant::find_reading(*other, "left.celsius")) == 20.0);
}
