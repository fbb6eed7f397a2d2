#include <nlohmann/json.hpp>
#include <pugixml.hpp>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

TEST_CASE("vyard alone and with --help shows the commands; each command has a help with an example that works") {
    Folder f;
    CHECK(f.run("").exit == 2);
    const Result help = f.run("--help");
    CHECK(help.exit == 0);
    CHECK(contains(f.run("--version").out, "vyard 0."));
    for (const std::string command : {"demo", "check", "tags", "map", "checkout", "run", "live", "tell", "prove",
                                      "draw", "format", "convert", "show", "compare", "measure", "kinds", "blocks"}) {
        CAPTURE(command);
        CHECK(contains(help.out, "\n  " + command + " "));
        const Result h = f.run(command + " --help");
        CHECK(h.exit == 0);
        CHECK(contains(h.out, "vyard " + command));
        const std::size_t at = h.out.find("Example:\n  ");
        REQUIRE(at != std::string::npos);
        std::string example = h.out.substr(at + 11);
        example = example.substr(0, example.find('\n'));
        // As typed in a fresh checkout, results in this folder.
        fs::create_directory_symlink(fs::path(VYARD_SOURCE) / "examples", f / "examples");
        for (std::size_t tmp = example.find("/tmp/"); tmp != std::string::npos; tmp = example.find("/tmp/"))
            example.replace(tmp, 5, "out-");
        const std::string program = fmt::format("'{}'", VYARD_PROGRAM);
        for (std::size_t at_word = example.find("vyard "); at_word != std::string::npos;
             at_word = example.find("vyard ", at_word + program.size()))
            example.replace(at_word, 5, program);
        const int status = std::system(
            fmt::format("cd '{}' && ( {} ) >/dev/null 2>'{}'", f.path().string(), example, (f / "problem").string())
                .c_str());
        INFO(f.read("problem"));
        CHECK(status == 0);
        fs::remove(f / "examples");
    }
}

TEST_CASE("wrong calls: exit code 2, the nearest right word, nothing written") {
    Folder f;
    write_small_yard(f);
    struct Row {
        const char* arguments;
        const char* message;
    };
    const Row rows[] = {
        {"chekc", "error: no command is named 'chekc'\n    hint: did you mean 'check'?\n"},
        {"check --jsn", "error: no option is named '--jsn'\n    hint: did you mean '--json'?\n"},
        {"check a b", "error: unexpected argument 'b'\n    hint: usage: vyard check [YARD] [options]\n"},
        {"check nowhere", "error: cannot read nowhere: No such file or directory [file-missing]\n1 error\n"},
        {"run --for 5", "error: --for: a time needs a unit; accepted: us, ms, s, min, h\n"},
        {"run --for -1s", "error: --for: -1s is out of range; accepted: 0 to 3.6e+06 s\n"},
        {"run --watch nothing --out o", "error: no tag, point or actual is named 'nothing'\n"},
        {"run --procedure Goo", "error: no procedure is named 'Goo'\n    hint: did you mean 'Go'?\n"},
        {"prove . Goo", "error: no procedure is named 'Goo'\n    hint: did you mean 'Go'?\n"},
        {"draw",
         "error: name what to draw: plan, logic, timing, trend, addresses, rack or registers\n    hint: known: plan, "
         "logic, "
         "timing, trend, "
         "addresses, rack, registers\n"},
        {"show", "error: name what to show: logic or tasks\n    hint: known: logic, tasks\n"},
        {"show logci .", "error: 'logci' cannot be shown\n    hint: did you mean 'logic'?\n"},
        {"draw plna", "error: 'plna' cannot be drawn\n    hint: did you mean 'plan'?\n"},
        {"draw plan . --out x.bmp",
         "error: the format of 'x.bmp' is not known\n    hint: end it with .svg, .png or .pdf\n"},
        {"draw timing .", "error: a timing chart needs --watch\n    hint: --watch start_pb,line_run,dip_step\n"},
        {"live --pace fast", "error: --pace: 'fast' is not a plain number\n"},
        {"kinds bel", "error: no device kind is named 'bel'\n    hint: did you mean 'belt'?\n"},
        {"run --do 'press start' --do 'step \"Next\"'",
         "--do:2:1: error: 'step' stands in procedure files; an order is expected [syntax]\n    step \"Next\"\n    "
         "^~~~\n"},
        {"run --do 'pres start'",
         "--do:1:1: error: no verb is named 'pres' [unknown-verb]\n    pres start\n    ^~~~\n    hint: did you mean "
         "'press'?\n"},
        {"prove --use other.st=x.st",
         "--use:1:1: error: nothing of this yard is read from 'other.st', so nothing can stand in for it "
         "[file-missing]\n    other.st=x.st\n    ^~~~~~~~~~~~~\n1 error\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.arguments);
        const Result r = f.run(row.arguments);
        CHECK(r.exit == 2);
        CHECK(r.out == "");
        CHECK(r.err == row.message);
    }
    CHECK_FALSE(f.has("x.bmp"));
    CHECK_FALSE(f.has("plan.svg"));
}

TEST_CASE("the yard around the current folder is found") {
    Folder f;
    write_small_yard(f);
    fs::create_directories(f / "deep/er");
    CHECK(contains(f.run("check").out, "Small: all well"));
    const int status =
        std::system(fmt::format("cd '{}' && '{}' check >/dev/null", (f / "deep/er").string(), VYARD_PROGRAM).c_str());
    CHECK(status == 0);
    Folder empty;
    const Result r = empty.run("check");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "there is no yard.toml in this folder or above it"));
}

