// why: from a tag back to the hand on a button, the defect on a wire, the order that nobody gave.
#include <nlohmann/json.hpp>
#include <set>

#include "core/procedure/procedure.hpp"
#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;
using nlohmann::json;

TEST_CASE("why: a stop leads to the button that was pressed, while it is held and afterwards") {
    Folder f;
    f.copy_example();
    const Result held = f.run("why glaze line_run -p 2_stop_and_estop --at 10.45s");
    CHECK(held.exit == 0);
    CHECK(held.out.starts_with("line_run is FALSE since 10.420 s\n"));
    CHECK(contains(held.out,
                   "    stop_pb is FALSE since 10.420 s\n      panel.stop.contact is FALSE since 10.415 s\n"
                   "        press panel.stop for 300 ms at 10.410 s\n"));
    // The button is out again: what holds the line off now is that nobody has pressed start.
    const Result after = f.run("why glaze line_run -p 2_stop_and_estop --at 11.2s");
    const std::size_t when = after.out.find("when it changed, at 10.420 s\n");
    REQUIRE(when != std::string::npos);
    CHECK_FALSE(contains(after.out.substr(0, when), "panel.stop"));
    CHECK(contains(after.out.substr(when), "press panel.stop for 300 ms at 10.410 s\n"));
    const json j = json::parse(f.run("why glaze line_run infeed_run -p 2_stop_and_estop --at 11.2s --json").out);
    CHECK(j.size() == 2);
    CHECK(j[0]["text"] == "line_run is FALSE since 10.420 s");
    CHECK(j[0]["when_it_changed"]["because"].size() == 1);
}

TEST_CASE("why: defects, hands and maps on the way are said; wrong names are hinted") {
    Folder f;
    write_small_yard(f);
    CHECK(
        contains(f.run("why . see_tile --do 'fault see stuck off' --for 1s").out, "    fault: see.signal stuck off\n"));
    const Result idle = f.run("why . run");
    CHECK(contains(idle.out, "kept off by"));
    CHECK(contains(idle.out, "start.contact is FALSE from the start\n"));
    CHECK(contains(f.run("why . a.speed --do 'drive a.run = TRUE' --for 1s").out, "a.run driven TRUE by hand"));
    f.replace("map.csv", "stop_pb,stop,", "stop_pb,stop,invert");
    CHECK(contains(f.run("why . run").out, "(map: invert)"));
    CHECK(contains(f.run("why . rum").err, "did you mean 'run'?"));
    CHECK(f.run("why .").exit == 2);
}

TEST_CASE("why: what wrote a value last; the causes in a failed step, and in live") {
    Folder f;
    fs::copy(fs::path(VYARD_SOURCE) / "examples/glaze-line", f.path() / "glaze", fs::copy_options::recursive);
    const Result step = f.run("why glaze dip_step -p 2_stop_and_estop --at 12s");
    CHECK_MESSAGE(
        contains(step.out, "written last at 11.450 s, by glaze/logic/35_dip_sequence.st:61:5: dip_step := LEAVE;\n"),
        step.out);
    const json j = json::parse(f.run("why glaze dip_step -p 2_stop_and_estop --at 12s --json").out);
    CHECK(j[0]["last_written"]["place"] == "glaze/logic/35_dip_sequence.st:61:5");
    CHECK(j[0]["last_written"]["time_s"] == 11.45);
    CHECK_FALSE(contains(f.run("why glaze alarm_code --at 1s").out, "written last"));

    write_small_yard(f);
    f.write("go.proc",
            "procedure \"Go\"\nstep \"Fails\"\n    press stop\n    wait 100 ms\n    press start for 100 ms\n    expect "
            "run within 50 ms\n");
    const Result r = f.run("prove --json");
    CHECK(r.exit == 1);
    const std::string text = f.run("prove").out;
    CHECK_MESSAGE(contains(text, "causes    run is FALSE from the start"), text);
    CHECK_MESSAGE(contains(text, "stop_pb is FALSE since"), text);
    CHECK_MESSAGE(contains(text, "press stop at"), text);
    CHECK(contains(r.out, "\"causes\""));
    const Result live = f.run("live --pace max", "press stop\nwait 200 ms\nwhy run\nquit\n");
    CHECK_MESSAGE(contains(live.out, "run is FALSE\n"), live.out);
    CHECK_MESSAGE(contains(live.out, "stop_pb is FALSE\n"), live.out);
    CHECK_MESSAGE(contains(live.out, "last order: press stop at 0.000 s\n"), live.out);
}

