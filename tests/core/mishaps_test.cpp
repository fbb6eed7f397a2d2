// Each mishap of each kind: what brings it about, and what comes close and does not.
#include <functional>
#include <set>

#include "core/support.hpp"

using namespace vyard;
using test::Bench;
using test::PlantText;

namespace {

struct Case {
    const char* mishap;  ///< "kind.mishap"; the device is called d.
    std::function<void(PlantText&)> build;
    std::function<void(Bench&)> happens;
    std::function<void(Bench&)> does_not;
};

const PlantText::Keys kBelt = {{"at", "[0 m, 0 m]"}, {"length", "4 m"}, {"speed", "0.4 m/s"}};
const PlantText::Keys kTank = {
    {"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}, {"level", "0.5 m"}};

PlantText::Keys with(PlantText::Keys keys, const PlantText::Keys& more) {
    keys.insert(keys.end(), more.begin(), more.end());
    return keys;
}

/// Two directions at once, or one after the other with a pause.
std::function<void(Bench&)> both(const char* a, const char* b) {
    return [=](Bench& bench) {
        bench.drive(a, 1);
        bench.drive(b, 1);
        bench.run(0.1);
    };
}
std::function<void(Bench&)> changed_over(const char* a, const char* b, double pause_s) {
    return [=](Bench& bench) {
        bench.drive(a, 1);
        bench.run(1);
        bench.drive(a, 0);
        if (pause_s > 0.0) bench.run(pause_s);
        bench.drive(b, 1);
        bench.run(0.5);
    };
}
std::function<void(Bench&)> switched(const char* point, int times, double each_s) {
    return [=](Bench& bench) {
        for (int i = 0; i < times; ++i) {
            bench.drive(point, 1);
            bench.run(each_s);
            bench.drive(point, 0);
            bench.run(each_s);
        }
    };
}
std::function<void(Bench&)> driven(const char* point, double value, double for_s = 0.1) {
    return [=](Bench& bench) {
        bench.drive(point, value);
        bench.run(for_s);
    };
}
std::function<void(PlantText&)> one(const char* kind, const PlantText::Keys& keys) {
    return [=](PlantText& p) { p.brick().add(fmt::format("{}.d", kind), keys); };
}

/// A belt b with what is mounted on it in its middle.
std::function<void(PlantText&)> on_belt(const char* kind, const PlantText::Keys& keys) {
    return [=](PlantText& p) {
        p.brick().add("belt.b", kBelt).add(fmt::format("{}.d", kind), with({{"on", "b"}, {"at", "2 m"}}, keys));
    };
}
std::function<void(Bench&)> with_item(const char* surface, double along_m, std::function<void(Bench&)> then) {
    return [=](Bench& bench) {
        REQUIRE(bench.put(surface, along_m));
        bench.run(0.1);
        then(bench);
    };
}

const std::vector<Case>& cases() {
    const auto move_axis = [](double target_m, bool stop_enable) {
        return [=](Bench& b) {
            b.drive("d.enable", 1);
            b.drive("d.home", 1);
            b.run(5);
            b.drive("d.target", target_m);
            b.drive("d.move", 1);
            b.run(stop_enable ? 0.3 : 8.0);
            b.drive("d.enable", 0);
            b.run(0.1);
        };
    };
    const auto jog = [](double for_s) {
        return [=](Bench& b) {
            b.drive("d.enable", 1);
            b.drive("d.forward", 1);
            b.run(for_s);
            b.drive("d.forward", 0);
            b.run(1);
        };
    };
    const PlantText::Keys reversible = with(kBelt, {{"control", "reversible"}});
    const auto gantry = [](PlantText& p) {
        p.brick()
            .add("belt.b", kBelt)
            .add("gantry.d",
                 {{"at", "[0.5 m, 0 m]"}, {"elevation", "1.5 m"}, {"x_travel", "2 m"}, {"z_travel", "1 m"}});
    };
    const auto carried = [](double let_go_at_m, bool wall) {
        return [=](Bench& b) {
            REQUIRE(b.put("b", 0.5));
            if (wall) REQUIRE(b.put("b", 1.5));
            b.drive("d.down", 0.62);
            b.run(4);
            b.drive("d.grip", 1);
            b.run(1);
            REQUIRE(b.read("d.holding") == 1);
            b.drive("d.down", let_go_at_m);
            b.run(4);
            if (wall) b.drive("d.x", 1.0);
            b.run(4);
            b.drive("d.grip", wall ? 1 : 0);
            b.run(1);
        };
    };
    static const std::vector<Case> all = {
        {"belt.both_directions", one("belt", reversible), both("d.forward", "d.reverse"), driven("d.forward", 1)},
        {"belt.reversed_at_once", one("belt", reversible), changed_over("d.forward", "d.reverse", 0.0),
         changed_over("d.forward", "d.reverse", 0.06)},
        {"belt.contactor_chatters", one("belt", kBelt), switched("d.run", 6, 0.05), switched("d.run", 6, 0.5)},
        {"belt.item_fell", one("belt", kBelt), with_item("d", 3.5, driven("d.run", 1, 4)),
         with_item("d", 0.5, driven("d.run", 1, 4))},
        {"belt.cut_off", one("belt", with(kBelt, {{"control", "setpoint"}})), driven("d.setpoint", 0.41),
         driven("d.setpoint", -0.4)},
        {"roller_bed.item_fell", one("roller_bed", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"accumulation", "none"}}),
         with_item("d", 0.5, driven("d.run", 1, 4)), with_item("d", 0.5, driven("d.run", 0, 4))},
        {"motor.both_directions", one("motor", {{"starter", "reversing"}}), both("d.forward", "d.reverse"),
         changed_over("d.forward", "d.reverse", 0.0)},
        {"motor.reversed_at_once", one("motor", {{"starter", "reversing"}, {"run_down", "1 s"}}),
         changed_over("d.forward", "d.reverse", 0.3), changed_over("d.forward", "d.reverse", 1.1)},
        {"motor.contactor_chatters", one("motor", {}), switched("d.run", 6, 0.05), switched("d.run", 20, 0.3)},
        {"drive.cut_off", one("drive", {}), driven("d.setpoint", 101), driven("d.setpoint", -100)},
        {"drive.beyond_range", one("drive", {}),
         [](Bench& b) {
             plant::set_point_fault(*b.model, b.state, b.model->find_point("d.speed"), plant::Defect::Gain, 1.2);
             b.drive("d.enable", 1);
             b.drive("d.setpoint", 100);
             b.run(2);
             // A defect of its wire is none of the drive: what it measures is what counts.
             CHECK(b.read("plant.mishaps") == 0);
             b.state.drive_ratio[0] = 1.5;
             b.state.wires[static_cast<std::size_t>(b.model->find_point("d.speed"))] = 150;
             b.state.defects_of(b.model->find_point("d.speed"))->put = 150;
             plant::watch_ranges(*b.model, b.state);
         },
         [](Bench& b) {
             b.drive("d.enable", 1);
             b.drive("d.setpoint", 100);
             b.run(2);
         }},
        {"lift.both_directions", one("lift", {{"at", "[0 m, 0 m]"}, {"travel", "1 m"}}), both("d.up", "d.down"),
         driven("d.up", 1)},
        {"lift.reversed_at_once", one("lift", {{"at", "[0 m, 0 m]"}, {"travel", "1 m"}}),
         changed_over("d.up", "d.down", 0.0), changed_over("d.up", "d.down", 0.1)},
        {"lift.driven_against_end", one("lift", {{"at", "[0 m, 0 m]"}, {"travel", "1 m"}}), driven("d.up", 1, 5.6),
         driven("d.up", 1, 5.4)},
        {"lift.item_across_edge",
         [](PlantText& p) {
             p.brick().add("belt.b", kBelt).add("lift.d", {{"after", "b"}, {"travel", "1 m"}});
         },
         with_item("b", 3.95, driven("d.up", 1, 0.5)), with_item("d", 0.3, driven("d.up", 1, 0.5))},
        {"lift.item_fell", one("lift", {{"at", "[0 m, 0 m]"}, {"travel", "1 m"}}),
         with_item("d", 0.3, driven("d.run", 1, 4)), with_item("d", 0.3, driven("d.up", 1, 4))},
        {"cylinder.both_coils", one("cylinder", {{"stroke", "100 mm"}, {"valve", "double solenoid"}}),
         both("d.extend", "d.retract"), driven("d.extend", 1)},
        {"cylinder.item_across_edge",
         [](PlantText& p) {
             p.brick().add("belt.b", kBelt).add("belt.c", {{"after", "b"}, {"length", "1 m"}, {"speed", "0.4 m/s"}});
             p.add("cylinder.d", {{"stroke", "100 mm"}, {"lifts", "c"}});
         },
         with_item("b", 3.95, driven("d.extend", 1)), with_item("c", 0.5, driven("d.extend", 1))},
        {"rotary_actuator.both_coils", one("rotary_actuator", {{"valve", "double solenoid"}}), both("d.turn", "d.back"),
         driven("d.back", 1)},
        {"pusher.item_squeezed",
         [](PlantText& p) {
             p.brick().add("belt.b", kBelt).add("pusher.d", {{"on", "b"}, {"at", "2 m"}, {"stroke", "350 mm"}});
             p.add("wall.w", {{"at", "[2 m, -0.25 m]"}, {"length", "1 m"}, {"thickness", "100 mm"}, {"height", "2 m"}});
         },
         with_item("b", 2.0, driven("d.extend", 1, 2)), with_item("b", 1.0, driven("d.extend", 1, 2))},
        {"pusher.item_struck", on_belt("pusher", {}), with_item("b", 2.2, driven("d.extend", 1, 1)),
         with_item("b", 2.05, driven("d.extend", 1, 1))},
        {"stopper.item_obstructs", on_belt("stopper", {}), with_item("b", 2.05, driven("d.raise", 1)),
         with_item("b", 2.2, driven("d.raise", 1))},
        {"gate_arm.item_obstructs", on_belt("gate_arm", {{"time", "0.5 s"}}),
         [](Bench& b) {
             b.drive("d.raise", 1);
             b.run(1);
             REQUIRE(b.put("b", 2.0));
             b.drive("d.raise", 0);
             b.run(1);
         },
         [](Bench& b) {
             b.drive("d.raise", 1);
             b.run(1);
             REQUIRE(b.put("b", 1.5));
             b.drive("d.raise", 0);
             b.run(1);
         }},
        {"turntable.turn_blocked",
         [](PlantText& p) {
             p.brick().add("turntable.d", {{"at", "[0 m, 0 m]"}});
             p.add("wall.w",
                   {{"at", "[0.3 m, 0.28 m]"}, {"length", "1 m"}, {"thickness", "100 mm"}, {"height", "2 m"}});
         },
         with_item("d", 0.45, driven("d.turn", 1, 2.5)), driven("d.turn", 1, 2.5)},
        {"turntable.item_across_edge",
         [](PlantText& p) {
             p.brick().add("belt.b", kBelt).add("turntable.d", {{"after", "b"}});
         },
         with_item("b", 3.95, driven("d.turn", 1)), with_item("d", 0.3, driven("d.turn", 1))},
        {"turntable.item_fell", one("turntable", {{"at", "[0 m, 0 m]"}}), with_item("d", 0.3, driven("d.run", 1, 4)),
         with_item("d", 0.3, driven("d.turn", 1, 4))},
        {"index_table.turn_blocked",
         [](PlantText& p) {
             p.brick().add("index_table.d", {{"at", "[0 m, 0 m]"}, {"elevation", "0.8 m"}, {"radius", "0.5 m"}});
             p.add("wall.w", {{"at", "[0 m, 0.55 m]"}, {"length", "1 m"}, {"thickness", "100 mm"}, {"height", "2 m"}});
         },
         [](Bench& b) {
             // Its corner meets the wall on the way round.
             plant::Item i = plant::make_item(*b.model, b.state, 0, b.model->device(b.device("d")).surface, 0.5, 0.0);
             i.x_m = 0.43;
             i.y_m = 0.0;
             b.state.next_item++;
             b.state.items.push_back(i);
             b.state.near.forget();
             b.drive("d.index", 1);
             b.run(2);
         },
         driven("d.index", 1, 2)},
        {"index_table.item_fell",
         one("index_table", {{"at", "[0 m, 0 m]"}, {"elevation", "0.8 m"}, {"radius", "0.5 m"}}),
         [](Bench& b) {
             REQUIRE(b.put("d", 0.5));
             b.run(0.1);
             b.item(0).x_m = 0.6;
             b.run(2);
         },
         with_item("d", 0.5, driven("d.index", 1, 2))},
        {"axis.driven_against_end", one("axis", {{"travel", "1 m"}}), jog(4.0), jog(1.0)},
        {"axis.disabled_in_motion", one("axis", {{"travel", "1 m"}}), move_axis(0.9, true), move_axis(0.9, false)},
        {"axis.both_directions", one("axis", {{"travel", "1 m"}}), both("d.forward", "d.reverse"), jog(1.0)},
        {"axis.cut_off", one("axis", {{"travel", "1 m"}}), driven("d.target", 1.01), driven("d.target", 1.0)},
        {"gantry.let_go_in_the_air", gantry, carried(0.4, false), carried(0.615, false)},
        {"gantry.driven_against", gantry, carried(0.6, true), carried(0.615, false)},
        {"gantry.cut_off", gantry, driven("d.x", 2.1), driven("d.x", 2.0)},
        {"guard_door.motion_while_open", [](PlantText& p) { p.brick().add("belt.b", kBelt).add("guard_door.d", {}); },
         [](Bench& b) {
             b.drive("b.run", 1);
             b.control("d", "open");
             b.run(0.6);
             CHECK(plant::mishap_text(*b.model, b.state.mishaps.at(0)).ends_with("; by 'b'"));
         },
         [](Bench& b) {
             b.drive("b.run", 1);
             b.control("d", "open");
             b.run(0.4);
             b.drive("b.run", 0);
             b.run(2);
         }},
        {"pump.dry_running",
         [](PlantText& p) {
             p.add("tank.t", with(kTank, {{"level", "2 mm"}})).add("pump.d", {{"from", "t"}, {"flow", "1 l/s"}});
             p.definition.devices[0].keys.erase(p.definition.devices[0].keys.begin() + 4);
         },
         driven("d.run", 1, 5), driven("d.run", 1, 1)},
        {"pump.moves_nothing",
         [](PlantText& p) {
             p.add("tank.t", kTank).add("pump.d", {{"from", "t"}, {"head", "5 m"}});
         },
         [](Bench& b) {
             b.fault("d", "blocked");
             b.drive("d.run", 1);
             b.run(2);
         },
         driven("d.run", 1, 5)},
        {"pump.contactor_chatters", [](PlantText& p) { p.add("pump.d", {}); }, switched("d.run", 6, 0.05),
         switched("d.run", 6, 0.5)},
        {"pump.cut_off", one("pump", {{"control", "setpoint"}}), driven("d.speed", 100.1), driven("d.speed", 0.0)},
        {"bulk_feeder.cut_off",
         [](PlantText& p) {
             p.add("hopper.h", {{"at", "[0 m, 0 m]"}, {"volume", "100 l"}});
             p.add("bulk_feeder.d", {{"from", "h"}, {"control", "setpoint"}});
         },
         driven("d.speed", 101), driven("d.speed", 100)},
        {"valve.cut_off", one("valve", {{"control", "proportional"}}), driven("d.opening", -1),
         driven("d.opening", 50)},
        {"heater.dry",
         [](PlantText& p) {
             p.add("tank.t", {{"at", "[0 m, 0 m]"}, {"length", "1 m"}, {"width", "1 m"}, {"depth", "1 m"}});
             p.add("heater.d", {{"tank", "t"}, {"power", "1 kW"}});
         },
         driven("d.on", 1), driven("d.on", 0)},
        {"heater.boiling",
         [](PlantText& p) {
             p.add("tank.t", with(kTank, {{"temperature", "99 degC"}}));
             p.add("heater.d", {{"tank", "t"}, {"power", "5000 kW"}, {"time_constant", "0 s"}});
         },
         driven("d.on", 1, 5), driven("d.on", 1, 0.2)},
        {"heater.cut_off",
         [](PlantText& p) {
             p.add("tank.t", kTank).add("heater.d", {{"tank", "t"}, {"power", "1 kW"}, {"control", "proportional"}});
         },
         driven("d.power", 100.5), driven("d.power", 100)},
        {"tank.running_over",
         [](PlantText& p) { p.add("tank.d", kTank).add("valve.v", {{"into", "d"}, {"flow", "100 l/s"}}); },
         driven("v.open", 1, 6), driven("v.open", 1, 3)},
        {"hopper.spilling",
         [](PlantText& p) {
             p.brick().add("belt.b", kBelt);
             p.add("hopper.d", {{"at", "[4.2 m, 0 m]"}, {"volume", "1 l"}, {"content", "0.7 l"}});
         },
         [](Bench& b) {
             REQUIRE(b.put("b", 3.5));
             REQUIRE(b.put("b", 3.0));
             b.drive("b.run", 1);
             b.run(5);
         },
         with_item("b", 3.5, driven("b.run", 1, 5))},
        {"outfeed.wrong_item",
         [](PlantText& p) {
             p.brick().add("item.tile", {{"size", "[200 mm, 100 mm, 80 mm]"}});
             p.add("belt.b", kBelt).add("outfeed.d", {{"after", "b"}, {"accepts", "brick"}});
         },
         [](Bench& b) {
             REQUIRE(b.put("b", 3.5, 1));
             b.drive("b.run", 1);
             b.run(3);
             CHECK(b.read("d.wrong") == 1);
             CHECK(b.read("d.counted") == 1);
         },
         with_item("b", 3.5, driven("b.run", 1, 3))},
    };
    return all;
}

/// Mishaps that several kinds share work the same way in all; these kinds have them and no case of their own.
const std::set<std::string> kShared = {"item_fell", "cut_off", "beyond_range", "driven_against_end",
                                       "disabled_in_motion"};

}  // namespace

