// Logic files on their own: checked, run from a table, watched, explained; the reference of blocks.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

namespace {

const char* const kBlend =
    "TYPE phase : (resting, dosing, stirring); END_TYPE\n"
    "PROGRAM main\n"
    "VAR\n"
    "    start : BOOL := FALSE;\n"
    "    weight : REAL := 0.0;\n"
    "    now : phase;\n"
    "    stir_time : TON;\n"
    "    note : STRING[20] := 'idle, waiting';\n"
    "END_VAR\n"
    "    stir_time(IN := now = stirring, PT := T#30ms);\n"
    "    CASE now OF\n"
    "        resting: IF start THEN now := dosing; note := 'dosing'; END_IF;\n"
    "        dosing: IF weight >= 10.0 THEN now := stirring; END_IF;\n"
    "        stirring: IF stir_time.Q THEN now := resting; END_IF;\n"
    "    END_CASE;\n"
    "END_PROGRAM\n";

}  // namespace

TEST_CASE("a lone logic file is a yard without a plant") {
    Folder f;
    f.write("blend.st", kBlend);
    const Result checked = f.run("check blend.st");
    CHECK(checked.exit == 0);
    CHECK(contains(checked.out, "blend.st: all well"));
    const Result ran = f.run("run blend.st --for 1s --scan 20ms");
    CHECK(ran.exit == 0);
    CHECK(contains(ran.out, "controller blend: 51 scans, running"));
    CHECK(f.run("run blend.st --scan 20").exit == 2);
    CHECK(f.run("tags blend.st").exit == 0);
    f.write("wrong.st", "PROGRAM main VAR x : INT; END_VAR x := 'a'; END_PROGRAM");
    const Result wrong = f.run("run wrong.st --for 1s --out results");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "wrong.st:1:40: error: this is STRING[1], but 'x' needs INT"));
    CHECK_FALSE(f.has("results"));
    CHECK(f.run("check missing.st").exit == 2);
}

TEST_CASE("a run follows a table and writes one, after every scan or on change") {
    Folder f;
    f.write("blend.st", kBlend);
    f.write("table.csv", "tag,value,time\nmain.start,TRUE,0.02\nmain.start,0,30 ms\nmain.weight,10.5,0.045\n");
    const std::string run =
        "run blend.st --for 120ms --scan 10ms --stimulus table.csv --watch main.now,main.stir_time.ET,main.note --out "
        "out";
    REQUIRE(f.run(run).exit == 0);
    const std::string every = slurp(f / "out/watch.csv");
    CHECK(every.starts_with(
        "time_s,main.now,main.stir_time.ET,main.note\n0,resting,0,\"idle, waiting\"\n0.01,resting,0,\"idle, "
        "waiting\"\n"
        "0.02,dosing,0,dosing\n0.03,dosing,0,dosing\n0.04,dosing,0,dosing\n0.05,stirring,0,dosing\n"));
    REQUIRE(f.run(run + " --on-change").exit == 0);
    CHECK(slurp(f / "out/watch.csv") ==
          "time_s,main.now,main.stir_time.ET,main.note\n0,resting,0,\"idle, "
          "waiting\"\n0.02,dosing,0,dosing\n0.05,stirring,0,dosing\n"
          "0.07,stirring,0.01,dosing\n0.08,stirring,0.02,dosing\n0.09,resting,0.03,dosing\n0.1,resting,0,dosing"
          "\n");
    CHECK(f.run("run blend.st --on-change").exit == 2);
}

TEST_CASE("any variable of any instance can be watched by its path") {
    Folder f;
    f.write("a.st",
            "FUNCTION_BLOCK f VAR inner : ARRAY[1..2, 0..1] OF INT; END_VAR inner[2, 1] := inner[2, 1] + 3; "
            "END_FUNCTION_BLOCK\n"
            "PROGRAM main VAR list : ARRAY[0..1] OF f; t : TON; END_VAR list[1](); t(IN := TRUE, PT := T#1s); "
            "END_PROGRAM\n");
    REQUIRE(f.run("run a.st --for 10ms --watch \"main.list[1].inner[2,1], main.t.ET\" --out out").exit == 0);
    CHECK(slurp(f / "out/watch.csv") == "time_s,\"main.list[1].inner[2,1]\",main.t.ET\n0,3,0\n0.01,6,0.01\n");
}

