// Drawn logic through the built program: checked, run, shown with its power flow, explained when it keeps something
// off.
#include <algorithm>

#include "core/trace/trace.hpp"
#include "figures/logic_figure.hpp"
#include "files/yard_file.hpp"
#include "program/support.hpp"

using namespace vyard::test;

namespace {

const char* const kPanel = R"(VAR_GLOBAL
    start_pb AT %IX0.0 : BOOL;
    stop_pb AT %IX0.1 : BOOL;
    run AT %QX0.0 : BOOL;
    horn AT %QX0.1 : BOOL;
END_VAR
PROGRAM panel
VAR
    delay : TON;
END_VAR
LADDER
// Stop is wired normally closed.
|  start_pb     stop_pb       run  |
+---| |-----+-----| |---------( )--+
|   run     |                      |
+---| |-----+                      |

|            delay                 |
|          +-------+               |
|   run    |  TON  |      horn     |
+---| |----|IN    Q|-------( )-----+
| T#50ms --|PT   ET|               |
|          +-------+               |
END_LADDER
END_PROGRAM
)";

}  // namespace

TEST_CASE("a drawn program is run and shown: heavy lines have power, and values stand below") {
    Folder f;
    f.write("panel.st", kPanel);
    f.write("table.csv", "time,tag,value\n0,stop_pb,TRUE\n0.02,start_pb,TRUE\n0.04,start_pb,FALSE\n");
    CHECK(contains(f.run("check panel.st").out, "panel.st: all well"));
    const std::string run = "show logic panel.st --scan 10ms --stimulus table.csv --for 100ms";
    const Result early = f.run(run + " --at 60ms");
    CHECK(early.exit == 0);
    CHECK(early.out == R"(panel at 0.060 s

rung 1: Stop is wired normally closed.
  ┃  start_pb     stop_pb       run  ┃
  ┣━━━┤ ├─────┳━━━━━┫ ┣━━━━━━━━━(●)━━┫
  ┃   run     ┃                      ┃
  ┗━━━┫ ┣━━━━━┛                      ┃

rung 2
  ┃            delay                 │
  ┃          ┌───────┐               │
  ┃   run    │  TON  │      horn     │
  ┣━━━┫ ┣━━━━│IN    Q│───────( )─────┤
  ┃ T#50ms ──│PT   ET│               │
  ┃          └───────┘               │
    delay.Q = FALSE, delay.ET = T#40ms
)");
    const Result forced =
        f.run("show logic panel.st --scan 10ms --do 'force stop_pb = TRUE' --do 'force run = TRUE' --for 20ms");
    CHECK(contains(forced.out, "panel at 0.020 s\n"));
    CHECK(contains(forced.out, "  run forced to TRUE\n"));
    CHECK(contains(forced.out, "┫ ┣─────────( )"));  // the logic says FALSE
    const Result plain = f.run(run + " --unit panel --ascii");
    CHECK(plain.exit == 0);
    CHECK(contains(plain.out, "  #===| |-----#=====[ ]=========(*)==#\n"));
    CHECK(contains(plain.out, "  #===[ ]====|IN    Q|=======(*)=====#\n"));
    CHECK(contains(plain.out, "delay.Q = TRUE"));
}

TEST_CASE("show says what it cannot: no such unit, nothing drawn") {
    Folder f;
    f.write("panel.st", kPanel);
    f.write("text.st", "PROGRAM main VAR a : BOOL; END_VAR a := NOT a; END_PROGRAM");
    const Result unit = f.run("show logic panel.st --unit panle");
    CHECK(unit.exit == 2);
    CHECK(unit.err == "error: no unit is named 'panle'\n    hint: did you mean 'panel'?\n");
    const Result none = f.run("show logic text.st");
    CHECK(none.exit == 2);
    CHECK(contains(none.err, "error: nothing of this logic is drawn"));
}

TEST_CASE("a step that fails says which contact of which rung is open") {
    Folder f;
    f.write("panel.st", kPanel);
    f.write("plant.toml", "[lamp.green]\n");
    f.write("map.csv", "tag,point\nrun,green.on\n");
    f.write("p.proc", "procedure \"p\"\nstep \"it starts\"\n    expect run within 100 ms\n");
    f.write("yard.toml",
            "[yard]\nname = \"Panel\"\nplant = \"plant.toml\"\nmap = \"map.csv\"\nprocedures = [\"p.proc\"]\n"
            "[controller.line]\nlogic = [\"panel.st\"]\n");
    const Result proved = f.run("prove");
    CHECK(proved.exit == 1);
    CHECK(contains(proved.out, "kept off  run: start_pb OR run; stop_pb is open (rung 1 of panel, panel.st:13:31)"));
    CHECK(contains(f.run("tags --at-rest").out, "horn  delay.Q (IN: run is open)   (rung 2 of panel, panel.st:20:27)"));
}