TEST_CASE("each mishap happens when it should, once, and not when it only comes close") {
    for (const Case& c : cases()) {
        const std::string mishap = c.mishap;
        CAPTURE(mishap);
        const std::string name = "d" + mishap.substr(mishap.find('.'));
        PlantText p;
        c.build(p);
        Bench b(p);
        CHECK(b.read(name) == 0);
        CHECK(b.read("plant.mishap") == 0);
        c.happens(b);
        CHECK(b.read(name) == 1);
        CHECK(b.read("plant.mishap") == 1);
        CHECK(b.read("plant.mishaps") >= 1);
        Bench quiet(p);
        c.does_not(quiet);
        CHECK(quiet.read(name) == 0);
    }
}

TEST_CASE("each mishap of each kind has a case") {
    std::set<std::string> tried;
    for (const Case& c : cases()) tried.insert(c.mishap);
    for (const plant::Kind& kind : plant::all_kinds()) {
        for (const plant::MishapSpec& m : kind.mishaps) {
            if (kShared.contains(m.name)) continue;
            CHECK_MESSAGE(tried.contains(kind.name + "." + m.name), (kind.name + "." + m.name));
        }
        // A name means one thing in a kind.
        std::multiset<std::string> names;
        for (const auto& x : kind.points) names.insert(x.name);
        for (const auto& x : kind.actuals) names.insert(x.name);
        for (const auto& x : kind.mishaps) names.insert(x.name);
        for (const auto& x : kind.mishaps) CHECK_MESSAGE(names.count(x.name) == 1, (kind.name + "." + x.name));
    }
}

