// What the program says is so: forces and stops in every list, exact values in files, verdicts that are not passed,
// exit codes.
#include <nlohmann/json.hpp>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

namespace {

void write_exact_yard(Folder& f) {
    write_small_yard(f);
    f.write("line.st",
            "VAR_GLOBAL\n  start_pb AT %IX0.0 : BOOL;\n  stop_pb AT %IX0.1 : BOOL;\n  see_tile AT %IX0.2 : BOOL;\n"
            "  run AT %QX0.0 : BOOL;\n  big : LINT := 9007199254740993;\n  most : ULINT := 18446744073709551615;\n"
            "  day : DT := DT#2026-03-01-10:00:00;\n  message : STRING := 'idle';\n  fail : BOOL; z : INT; go_on : "
            "BOOL;\nEND_VAR\n"
            "PROGRAM main\n  run := (run OR start_pb) AND stop_pb AND NOT see_tile;\n"
            "  IF run THEN message := 'off it goes, \"fast\"'; big := big + 1; most := most - 1; END_IF;\n"
            "  IF day > DT#2026-01-01-00:00:00 AND go_on THEN message := 'late'; END_IF;\n"
            "  IF fail THEN z := 5 / z; END_IF;\nEND_PROGRAM\n");
}

}  // namespace

TEST_CASE("a forced or stopped output is shown as it leaves, with the logic's own value and the reason") {
    Folder f;
    write_small_yard(f);
    const Result live = f.run(
        "live --pace max",
        "show run\nforce run = TRUE\nshow run\nshow logic.run\nwatch run\nforces off\nwait 10 ms\nforces on\nwait 10 "
        "ms\nforce "
        "stop_pb = FALSE\nshow stop_pb\nstop\nshow run\nstatus\nunforce all\nstart\nshow run\nwait 1 scan\nquit\n");
    CHECK(live.exit == 0);
    for (const char* line :
         {"run = FALSE\n", "run = TRUE (forced; logic: FALSE)\n", "logic.run = FALSE\n", "stop_pb = FALSE (forced)\n",
          "run = FALSE (the controller is stopped)\n", "run forced to TRUE\n", "stop_pb forced to FALSE\n",
          "run = FALSE (the controller has not scanned yet)\n"}) {
        CAPTURE(line);
        CHECK_MESSAGE(contains(live.out, line), live.out);
    }
    // The same without a plant.
    f.write("lone/alone.st", "VAR_GLOBAL lamp AT %QX0.0 : BOOL; END_VAR PROGRAM p lamp := FALSE; END_PROGRAM");
    const Result lone =
        f.run("live lone/alone.st --pace max", "force lamp = TRUE\nshow lamp\nexpect lamp and not logic.lamp\n");
    CHECK(lone.exit == 0);
    CHECK(contains(lone.out, "lamp = TRUE (forced; logic: FALSE)\n"));
    // In traces, tables and rules a tag is what leaves.
    REQUIRE(f.run("run --do \"force run = TRUE\" --for 30ms --watch run,logic.run --out out").exit == 0);
    CHECK(contains(f.read("out/watch.csv"), "\n0.03,TRUE,FALSE\n"));
    f.write("go.proc",
            "rule \"never runs\": never run\nprocedure \"p\"\nstep \"s\"\n  force run = TRUE\n  wait 20 ms\n  unforce "
            "all\n");
    const Result proof = f.run("prove");
    CHECK(proof.exit == 1);
    CHECK(contains(proof.out, "run = TRUE (forced; logic: FALSE)"));
}