TEST_CASE("mistakes in a table are all told, and nothing is run") {
    Folder f;
    f.write("blend.st", kBlend);
    f.write("table.csv",
            "time,tag,value\nsoon,main.start,TRUE\n0.1,main.strt,TRUE\n0.1,main.weight,\"1,5\"\n0.1,main.start,5\n-1,"
            "main.start,1\n");
    const Result r = f.run("run blend.st --for 1s --stimulus table.csv --out out");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "table.csv:2:1: error: 'soon' is not a valid time [wrong-unit]"));
    CHECK(contains(r.err, "table.csv:3:5: error: no variable is named 'main.strt' [unknown-tag]"));
    CHECK(contains(r.err, "error: '1,5' is not a valid value for main.weight, which is REAL [wrong-value]"));
    CHECK(contains(r.err, "hint: write a decimal point"));
    CHECK(contains(r.err, "table.csv:5:16: error: '5' is not a valid value for main.start, which is BOOL"));
    CHECK(contains(r.err, "table.csv:6:1: error: a time is 0 s to 1000 h"));
    CHECK_FALSE(f.has("out"));
    CHECK(f.run("run blend.st --stimulus none.csv").exit == 2);
    f.write("empty.csv", "");
    CHECK(contains(f.run("run blend.st --stimulus empty.csv").err, "the table is empty"));
    f.write("wide.csv", "time,tag,wert\n");
    CHECK(contains(f.run("run blend.st --stimulus wide.csv").err, "the table has no column 'wert'"));
}

TEST_CASE("a table also drives a yard with a plant") {
    Folder f;
    write_small_yard(f);
    f.write("table.csv", "time,tag,value\n0.1,no_such,1\n");
    CHECK(f.run("run --stimulus table.csv").exit == 2);
}

TEST_CASE("one line of logic is explained") {
    Folder f;
    f.write("blend.st", kBlend);
    const Result r = f.run("check blend.st --explain blend.st:10");
    CHECK(r.exit == 0);
    CHECK(contains(r.out, "blend.st:10:     stir_time(IN := now = stirring"));
    CHECK(contains(r.out, "TimerOnWith"));
    CHECK(contains(r.out, "is main.now"));
    CHECK(contains(f.run("check blend.st --explain blend.st:3").out, "no instructions"));
    CHECK(f.run("check blend.st --explain blend.st").exit == 2);
    CHECK(f.run("check blend.st --explain other.st:3").exit == 2);
}

TEST_CASE("a run-time fault names the place and the calls that led there") {
    Folder f;
    f.write("a.st",
            "FUNCTION pick : INT\nVAR_INPUT i : INT; END_VAR\nVAR list : ARRAY[0..3] OF INT; END_VAR\n    pick := "
            "list[i];\nEND_FUNCTION\n"
            "PROGRAM main\nVAR n, x : INT; END_VAR\n    n := n + 1;\n    x := pick(n);\nEND_PROGRAM\n");
    const Result r = f.run("run a.st --for 1s");
    CHECK(contains(r.out,
                   "stopped at 0.030 s by a.st:4:18: the index 4 is outside its array, 0..3, called at a.st:9:10"));
}

TEST_CASE("tasks of a configuration set the scan of a lone file") {
    Folder f;
    f.write("tasks.st",
            "PROGRAM p VAR n : INT; END_VAR n := n + 1; END_PROGRAM CONFIGURATION c TASK t(INTERVAL := T#25ms); "
            "PROGRAM a WITH t : p; END_CONFIGURATION");
    CHECK(contains(f.run("run tasks.st --for 1s").out, "41 scans"));
    const Result r = f.run("run tasks.st --for 1s --scan 10ms");
    CHECK(r.exit == 2);
    CHECK(contains(r.err,
                   "task 't' wants to run every 25 ms, which is not a multiple of the scan of 10 ms [bad-timing]"));
}

TEST_CASE("blocks: the list, one block with its text, JSON") {
    Folder f;
    const Result list = f.run("blocks");
    CHECK(list.exit == 0);
    CHECK(contains(list.out, "TON "));
    CHECK(contains(list.out, "pid_controller"));
    CHECK(contains(list.out, "CONCAT "));
    const Result one = f.run("blocks ramp");
    CHECK(contains(one.out, "ramp (our library, function block): Follows a target no faster than its rates allow."));
    CHECK(contains(one.out, "input    rise_rate        REAL := 1.0   units a second upwards"));
    CHECK(contains(one.out, "FUNCTION_BLOCK ramp\n"));
    const json j = json::parse(f.run("blocks ton --json").out);
    CHECK(j[0]["ports"].size() == 4);
    CHECK(contains(f.run("blocks rampp").err, "did you mean 'ramp'?"));
}

TEST_CASE("a program may bring a block of a name that our library has") {
    Folder f;
    f.write("own.st",
            "FUNCTION_BLOCK ramp VAR_OUTPUT q : INT := 5; END_VAR END_FUNCTION_BLOCK PROGRAM main VAR r : ramp; x : "
            "INT; END_VAR r(); x := r.q; END_PROGRAM");
    f.write("ours.st", "PROGRAM main VAR r : ramp; x : REAL; END_VAR r(target := 5.0); x := r.out; END_PROGRAM");
    CHECK(f.run("check own.st").exit == 0);
    CHECK(f.run("check ours.st").exit == 0);
}