TEST_CASE("what falls says what it fell off, and who pushed it") {
    PlantText p;
    p.brick().add("belt.b", kBelt).add("pusher.push", {{"on", "b"}, {"at", "2 m"}, {"stroke", "500 mm"}});
    Bench b(p);
    REQUIRE(b.put("b", 2.0));
    b.drive("push.extend", 1);
    b.run(3);
    REQUIRE(b.state.mishaps.size() == 1);
    CHECK(plant::mishap_name(*b.model, b.state.mishaps[0]) == "b.item_fell");
    CHECK(plant::mishap_text(*b.model, b.state.mishaps[0]) == "an item fell off it to the floor: brick 1; by 'push'");
    CHECK(b.state.falls.empty());
    // Onto a lower belt is no fall to the floor.
    PlantText steps;
    steps.brick().add("belt.b", kBelt);
    steps.add("belt.c", {{"at", "[4 m, 0 m]"}, {"elevation", "0.5 m"}, {"length", "2 m"}, {"speed", "0.4 m/s"}});
    Bench s(steps);
    REQUIRE(s.put("b", 3.5));
    s.drive("b.run", 1);
    s.run(4);
    CHECK(s.read("plant.mishap") == 0);
    CHECK(s.state.falls.empty());
    CHECK(s.read("plant.items_on_floor") == 0);
}