TEST_CASE("64-bit numbers, dates and texts are exact in conditions, tables and traces; BOOL reads the same in all") {
    Folder f;
    write_exact_yard(f);
    const std::string run =
        "run --do \"press start for 50 ms\" --do \"wait 10 ms\" --for 20ms --watch big,most,day,message,run --out out "
        "--on-change";
    REQUIRE(f.run(run).exit == 0);
    CHECK(f.read("out/watch.csv") ==
          "time_s,big,most,day,message,run\n"
          "0,9007199254740993,18446744073709551615,DT#2026-03-01-10:00:00,idle,FALSE\n"
          "0.01,9007199254740994,18446744073709551614,DT#2026-03-01-10:00:00,\"off it goes, \"\"fast\"\"\",TRUE\n"
          "0.02,9007199254740995,18446744073709551613,DT#2026-03-01-10:00:00,\"off it goes, \"\"fast\"\"\",TRUE\n"
          "0.03,9007199254740996,18446744073709551612,DT#2026-03-01-10:00:00,\"off it goes, \"\"fast\"\"\",TRUE\n");
    const std::string csv = f.read("out/trace.csv");
    CHECK(contains(csv, ",9007199254740994,18446744073709551614,DT#2026-03-01-10:00:00,"));
    CHECK(contains(csv, "\n0,FALSE,TRUE,"));
    const std::string vcd = f.read("out/trace.vcd");
    CHECK(contains(vcd, "b1111111111111111111111111111111111111111111111111111111111111110 "));
    CHECK(contains(vcd, "$var string 1 "));
    CHECK(contains(vcd, "soff\\040it\\040goes,\\040\"fast\" "));
    f.write("go.proc",
            "procedure \"p\"\nstep \"s\"\n  expect big = 9007199254740993\n  expect big <> 9007199254740992 and most > "
            "18446744073709551614\n  expect message = 'idle'\nstep \"not\"\n  expect big = 9007199254740992\n");
    const Result proof = f.run("prove");
    CHECK(proof.exit == 1);
    CHECK(contains(proof.out, "passed           step  s"));
    CHECK(contains(proof.out, "big = 9007199254740993\n"));
    REQUIRE(f.run("draw timing --do \"press start for 50 ms\" --for 100ms --watch run,message,big --out t.svg").exit ==
            0);
    CHECK(contains(f.read("t.svg"), "svg"));
}

TEST_CASE("a controller that stopped by itself is exit code 1, and is not forgotten when it is started again") {
    Folder f;
    write_exact_yard(f);
    const Result run = f.run("run --do \"force fail = TRUE\" --for 50ms");
    CHECK(run.exit == 1);
    CHECK(contains(run.out, "controller line: 2 scans, stopped at 0.010 s by line.st:"));
    f.write(
        "go.proc",
        "procedure \"again\"\nstep \"s\"\n  write fail = TRUE\n  wait 20 ms\n  start\n  wait 20 ms\n  expect stop_pb\n"
        "procedure \"meant\"\nstep \"s\"\n  write fail = TRUE\n  expect stopped within 50 ms\n  start\n  wait 20 ms\n");
    const Result proof = f.run("prove --out out");
    CHECK(proof.exit == 1);
    CHECK(contains(proof.out, "failed           again"));
    CHECK(contains(proof.out, "failed           controller line stopped at 0.010 s: line.st:"));
    CHECK(contains(proof.out, "passed           meant"));
    CHECK(contains(proof.out, "division by zero (expected)\n"));
    CHECK(contains(f.read("out/junit.xml"), "<testcase classname=\"again\" name=\"controller\""));
    CHECK(json::parse(f.read("out/verdicts.json"))["procedures"][1]["stops"][0]["expected"] == true);
    // What prove lets pass, run lets pass.
    CHECK(f.run("run -p meant").exit == 0);
    CHECK(f.run("run -p again").exit == 1);
    // One stop is meant, the one before it was not.
    f.write("go.proc",
            "procedure \"twice\"\nstep \"s\"\n  write fail = TRUE\n  wait 20 ms\n  start\n  wait 20 ms\n  write fail = "
            "TRUE\n  expect stopped within 50 ms\n");
    const Result twice = f.run("prove");
    CHECK(twice.exit == 1);
    CHECK(contains(twice.out, "failed           controller line stopped at 0.010 s: line.st:"));
    CHECK(contains(twice.out, "passed           controller line stopped at 0.050 s: line.st:"));
    CHECK(f.run("run -p twice").exit == 1);
}