TEST_CASE("check counts; its JSON says the same") {
    Folder f;
    f.copy_example();
    const Result r = f.run("check glaze");
    CHECK(r.exit == 0);
    CHECK(r.err == "");
    CHECK(contains(r.out, "40 devices, 38 points: 38 joined, 0 not\n  61 tags, 38 with an address; 38 joins\n"));
    const json j = json::parse(f.run("check glaze --json").out);
    CHECK(j["points"] == 38);
    CHECK(j["procedures"] == 5);
    CHECK(j["rules"] == 7);
    CHECK(j["joined"] == 38);
    CHECK(j["unjoined_points"] == 0);
    CHECK(contains(f.run("check glaze --code").out, "controller line\n    0  "));
}

TEST_CASE("tags shows what reads TRUE at rest") {
    Folder f;
    f.copy_example();
    const Result table = f.run("tags glaze");
    CHECK(contains(table.out, "stop_pb"));
    CHECK(table.out.substr(0, 3) == "tag");
    const json rows = json::parse(f.run("tags glaze --json").out);
    CHECK(rows.size() == 61);
    const auto row = [&](const std::string& tag) {
        for (const json& r : rows) {
            if (r["tag"] == tag) return r;
        }
        return json();
    };
    CHECK(row("stop_pb")["at_rest"] == true);
    CHECK(row("stop_pb")["address"] == "%IX0.1");
    CHECK(row("stop_pb")["point"] == "panel.stop.contact");
    CHECK(row("start_pb")["at_rest"] == false);
    CHECK(row("dwell_raw")["at_rest"] == 8000);
    CHECK(row("dwell_time")["at_rest"] == "T#2s");
    CHECK(row("dwell_raw")["scaling"] == "0 %..100 % -> 4000..20000");
    CHECK(row("line_run")["description"] == "automatic cycle is on");
    CHECK(rows[0]["address"] == "%IX0.0");
}