TEST_CASE("a mishap that goes on counts once, with its length; one that is allowed does not count") {
    for (const bool allowed : {false, true}) {
        PlantText p;
        p.add("tank.t", kTank).add("valve.v", {{"into", "t"}, {"flow", "100 l/s"}});
        if (allowed) p.definition.allowed.push_back({"t.running_over", "a gutter takes it", {}});
        const auto model = test::make_model("VAR_GLOBAL open AT %QX0.0 : BOOL; END_VAR PROGRAM p END_PROGRAM", p,
                                            {{"open", "v.open", ""}});
        session::Session s(model);
        test::force(s, "open", "TRUE");
        while (s.now() < std::chrono::seconds(8)) s.step();
        const session::Session fork = s;
        s.remove_all_forces();
        while (s.now() < std::chrono::seconds(10)) s.step();
        test::force(s, "open", "TRUE");
        while (s.now() < std::chrono::seconds(12)) s.step();
        const auto notes = session::mishaps_of(s);
        REQUIRE(notes.size() == 1);
        CHECK(notes[0].name == "t.running_over");
        CHECK(notes[0].times == 2);
        CHECK(notes[0].goes_on);
        // Half a cubic metre at a tenth of one a second, and the valve's stroke of 0.3 s.
        CHECK(base::to_seconds(notes[0].first) == doctest::Approx(5.15).epsilon(0.01));
        CHECK(notes[0].seconds == doctest::Approx(3.15 + 2.0).epsilon(0.03));
        CHECK(notes[0].allowed == (allowed ? "a gutter takes it" : ""));
        CHECK(session::mishaps_counted(s) == (allowed ? 0 : 2));
        CHECK(session::read(s, *session::find_signal(*model, "plant.mishap")) == (allowed ? 0 : 1));
        CHECK(session::read(s, *session::find_signal(*model, "t.running_over")) == 1);
        // A copy has them as they were.
        REQUIRE(session::mishaps_of(fork).size() == 1);
        CHECK(session::mishaps_of(fork)[0].times == 1);
    }
}

TEST_CASE("what is allowed is looked up, with hints") {
    PlantText p;
    p.brick().add("belt.infeed", kBelt);
    const auto problems = [&](const char* mishap) {
        PlantText q = p;
        q.definition.allowed.push_back({mishap, "because", {}});
        base::Diagnostics diagnostics;
        plant::check_plant(q.definition, diagnostics);
        return test::joined(test::lines_of(diagnostics));
    };
    CHECK(problems("infeed.item_fell").empty());
    CHECK(problems("infed.item_fell") ==
          "0:0 'infed.item_fell' is not a mishap of a device [did you mean 'infeed'?]\n");
    CHECK(problems("infeed.item_fel") == "0:0 a belt 'infeed' has no mishap 'item_fel' [did you mean 'item_fell'?]\n");
    CHECK(problems("item_fell").find("write DEVICE.MISHAP") != std::string::npos);
}