TEST_CASE("a file's name means all its procedures, a unique beginning is enough, inside a yard the name alone does") {
    Folder f;
    write_small_yard(f);
    f.write("more.proc",
            "procedure \"First of two\"\nstep \"s\"\n  expect stop_pb\nprocedure \"Second of two\"\nstep \"s\"\n  "
            "expect not "
            "stop_pb\n");
    for (const char* name : {"more", "more.proc", "mor"}) {
        const Result all = f.run(std::string("prove . ") + name);
        CHECK(all.exit == 1);
        CHECK(contains(all.out, "1 of 2 procedures passed\n"));
    }
    CHECK(contains(f.run("prove 'Sec'").out, "0 of 1 procedure passed\n"));
    CHECK(contains(f.run("prove 'First of two'").out, "1 of 1 procedure passed\n"));
    CHECK(contains(f.run("prove more").out, "1 of 2 procedures passed\n"));
    CHECK(f.run("run -p more --for 10ms").exit == 1);
    // From outside, the file says by its place which yard is meant.
    CHECK(contains(f.run("prove ./more.proc").out, "1 of 2 procedures passed\n"));
    Folder outside;
    const std::string whole_path = (f / "more.proc").string();
    CHECK(contains(outside.run("prove " + whole_path).out, "1 of 2 procedures passed\n"));
    outside.write("lost.proc", "procedure \"Lost\"\nstep \"s\"\n  expect stop_pb\n");
    CHECK(contains(outside.run("prove lost.proc").err, "there is no yard.toml in this folder or above it"));
    f.write("aside/alone.proc", "procedure \"Alone\"\nstep \"s\"\n  expect stop_pb\n");
    const Result not_named = f.run("prove . aside/alone.proc");
    CHECK(not_named.exit == 2);
    CHECK(contains(not_named.err, "'aside/alone.proc' is none of the yard's procedure files"));
    const Result wrong = f.run("prove . Thrid");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "no procedure is named 'Thrid'"));
    f.write("most.proc", "procedure \"Most\"\nstep \"s\"\n  expect stop_pb\n");
    const Result two = f.run("prove . mo");
    CHECK(two.exit == 2);
    CHECK(contains(two.err, "'mo' is the beginning of file more, file most"));
}

TEST_CASE("a rule that is open at the end, or not tested, is not passed; rules of one procedure say so") {
    Folder f;
    write_small_yard(f);
    f.write("go.proc",
            "procedure \"p\"\nrule \"eye\": whenever rises(run) then see_tile within 60 s\nrule \"unasked\": whenever "
            "see_tile then "
            "not run\nstep \"s\"\n  press start for 50 ms\n  wait 100 ms\n");
    const Result r = f.run("prove --out out");
    CHECK(r.exit == 1);
    CHECK(contains(r.out, "open at the end  p  (0.100 s)\n"));
    CHECK(contains(r.out, "    open at the end  rule  eye  (of this procedure, triggered once)\n"));
    CHECK(contains(r.out, "    not tested       rule  unasked  (of this procedure)\n"));
    CHECK(contains(r.out, "0 of 1 procedure passed; 1 rule open at the end; 1 rule never tested\n"));
    CHECK(contains(f.read("out/junit.xml"), "<failure message=\"open at the end\""));
}

TEST_CASE("a table may say what is expected beside what is written") {
    Folder f;
    f.write("sum.st",
            "PROGRAM main VAR a, b, sum : INT; mean : REAL; text : STRING; END_VAR sum := a + b; mean := "
            "INT_TO_REAL(sum) / 3.0; IF "
            "sum > 5 THEN text := 'more'; END_IF; END_PROGRAM");
    f.write("table.csv",
            "time,tag,value,expect\n0.1,main.a,3,\n0.1,main.sum,,3\n0.1,main.mean,,1 +- 0.001\n200 ms,main.b,4,\n200 "
            "ms,main.sum,,7\n0.2,main.text,,more\n");
    const Result good = f.run("run sum.st --for 300ms --stimulus table.csv");
    CHECK(good.exit == 0);
    CHECK(contains(good.out, "4 of 4 expectations of the table held\n"));
    f.replace("table.csv", ",,7\n", ",,8\n");
    const Result bad = f.run("run sum.st --for 300ms --stimulus table.csv");
    CHECK(bad.exit == 1);
    CHECK(contains(
        bad.out,
        "3 of 4 expectations of the table held\n    table.csv:6:18: expected main.sum = 8 at 200 ms, but main.sum "
        "is 7, at 0.200 s\n"));
    const Result shorter = f.run("run sum.st --for 150ms --stimulus table.csv");
    CHECK(shorter.exit == 1);
    CHECK(contains(shorter.out, "2 not reached: the run ended before 200 ms\n"));
    const Result live = f.run("live sum.st --pace max --stimulus table.csv", "wait 300 ms\n");
    CHECK(live.exit == 1);
    CHECK(contains(live.out, "    0.200 s  not as expected: main.sum = 8 at 200 ms, but main.sum is 7\n"));
    CHECK(contains(live.out, "3 of 4 expectations of the table held\n"));
    f.write("wrong.csv", "time,tag,expect\n0,main.sum,many\n0,main.none,1\n");
    const Result wrong = f.run("run sum.st --for 1s --stimulus wrong.csv");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "wrong.csv:2:12: error: 'many' cannot be expected of main.sum, which is INT"));
    CHECK(contains(wrong.err, "wrong.csv:3:3: error: no tag, point or actual is named 'main.none'"));
}