TEST_CASE("mistakes in a drawing are shown in it") {
    Folder f;
    std::string wrong = kPanel;
    wrong.replace(wrong.find("+---| |-----+-----| |---------( )--+"), 36, "+---| |-----+-----| |---------( )  +");
    f.write("panel.st", wrong);
    const Result checked = f.run("check panel.st");
    CHECK(checked.exit == 2);
    CHECK(contains(checked.err,
                   "panel.st:14:31: error: the coil 'run' does not reach the right rail [syntax]\n"
                   "    +---| |-----+-----| |---------( )  +\n"
                   "                                  ^~~\n"));
}

TEST_CASE("logic is drawn as figures in each format: names, values where a run is asked for, forces") {
    Folder f;
    f.write("panel.st", kPanel);
    f.write("table.csv", "time,tag,value\n0,stop_pb,TRUE\n0.02,start_pb,TRUE\n0.04,start_pb,FALSE\n");
    CHECK(f.run("draw logic panel.st --out plain.svg").out == "wrote plain.svg\n");
    const std::string run = " --scan 10ms --stimulus table.csv --for 100ms --at 60ms";
    CHECK(f.run("draw logic panel.st --do 'force horn = TRUE' --addresses --out state.svg" + run).exit == 0);
    for (const char* file : {"a.png", "b.pdf", "c.svg", "d.svg"})
        CHECK(f.run(std::string("draw logic panel.st --out ") + file + run).exit == 0);
    CHECK(f.read("a.png").starts_with("\x89PNG"));
    CHECK(f.read("b.pdf").starts_with("%PDF"));
    CHECK(f.read("c.svg") == f.read("d.svg"));
    CHECK(f.read("plain.svg") != f.read("c.svg"));
    CHECK(f.run("draw logic panel.st --unit panle --out e.svg").exit == 2);
    CHECK(!f.has("e.svg"));
}

TEST_CASE("what changed since an earlier time is marked, in drawings, text and charts") {
    Folder f;
    f.write("panel.st", kPanel);
    f.write("table.csv", "time,tag,value\n0,stop_pb,TRUE\n0.02,start_pb,TRUE\n0.04,start_pb,FALSE\n");
    const std::string run = "show logic panel.st --scan 10ms --stimulus table.csv --for 200ms";
    const Result changed = f.run(run + " --at 90ms --changes 30ms");
    CHECK(changed.out.starts_with("panel at 0.090 s; changed since 0.030 s\n"));
    CHECK(contains(changed.out, "    changed: start_pb closed -> open\n"));
    CHECK(contains(changed.out, "changed: delay.Q FALSE -> TRUE, delay.ET T#10ms -> T#50ms, horn FALSE -> TRUE\n"));
    CHECK_FALSE(contains(f.run(run + " --at 90ms --changes 85ms").out, "changed: "));
    CHECK(f.run(run + " --at 90ms --changes 90ms").err ==
          "error: --changes names a time before --at\n    hint: --at 12.5s --changes 12s\n");
    CHECK(contains(f.run(run + " --changes 5s").err, "error: the run ends at 0.200 s, before --changes"));
    f.write("c.st",
            "VAR_GLOBAL go AT %IX0.0 : BOOL; n : INT; END_VAR\nPROGRAM c\nINITIAL_STEP idle: END_STEP\nSTEP work: "
            "END_STEP\nTRANSITION FROM idle TO work := go; END_TRANSITION\nTRANSITION FROM work TO idle := NOT go; "
            "END_TRANSITION\nEND_PROGRAM\nPROGRAM t\n    n := n + 1;\nEND_PROGRAM\n");
    f.write("go.csv", "time,tag,value\n0.02,go,TRUE\n");
    const std::string both =
        f.run("show logic c.st --scan 10ms --stimulus go.csv --for 50ms --changes 10ms --ascii --unit c,t").out;
    CHECK(contains(both, "  [ ] idle (was active)\n"));
    CHECK(contains(both, "  [*] work, active T#30ms (was not active)\n"));
    CHECK(contains(both, "(go = TRUE (was FALSE))"));
    CHECK(contains(both, "n := n + 1; | n = 6 (was 2)\n"));
    CHECK(contains(f.run("draw plan " VYARD_SOURCE "/examples/glaze-line --changes 1s --out p.svg").err,
                   "error: --changes is for logic"));
}