TEST_CASE("run writes a VCD that opens and a CSV that a spreadsheet reads; twice the same bytes") {
    Folder f;
    f.copy_example();
    const std::string arguments =
        "run glaze --do 'turn panel.mode to automatic' --do 'press panel.start for 200 ms' --for 20s --watch "
        "lift.position --out ";
    const Result r = f.run(arguments + "one");
    CHECK(r.exit == 0);
    CHECK(contains(r.out, "ran 20.000 s of simulated time"));
    CHECK(contains(r.out, "controller line: 2001 scans, running"));
    CHECK(f.run(arguments + "two").exit == 0);
    CHECK(f.read("one/trace.vcd") == f.read("two/trace.vcd"));
    CHECK(f.read("one/trace.csv") == f.read("two/trace.csv"));

    const std::string vcd = f.read("one/trace.vcd");
    CHECK(vcd.starts_with("$version Vivid Yard $end\n$timescale 1 us $end\n$scope module logic $end\n"));
    CHECK(contains(vcd, " line_run $end\n"));
    CHECK(contains(vcd, "$scope module lift $end\n"));
    CHECK(contains(vcd, "$enddefinitions $end\n#0\n$dumpvars\n"));
    const auto count = [&](const std::string& what) {
        int n = 0;
        for (std::size_t at = vcd.find(what); at != std::string::npos; at = vcd.find(what, at + 1)) ++n;
        return n;
    };
    CHECK(count("$scope ") == count("$upscope "));

    std::istringstream csv(f.read("one/trace.csv"));
    std::string header, row;
    std::getline(csv, header);
    CHECK(header.starts_with("time_s,start_pb,"));
    CHECK(header.ends_with(",lift.position"));
    const auto cells = std::count(header.begin(), header.end(), ',');
    double last = -1;
    int rows = 0;
    while (std::getline(csv, row)) {
        CHECK(std::count(row.begin(), row.end(), ',') == cells);
        const double time = std::stod(row);
        CHECK(time > last);
        last = time;
        ++rows;
    }
    CHECK(rows > 100);
    CHECK(last <= 20.0);
}

TEST_CASE("run through a procedure says a failed verdict with exit code 1") {
    Folder f;
    write_small_yard(f);
    CHECK(f.run("run --procedure Go").exit == 0);
    f.replace("go.proc", "expect not run within 20 ms", "expect run for 1 s");
    const Result r = f.run("run --procedure go");
    CHECK(r.exit == 1);
    CHECK(contains(r.out, "expected  run for 1 s"));
}

TEST_CASE("a run-time fault of the logic is shown with its place") {
    Folder f;
    write_small_yard(f);
    f.replace("line.st", "END_PROGRAM", "    IF see_tile THEN count := 1 / zero; END_IF;\nEND_PROGRAM");
    f.replace("line.st", "PROGRAM main\n", "PROGRAM main\nVAR count : INT; zero : INT := 0; END_VAR\n");
    const Result r = f.run("run --procedure Go");
    CHECK(r.exit == 1);
    CHECK(contains(r.out, "stopped at 2.820 s by line.st:10:33: division by zero"));
}

TEST_CASE("prove: text, JSON and JUnit agree; exit codes 0 and 1") {
    Folder f;
    f.copy_example();
    const Result r = f.run("prove glaze --out results");
    CHECK(r.exit == 0);
    CHECK(contains(r.out, "5 of 5 procedures passed"));
    CHECK(contains(f.read("results/verdicts.txt"), "5 of 5 procedures passed"));
    pugi::xml_document document;
    REQUIRE(document.load_file((f / "results/junit.xml").c_str()));
    int suites = 0, tests = 0;
    for (const auto& suite : document.child("testsuites").children("testsuite")) {
        ++suites;
        int cases = 0;
        for ([[maybe_unused]] const auto& c : suite.children("testcase")) ++cases;
        CHECK(suite.attribute("tests").as_int() == cases);
        CHECK(suite.attribute("failures").as_int() == 0);
        tests += cases;
    }
    CHECK(suites == 5);
    CHECK(tests == 7 + 7 + 5 + 5 + 4 + 5 * 7);
    const json j = json::parse(f.read("results/verdicts.json"));
    CHECK(j["passed"] == true);
    CHECK(j["procedures"].size() == 5);
    CHECK(f.run("prove glaze").out == f.run("prove glaze").out);
}