TEST_CASE("standard output that cannot be written is exit code 3 with a plain message, in every command") {
    Folder f;
    write_small_yard(f);
    for (const char* command :
         {"check", "check --json", "tags", "tags --json", "map", "checkout", "run --for 1s", "prove", "prove --json",
          "kinds", "kinds --json", "blocks", "draw plan --out p.svg", "--help", "prove --help"}) {
        CAPTURE(command);
        const std::string line =
            fmt::format("cd '{}' && '{}' {} >/dev/full 2>said </dev/null", f.path().string(), VYARD_PROGRAM, command);
        const int status = std::system(line.c_str());
        CHECK(WEXITSTATUS(status) == 3);
        CHECK_MESSAGE(contains(f.read("said"), "error: standard output cannot be written: No space left on device\n"),
                      f.read("said"));
    }
}

TEST_CASE("warnings are in the summary, fail with --strict, and stand in the JSON") {
    Folder f;
    write_small_yard(f);
    CHECK(contains(f.run("check").out, "Small: all well\n"));
    CHECK(f.run("check --strict").exit == 0);
    f.replace("line.st", "END_VAR", "    spare : INT;\nEND_VAR");
    const Result r = f.run("check");
    CHECK(r.exit == 0);
    CHECK(contains(r.out, "Small: no errors, 1 warning\n"));
    CHECK_FALSE(contains(r.out, "all well"));
    const Result strict = f.run("check --strict");
    CHECK(strict.exit == 2);
    CHECK(contains(strict.err, "and --strict"));
    const json j = json::parse(f.run("check --json").out);
    CHECK(j["warnings"] == 1);
    CHECK(j["diagnostics"][0]["code"] == "unused-variable");
    CHECK(j["diagnostics"][0]["line"] == 6);
    f.replace("line.st", "run := ", "rum := ");
    const Result wrong = f.run("check --json");
    CHECK(wrong.exit == 2);
    const json e = json::parse(wrong.out);
    CHECK(e["errors"] == 1);
    CHECK(e["diagnostics"][0]["hint"] == "did you mean 'run'?");
}

TEST_CASE("procedures: comments, loops, measures and reasons, as a person writes them") {
    Folder f;
    write_small_yard(f);
    f.write("go.proc",
            "// a comment, (* and another *)\n(* over\n   lines *)\n"
            "procedure \"Go\"\nfor button in start\nstep \"Press {button}\"\n    place tile on a at 0.5 m // behind an "
            "order\n"
            "    press button for 3 scans\n    measure \"to the eye\" from rises(run) to rises(see_tile) within 4 s "
            "not before 1 s\nend\n"
            "step \"Fails\"\n    expect run within 50 ms\n");
    const Result r = f.run("prove");
    CHECK(r.exit == 1);
    CHECK(contains(r.out, "step  Press start (start)"));
    CHECK(contains(r.out, "measured to the eye: 2.81 s\n"));
    CHECK(contains(r.out, "but       run stayed FALSE for 50 ms, at 2.870 s\n"));
    CHECK(contains(r.out, "kept off  run: run OR start_pb; NOT see_tile (line.st:8:5)\n"));
    CHECK(contains(r.out, "devices   a."));
}