TEST_CASE("why: every tag of every example has an end to its causes, at rest and in a run") {
    for (const auto& entry : fs::directory_iterator(fs::path(VYARD_SOURCE) / "examples")) {
        if (!fs::exists(entry.path() / "yard.toml")) continue;
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(entry.path().string(), diagnostics);
        REQUIRE(yard.model != nullptr);
        session::Session s(yard.model);
        trace::Trace trace;
        trace::Recorder recorder(s, trace::usual_channels(*yard.model), {&trace});
        for (int n = 0; n < 2000; ++n) {
            s.step();
            recorder.observe(s);
        }
        recorder.finish(s);
        std::size_t explained = 0;
        for (const trace::Channel& c : trace.channels()) {
            CAPTURE(c.name);
            const procedure::Cause cause = procedure::cause_of(s, trace, {}, c.name, c.signal);
            const auto lines = procedure::lines_of(cause);
            CHECK(lines.size() < 2000);
            CHECK(contains(lines[0], c.name + " is "));
            CHECK(contains(lines[0], session::value_text(s, c.signal)));
            explained += cause.because.empty() ? 0U : 1U;
        }
        CHECK(explained > trace.channels().size() / 2);
    }
}

TEST_CASE("why: forces x rack x faults x stop x hands on one way from a button to a lamp, against a plain oracle") {
    Folder f;
    f.write("yard.toml",
            "[yard]\nplant = \"plant.toml\"\nmap = \"map.csv\"\n[controller.line]\nlogic = \"line.st\"\n"
            "[[controller.line.module]]\nname = \"DI1\"\nkind = \"digital input\"\naddress = \"%IX0.0\"\n"
            "[[controller.line.module]]\nname = \"DO1\"\nkind = \"digital output\"\naddress = \"%QX0.0\"\n");
    f.write("plant.toml", "[button.start]\n[lamp.l]\n");
    f.write("map.csv", "tag,point\nasked,start.contact\nlit,l.on\n");
    f.write("line.st",
            "VAR_GLOBAL asked AT %IX0.0 : BOOL; lit AT %QX0.0 : BOOL; END_VAR\nPROGRAM main lit := asked; "
            "END_PROGRAM\n");
    struct Disturbance {
        const char* order;
        const char* said;
    };
    const Disturbance drive{"drive l.on = FALSE", "l.on driven FALSE by hand"},
        lost_out{"fault rack.DO1 lost", "rack.DO1 lost"},
        force_out{"force lit = FALSE", "lit is forced: force lit = FALSE at"},
        stop{"stop line", "controller line is stopped"},
        force_in{"force asked = FALSE", "asked is forced: force asked = FALSE at"},
        lost_in{"fault rack.DI1 lost", "rack.DI1 lost"},
        stuck{"fault start.contact stuck off", "start.contact stuck off"};
    const Disturbance* const all[] = {&drive, &lost_out, &force_out, &stop, &force_in, &lost_in, &stuck};
    for (unsigned which = 0; which < 128; ++which) {
        std::string call = "why . l.on --do \"wait 50 ms\"";
        std::set<const Disturbance*> on;
        for (std::size_t i = 0; i < std::size(all); ++i) {
            if (((which >> i) & 1U) == 0) continue;
            on.insert(all[i]);
            call += std::string(" --do \"") + all[i]->order + "\"";
        }
        // From the lamp backwards: a force ends the way, and so does a controller that stands.
        std::set<const Disturbance*> expected;
        const auto meets = [&](const Disturbance& d) {
            if (on.contains(&d)) expected.insert(&d);
            return on.contains(&d);
        };
        meets(drive);
        meets(lost_out);
        const bool logic = !meets(force_out) && !meets(stop);
        if (logic && !meets(force_in)) {
            meets(lost_in);
            meets(stuck);
        }
        CAPTURE(call);
        const Result r = f.run(call + " --for 100ms");
        CHECK(r.exit == 0);
        CHECK(r.out.starts_with("l.on is FALSE"));
        for (const Disturbance* d : all)
            CHECK_MESSAGE(contains(r.out.substr(0, r.out.find("when it changed")), d->said) == expected.contains(d),
                          r.out);
    }
}