TEST_CASE("prove catches the wrong variant of the logic, by its rule") {
    Folder f;
    f.copy_example();
    const Result r = f.run("prove glaze 1_normal_cycle --use logic/40_dip.st=glaze/variants/early_infeed.st --json");
    CHECK(r.exit == 1);
    const json j = json::parse(r.out);
    CHECK(j["passed"] == false);
    const json& procedure = j["procedures"][0];
    for (const json& step : procedure["steps"]) CHECK(step["verdict"] == "passed");
    const json& rule = procedure["rules"][0];
    CHECK(rule["name"] == "Nothing comes in while the lift is away");
    CHECK(rule["verdict"] == "failed");
    CHECK(rule["first_broken_s"] == 11.07);
    CHECK(rule["values"]["infeed_run"] == "TRUE");
    CHECK(rule["values"]["lift_top"] == "FALSE");
}

TEST_CASE("prove shows the line of a failed step, the values, the time") {
    Folder f;
    write_small_yard(f);
    f.replace("go.proc", "within 50 ms", "and see_tile within 50 ms");
    const Result r = f.run("prove");
    CHECK(r.exit == 1);
    CHECK(contains(r.out,
                   "                     go.proc:5:5\n"
                   "                             expect run and see_tile within 50 ms\n"
                   "                     expected  run and see_tile within 50 ms\n"
                   "                     but       run and see_tile stayed FALSE for 50 ms; FALSE at the end: "
                   "see_tile, at 0.050 s\n"
                   "                               run = TRUE\n"
                   "                               see_tile = FALSE\n"));
}

TEST_CASE("draw: plan and timing in three formats; the same run gives the same bytes") {
    Folder f;
    f.copy_example();
    CHECK(f.run("draw plan glaze -p 1_normal_cycle --at 13s --out plan.png").exit == 0);
    CHECK(f.run("draw plan glaze -p 1_normal_cycle --at 13s --out plan.svg").exit == 0);
    CHECK(f.run("draw plan glaze -p 1_normal_cycle --at 13s --out again.svg").exit == 0);
    CHECK(f.run("draw plan glaze -p 1_normal_cycle --at 1s --out early.svg").exit == 0);
    CHECK(f.run("draw timing glaze -p 1_normal_cycle --watch dip_eye,lift.position --from 9s --to 18s --out timing.pdf")
              .exit == 0);
    CHECK(f.read("plan.png").starts_with("\x89PNG"));
    CHECK(contains(f.read("plan.svg"), "<svg"));
    CHECK(f.read("timing.pdf").starts_with("%PDF"));
    CHECK(f.read("plan.svg") == f.read("again.svg"));
    CHECK(f.read("plan.svg") != f.read("early.svg"));
    const Result r = f.run("draw timing glaze --watch dip_eye --for 1s --from 5s");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "nothing between --from and --to"));
}

TEST_CASE("kinds: the list, one kind, JSON") {
    Folder f;
    const Result list = f.run("kinds");
    CHECK(contains(list.out, "photoeye                 sensors"));
    const Result one = f.run("kinds tank");
    CHECK(contains(one.out, "tank (liquid): holds a liquid"));
    CHECK(contains(one.out, "drag_out"));
    CHECK(contains(one.out, "leak"));
    const json j = json::parse(f.run("kinds --json").out);
    CHECK(j.size() == 61);
    for (const json& kind : j) CHECK(kind["summary"].get<std::string>().size() > 5);
}