TEST_CASE("a number that is not finite is remarked by run and prove, and the wire carries 0") {
    Folder f;
    write_small_yard(f);
    f.write("plant.toml", f.read("plant.toml") + "\n[valve.v]\ncontrol = \"proportional\"\n");
    f.write("map.csv", f.read("map.csv") + "opening,v.opening,,\n");
    f.replace("line.st", "END_VAR", "    opening AT %QD4 : REAL; zero : REAL; END_VAR");
    f.replace("line.st", "END_PROGRAM", "opening := 50.0; IF run THEN opening := LN(zero); END_IF; END_PROGRAM");
    const std::string remark = "line.opening gave a number that is not finite, first at 0.010 s; v.opening carried 0\n";
    const Result run = f.run("run --do \"press start for 50 ms\" --for 100ms --watch plant.v.opening --out out");
    CHECK(contains(run.out, "remark: " + remark));
    CHECK(contains(f.read("out/watch.csv"), "\n0,50\n0.01,0\n"));
    CHECK(contains(f.run("prove").out, remark));
    const Result live = f.run("live --pace max", "press start for 50 ms\nwait 100 ms\n");
    CHECK(contains(live.out, "    0.010 s  " + remark));
    CHECK(live.out.find(remark) == live.out.rfind(remark));
}

TEST_CASE("names in brackets, forces of inner variables and measures are the same in live, run and traces") {
    Folder f;
    write_small_yard(f);
    f.replace("line.st", "END_VAR", "    grid : ARRAY[1..2, 1..2] OF INT; END_VAR");
    f.replace("line.st", "PROGRAM main", "PROGRAM main VAR inner : BOOL; END_VAR grid[1, 2] := 7;");
    f.replace("yard.toml", "time_step = \"5 ms\"", "time_step = \"1 ms\"");
    const Result live = f.run("live --pace max", "show grid[1, 2], run\nwatch run grid[1,2]\n");
    CHECK(contains(live.out, "grid[1,2] = 7\n"));
    CHECK(contains(live.out, "run = FALSE\n"));
    const Result run = f.run(
        "run --do \"wait 3 ms\" --do \"force main.inner = TRUE\" --for 20ms "
        "--watch main.inner,grid[1,2] --out out");
    REQUIRE(run.exit == 0);
    CHECK(contains(f.read("out/trace.csv"), "\n0.004,"));  // acts and is traced at once, not at the scan of 10 ms
    const Result measured = f.run(
        "run --do \"place tile on a at 0.5 m\" --do \"press start for 30 ms\" --do \"measure from rises(run) to "
        "rises(see_tile)\"");
    CHECK(measured.exit == 0);
    CHECK(contains(measured.out, "note: measured from rises(run) to rises(see_tile): 2.8"));
    // A figure of orders that failed says so.
    const Result drawn = f.run("draw plan --do \"take from a\" --out plan.svg");
    CHECK(drawn.exit == 1);
    CHECK(contains(drawn.out, "wrote plan.svg\n"));
    CHECK(contains(drawn.out, "expected  take from a\n"));
    f.write("table.csv", "time,tag,value,expect\n0.05,start_pb,1,\n0.06,run,,TRUE\n0.07,run,,FALSE\n");
    const Result table = f.run("draw plan --stimulus table.csv --at 100ms --out plan.svg");
    CHECK(table.exit == 1);
    CHECK(contains(table.out, "1 of 2 expectations of the table held\n"));
    // A safe value is as exact as any.
    f.replace("line.st", "END_VAR", "    far AT %QL8 : LINT; END_VAR");
    f.write("yard.toml", f.read("yard.toml") + "\n[controller.line.safe]\nfar = 9007199254740993\n");
    CHECK(contains(f.run("check").err, "a number as large as this is not exact for 'far'"));
    f.replace("yard.toml", "9007199254740993", "\"9007199254740993\"");
    CHECK(contains(f.run("live --pace max", "stop\nshow far\n").out,
                   "far = 9007199254740993 (the controller is stopped"));
}