TEST_CASE("figures of logic mark what changed and what was never exercised, and say what tags are") {
    Folder f;
    std::string text = kPanel;
    text.replace(text.find("BOOL;"), 5, "BOOL;  // the green one");
    f.write("panel.st", text);
    vyard::base::Diagnostics diagnostics;
    vyard::files::LoadOptions options;
    options.coverage = true;
    f.write("table.csv", "time,tag,value\n0.02,stop_pb,TRUE\n");
    options.stimulus = (f / "table.csv").string();
    const auto yard = vyard::files::load_logic((f / "panel.st").string(), {}, diagnostics, options);
    REQUIRE(yard.model != nullptr);
    vyard::session::Session session(yard.model), before = session;
    vyard::trace::CoverageWatch watch(*yard.model);
    const auto texts = [&](vyard::figures::LogicFigure what) {
        std::string out = "|";
        const auto figure = vyard::figures::draw_logic(session, {{0, "panel", "panel"}}, what);
        for (const auto& w : figure->written()) out += w.text + "|";
        return out;
    };
    for (int i = 0; i < 20; ++i) {
        session.step();
        watch.observe(session);
    }
    vyard::figures::LogicFigure what;
    CHECK_FALSE(contains(texts(what), "the green one"));
    what.descriptions = true;
    CHECK(contains(texts(what), "|the green one|"));
    what = {};
    what.coverage = &watch.coverages();
    // Stop was open before the first scan; start and run were never closed.
    const std::string never = texts(what);
    CHECK(contains(never, "|never closed|"));
    CHECK_FALSE(contains(never, "|never taken|"));
    what = {};
    what.state = true;
    what.before = &before;
    CHECK(contains(texts(what), "|was open|"));
}

TEST_CASE("units in text and charts are shown with their values and active steps") {
    Folder f;
    f.write("c.st", R"(VAR_GLOBAL go AT %IX0.0 : BOOL; lamp AT %QX0.0 : BOOL; n : INT; END_VAR
PROGRAM c
INITIAL_STEP idle: END_STEP
STEP work: lamp(N); count(P); END_STEP
TRANSITION FROM idle TO work := go; END_TRANSITION
TRANSITION FROM work TO idle := NOT go AND n > 0; END_TRANSITION
ACTION count:
    n := n + 1; // each time
END_ACTION
END_PROGRAM
PROGRAM t
VAR doubled : INT; on : BOOL; END_VAR
    doubled := n * 2;
    on := go;
END_PROGRAM
)");
    f.write("table.csv", "time,tag,value\n0.02,go,TRUE\n");
    const std::string run = "show logic c.st --scan 10ms --stimulus table.csv --for 50ms --unit ";
    CHECK(f.run(run + "c --ascii").out == R"(c at 0.050 s

  [ ] idle
      -> work   go
  [*] work, active T#30ms: N lamp, P count
      -> idle   NOT go AND n > 0   (go = TRUE, n = 1)

    7  ACTION count:
    8      n := n + 1; // each time | n = 1
    9  END_ACTION
)");
    CHECK(f.run(run + "t").out == R"(t at 0.050 s

   13      doubled := n * 2; │ doubled = 2, n = 1
   14      on := go;         │ on = TRUE, go = TRUE
)");
    CHECK(f.run("draw logic c.st --scan 10ms --stimulus table.csv --for 50ms --out c.svg").exit == 0);
}

TEST_CASE("an input with R_EDGE is its edge in the drawing, in the text, and in the code alike") {
    Folder f;
    f.write("a.st",
            "VAR_GLOBAL go : BOOL; END_VAR\n"
            "FUNCTION_BLOCK drawn\nVAR_INPUT a : BOOL R_EDGE; END_VAR\nVAR_OUTPUT hit : BOOL; END_VAR\nLADDER\n"
            "|  a          hit  |\n+--| |--------( )--+\nEND_LADDER\nEND_FUNCTION_BLOCK\n"
            "FUNCTION_BLOCK written\nVAR_INPUT a : BOOL R_EDGE; END_VAR\nVAR_OUTPUT hit : BOOL; END_VAR\n"
            "hit := a AND TRUE;\nEND_FUNCTION_BLOCK\n"
            "PROGRAM p\nVAR x : drawn; y : written; END_VAR\nx(a := go);\ny(a := go);\nEND_PROGRAM\n");
    f.write("s.csv", "time,tag,value\n0.05,go,TRUE\n");
    const auto shown = [&](const std::string& at) {
        return f.run("show logic a.st --ascii --scan 10ms --stimulus s.csv --for 100ms --unit p.x,p.y --at " + at).out;
    };
    const std::string rises = shown("50ms"), stays = shown("90ms");
    CHECK_MESSAGE(contains(rises, "hit = TRUE, a = TRUE"), rises);
    CHECK_MESSAGE(contains(stays, "hit = FALSE, a = FALSE"), stays);
    CHECK_MESSAGE(contains(rises, "==[ ]=="), rises);
    CHECK_MESSAGE(contains(stays, "==| |--"), stays);
}