TEST_CASE("live: orders in, changes out, the same every time at pace max") {
    Folder f;
    write_small_yard(f);
    const std::string input =
        "// a comment\nplace tile on a at 0.5 m\nwatch run\npress start for 100 ms\nwait until see_tile within 10 "
        "s\nexpect not run within 50 ms\nshow a.speed, see\nstatus\nquit\n";
    const Result r = f.run("live --pace max", input);
    CHECK(r.exit == 0);
    CHECK(r.out ==
          "Small: live, as fast as it can; 'help' lists the orders\n"
          "    0.000 s  place tile on a at 0.5 m\n"
          "    0.000 s  run = FALSE\n"
          "    0.000 s  press start for 100 ms\n"
          "    0.000 s  wait until see_tile within 10 s\n"
          "    0.010 s  run = TRUE\n"
          "    2.820 s  run = FALSE\n"
          "    2.820 s  now TRUE: wait until see_tile within 10 s\n"
          "    2.820 s  expect not run within 50 ms\n"
          "    2.820 s  as expected: expect not run within 50 ms\n"
          "    2.820 s  a.speed = 0.5 m/s\n"
          "    2.820 s  see = TRUE\n"
          "    2.820 s  controller line runs, 283 scans, forces on\n"
          "    2.820 s  items on the plant: 1\n"
          "    2.820 s  late time steps: 0; snapshots to go back to: 4 from 0.000 s on, 0.0 MB\n"
          "ended at 2.820 s\n");
    CHECK(f.run("live --pace max", input).out == r.out);
}

TEST_CASE("live: a wrong line is explained and the run goes on; a failed expectation is exit code 1") {
    Folder f;
    write_small_yard(f);
    const Result wrong = f.run("live --pace max", "wait 1 s\npres start\nwait 1 s\n");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.out,
                   "input:2:1: error: no verb is named 'pres' [unknown-verb]\n    pres start\n    ^~~~\n    hint: did "
                   "you mean 'press'?\n"));
    CHECK(contains(wrong.out, "ended at 2.000 s; orders rejected: 1\n"));
    const Result failed = f.run("live --pace max", "expect run within 100 ms\nforce run = TRUE\nforces on\nwait 1 s\n");
    CHECK(failed.exit == 1);
    CHECK(contains(failed.out, "failed: expect run within 100 ms; run stayed FALSE for 100 ms; run = FALSE"));
    CHECK(contains(failed.out, "force left: run forced to TRUE"));
}

TEST_CASE("live is paced by the clock") {
    Folder f;
    write_small_yard(f);
    const auto begin = std::chrono::steady_clock::now();
    CHECK(f.run("live --pace 2 --for 1s").exit == 0);
    const double took_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    CHECK(took_s > 0.45);  // never faster than asked for; how much slower is the machine's business
    CHECK(contains(f.run("live --pace max --for 100s", "watch run\n").out, "ended at 100.000 s"));
}

TEST_CASE("demo shows the whole thread and leaves its results") {
    Folder f;
    f.copy_example();
    const Result r = f.run("demo --yard glaze --out results");
    CHECK(r.exit == 0);
    CHECK(r.err == "");
    for (const char* name :
         {"trace.vcd", "trace.csv", "plan.png", "timing.png", "verdicts.txt", "verdicts.json", "junit.xml"})
        CHECK(f.has(std::string("results/") + name));
    CHECK(contains(r.out, "$ vyard check glaze\n"));
    CHECK(contains(r.out, "0 of 1 procedure passed"));
}

TEST_CASE("results are written whole or not at all") {
    Folder f;
    write_small_yard(f);
    f.write("taken/trace.vcd/inside", "x");  // a folder where the file should go
    const Result r = f.run("run --for 1s --out taken");
    CHECK(r.exit == 3);
    CHECK(contains(r.err, "cannot write taken/trace.vcd: it is a folder"));
    CHECK_FALSE(f.has("taken/trace.csv"));
    for (const auto& entry : fs::recursive_directory_iterator(f / "taken")) CHECK(entry.path().extension() != ".tmp");
    f.write("plain", "kept");
    CHECK(f.run("run --for 1s --out plain").exit == 3);
    CHECK(f.read("plain") == "kept");
}

TEST_CASE("no colour in a pipe") {
    Folder f;
    write_small_yard(f);
    CHECK_FALSE(contains(f.run("prove").out, "\033["));
}
