// Options that exclude each other, or mean something with another alone: obeyed or refused, never dropped. And the
// forms of results: JSON is JSON, CSV is CSV, whatever else is asked for.
#include <nlohmann/json.hpp>

#include <algorithm>
#include <set>
#include <sstream>
#include <vector>

#include "program/support.hpp"

using namespace vyard::test;
using nlohmann::json;

namespace {

/// An option as typed, with a value that would do alone.
struct Given {
    const char* name;
    const char* value;
};

struct Row {
    const char* command;  ///< With the words that stand behind it.
    std::vector<Given> modes;
};

/// Of each command what cannot be had at once: any two of a row are refused.
const std::vector<Row>& exclusive() {
    static const std::vector<Row> all = {
        {"check glaze", {{"code", ""}, {"explain", "30_modes.st:9"}, {"json", ""}}},
        {"tags glaze",
         {{"cross", "line_run"},
          {"next", "'1 bool input'"},
          {"free", ""},
          {"addresses", ""},
          {"import", "list.csv"},
          {"put-retained", "list.csv"},
          {"retained", ""},
          {"at-rest", ""}}},
        {"tags glaze", {{"csv", ""}, {"json", ""}}},
        {"map glaze", {{"unjoined", ""}, {"wires", ""}, {"propose", ""}}},
        {"map glaze", {{"csv", ""}, {"json", ""}}},
        {"checkout glaze", {{"csv", ""}, {"json", ""}, {"out", "x"}}},
        {"kinds", {{"json", ""}, {"markdown", ""}, {"figures", "x"}}},
        {"blocks", {{"json", ""}, {"markdown", ""}}},
        {"live glaze", {{"go-on", ""}, {"fresh", ""}}},
        {"live glaze", {{"plain", ""}, {"ascii", ""}}},
    };
    return all;
}

struct Pair {
    const char* arguments;
    const char* message;
};
constexpr Pair kPairs[] = {
    {"tags glaze --free --json", "--free and --json exclude each other"},
    {"tags glaze --cross line_run --at-rest", "--cross and --at-rest exclude each other"},
    {"tags glaze --addresses --sort tag", "--addresses and --sort exclude each other"},
    {"tags glaze --next '1 bool input' --out x", "--next and --out exclude each other"},
    {"tags glaze --at-rest --as hex", "--as and --at-rest exclude each other"},
    {"tags glaze --controller line", "--controller needs --next or --free or --import or --addresses"},
    {"check glaze --no-warnings --json", "--no-warnings and --json exclude each other"},
    {"check glaze --strict --code", "--strict and --code exclude each other"},
    {"map glaze --at-least 50", "--at-least needs --propose"},
    {"map glaze --write", "--write needs --propose"},
    {"run glaze --watch dip_step", "--watch needs --out or --chunks"},
    {"run glaze --on-change", "--on-change needs --watch"},
    {"draw plan glaze --watch dip_step", "--watch is for timing, trend"},
    {"draw timing glaze --at 1s", "--at is for plan, logic"},
    {"draw rack glaze --do 'wait 1 s'", "--do is for plan, logic, timing, trend"},
    {"draw plan glaze --coverage", "--coverage is for logic"},
    {"draw timing --trace x.csv --for 1s", "--trace and --for exclude each other"},
    {"show tasks glaze --ascii", "--ascii is for logic"},
};

std::string typed(const Given& g) {
    return std::string(" --") + g.name + (*g.value == '\0' ? "" : std::string(" ") + g.value);
}

}  // namespace

TEST_CASE("any two modes of a command at once are refused, in either order, and nothing is written") {
    Folder f;
    f.copy_example();
    f.write("list.csv", "tag\nline_run\n");
    for (const Row& row : exclusive()) {
        for (const Given& a : row.modes) {
            for (const Given& b : row.modes) {
                if (&a == &b) continue;
                const std::string arguments = row.command + typed(a) + typed(b);
                CAPTURE(arguments);
                const Result r = f.run(arguments);
                CHECK(r.exit == 2);
                CHECK(r.out == "");
                CHECK(contains(r.err, "exclude each other"));
                CHECK(contains(r.err, std::string("--") + a.name));
                CHECK(contains(r.err, std::string("--") + b.name));
                CHECK_FALSE(f.has("x"));
            }
        }
    }
    for (const Pair& p : kPairs) {
        CAPTURE(std::string(p.arguments));
        const Result r = f.run(p.arguments);
        CHECK(r.exit == 2);
        CHECK_MESSAGE(r.err.starts_with(std::string("error: ") + p.message), r.err);
    }
}

TEST_CASE("--json is JSON in every mode that takes it, and --csv has its columns") {
    Folder f;
    f.copy_example();
    REQUIRE(f.run("run glaze --for 2s --out t").exit == 0);
    for (const char* arguments :
         {"check glaze --json", "tags glaze --json", "tags glaze --json --as hex", "tags glaze --json --at-rest",
          "tags glaze --json --retained", "tags glaze --json --sort tag --filter type=BOOL", "map glaze --json",
          "map glaze --json --unjoined", "map glaze --json --propose", "checkout glaze --json --only lift",
          "prove glaze --json", "prove glaze --json --coverage", "compare t/trace.csv t/trace.csv --json",
          "measure t/trace.csv --from 'rises(agitator_run)' --to 'rises(infeed_run)' --json", "kinds --json",
          "kinds belt --json", "blocks --json", "blocks ramp --json"}) {
        CAPTURE(std::string(arguments));
        const Result r = f.run(arguments);
        CHECK(r.exit <= 1);
        CHECK_MESSAGE(json::accept(r.out), r.out.substr(0, 200));
    }
    for (const char* arguments : {"tags glaze --csv", "tags glaze --csv --at-rest", "map glaze --csv",
                                  "map glaze --csv --unjoined", "checkout glaze --csv --only lift"}) {
        CAPTURE(std::string(arguments));
        const Result r = f.run(arguments);
        CHECK(r.exit == 0);
        std::set<std::size_t> cells;  // commas of a row without quoted ones
        std::istringstream lines(r.out);
        for (std::string line; std::getline(lines, line);) {
            if (line.find('"') == std::string::npos)
                cells.insert(static_cast<std::size_t>(std::count(line.begin(), line.end(), ',')));
        }
        CHECK(cells.size() == 1);
    }
}

TEST_CASE("a name is honoured in every form of the reference") {
    Folder f;
    CHECK(f.run("kinds belt --markdown").out.starts_with("\n## belt\n"));
    CHECK_FALSE(contains(f.run("kinds belt --markdown").out, "## chute"));
    CHECK(contains(f.run("blocks ramp --markdown").out, "ramp"));
    CHECK_FALSE(contains(f.run("blocks ramp --markdown").out, "pid_controller"));
    CHECK(json::parse(f.run("kinds belt --json").out).size() == 1);
    CHECK(f.run("kinds belt --figures x").exit == 2);
    CHECK_FALSE(f.has("x"));
}

TEST_CASE("--quiet says what was asked for and what went wrong, and nothing else") {
    Folder f;
    write_small_yard(f);
    for (const char* call : {"check --quiet", "run --for 1s --out t -q", "prove -q", "draw plan --out p.svg -q",
                             "new other -q", "checkout -q --out c"}) {
        CAPTURE(std::string(call));
        const Result r = f.run(call);
        CHECK(r.exit == 0);
        CHECK(r.out == "");
        CHECK(r.err == "");
    }
    CHECK(f.has("p.svg"));
    CHECK(contains(f.run("tags -q").out, "start_pb"));
    f.replace("go.proc", "expect run within 50 ms", "expect not run for 1 s");
    const Result failed = f.run("prove -q");
    CHECK(failed.exit == 1);
    CHECK(contains(failed.out, "expect not run for 1 s"));
}

TEST_CASE("--strict makes warnings errors in every command that loads a yard") {
    Folder f;
    write_small_yard(f);
    f.replace("line.st", "END_VAR", "    spare : INT;\nEND_VAR");
    for (const char* command :
         {"check", "run --for 1s", "prove", "tags", "map", "checkout", "draw plan", "show tasks"}) {
        CAPTURE(std::string(command));
        CHECK(f.run(command).exit == 0);
        const Result r = f.run(std::string(command) + " --strict");
        CHECK(r.exit == 2);
        CHECK(r.out == "");
        CHECK(contains(r.err, "[unused-variable]"));
        CHECK(r.err.ends_with("1 warning, and --strict\n"));
    }
}

TEST_CASE("--color: always, never, or as the terminal is") {
    Folder f;
    write_small_yard(f);
    CHECK(contains(f.run("prove --color always").out, "\x1b["));
    CHECK_FALSE(contains(f.run("prove").out, "\x1b["));
    CHECK_FALSE(contains(f.run("prove --color never").out, "\x1b["));
    f.replace("line.st", "END_VAR", "    spare : INT;\nEND_VAR");
    CHECK(contains(f.run("check --color always").err, "\x1b[1;35mwarning:\x1b[0m"));
    f.write("list.csv", "tag\nrun\n");  // not loaded with the yard: the same colours
    CHECK(contains(f.run("tags --import list.csv --color always").err, "\x1b[1;31merror:\x1b[0m"));
    CHECK(contains(f.run("run --do 'prss start' --color always").err, "\x1b[1;31merror:\x1b[0m"));
    CHECK(contains(f.run("check --color sometimes").err, "none of auto, always and never"));
}

TEST_CASE("--set and --seed: a key of a device, an initial value, what is random") {
    Folder f;
    f.copy_example();
    const Result r =
        f.run("run glaze --for 100ms --set glaze.level=\"0.2 m\" --set dip_step=50 --watch plant.glaze.level --out t");
    CHECK(r.exit == 0);
    CHECK(contains(f.read("t/watch.csv"), ",0.2\n"));
    const Result unknown = f.run("run glaze --set glaze.levle=1m");
    CHECK(unknown.exit == 2);
    CHECK(contains(unknown.err, "--set:1:1: error: a tank has no 'levle'"));
    CHECK(contains(f.run("run glaze --set nothing").err, "--set: 'nothing' has no '='"));
    CHECK(contains(f.run("prove glaze --set dip_steep=5").err, "did you mean 'dip_step'?"));
    CHECK(contains(f.run("run glaze --seed 1.5").err, "is not a whole number"));
    f.write("plant.toml",
            "[item.a]\nsize = [\"100 mm\", \"100 mm\", \"50 mm\"]\n[belt.b]\nat = [\"0 m\", \"0 m\"]\nlength = "
            "\"3 m\"\nspeed = \"1 m/s\"\n[infeed.in]\non = \"b\"\nat = \"0.2 m\"\nitem = \"a\"\ninterval = \"1 s\"\n"
            "spread = \"50 %\"\n");
    f.write("yard.toml", "[yard]\nplant = \"plant.toml\"\n");
    const auto seeded = [&](const std::string& seed) {
        CHECK(f.run("run . --for 20s --do \"drive b.run = TRUE\" --watch in.fed --out s" + seed).exit == 0);
        return f.read("s/trace.csv");
    };
    const std::string one = seeded(" --seed 1"), two = seeded(" --seed 2");
    CHECK(one == seeded(""));
    CHECK(one != two);
    CHECK(two == seeded(" --seed 2"));
}

TEST_CASE("--out - is standard output; --use stands in for yard.toml too, and its mistakes are its own") {
    Folder f;
    f.copy_example();
    CHECK(f.run("tags glaze --csv --out -").out == f.run("tags glaze --csv").out);
    CHECK(f.run("draw plan glaze --out -").out.starts_with("<?xml"));
    CHECK(f.run("convert glaze --out -").out == f.run("convert glaze").out);
    for (const char* folder : {"run glaze --for 1s --out -", "prove glaze --out -", "checkout glaze --out -"})
        CHECK(f.run(folder).err.starts_with("error: --out names a folder here"));
    CHECK(f.run("run glaze --for 1s --out t").exit == 0);
    CHECK(contains(f.run("compare t/trace.csv t/trace.csv --figure -").err, "the format of '-' is not known"));
    // What failed is said beside the figure.
    const Result failed = f.run("draw plan glaze --do 'expect line_run within 1 s' --out -");
    CHECK(failed.exit == 1);
    CHECK(failed.out.ends_with("</svg>\n"));
    CHECK(contains(failed.err, "expect line_run within 1 s"));
    CHECK_FALSE(f.has("-"));
    f.write("other.toml",
            "[yard]\nname = \"Other\"\nplant = \"plant.toml\"\n[controller.line]\nlogic = \"logic/*.st\"\n");
    CHECK(contains(f.run("check glaze --use yard.toml=other.toml").out, "Other: "));
    const Result none = f.run("check glaze --use yard.toml=none.toml");
    CHECK(none.exit == 2);
    CHECK(none.err.starts_with("--use:1:1: error: cannot read none.toml"));
    CHECK(f.run("check glaze --use map.csv=none.csv").err.starts_with("--use:1:1: error: cannot read none.csv"));
}

TEST_CASE("prove: orders before each procedure, procedures by option, what failed alone") {
    Folder f;
    f.copy_example();
    const Result one = f.run("prove glaze -p \"Normal cycle\" -p 3_top_up");
    CHECK(contains(one.out, "2 of 2 procedures passed"));
    const Result before = f.run("prove glaze -p \"Normal cycle\" --do 'fault dip_eye stuck off' --failed");
    CHECK(before.exit == 1);
    CHECK(contains(before.out, "failed           Normal cycle"));
    CHECK(contains(before.out, "0 of 1 procedure passed"));
    const Result all = f.run("prove glaze --failed");
    CHECK(all.out == "5 of 5 procedures passed\n");
    CHECK(f.run("prove glaze --do 'expect line_run within 1 s'").exit == 1);
}

TEST_CASE("a timing chart says what happened: orders, names of values, cursors, the yard and the run") {
    Folder f;
    f.copy_example();
    REQUIRE(
        f.run("draw timing glaze -p \"Normal cycle\" --from 9s --to 18s --watch dip_step --watch lift.position --mark "
              "12.26s,14.28s --out t.svg")
            .exit == 0);
    const std::string zoomed = f.read("t.svg");
    for (const char* text :
         {">Glaze line: Normal cycle<", ">10 WAIT_BRICK<", ">40 DWELL<", "B - A = 2.02 s", ">0.4 m<"})
        CHECK_MESSAGE(contains(zoomed, text), text);
    REQUIRE(f.run("draw timing glaze -p 4_faults --watch alarm_code --out u.svg").exit == 0);
    const std::string whole = f.read("u.svg");
    CHECK(contains(whole, "press panel.start for 200 ms<"));
    CHECK(contains(whole, "fault dip_eye stuck off<"));
    CHECK(contains(f.run("draw timing glaze --for 5s --watch dip_step --mark 6s --out v.svg").err,
                   "is not in the figure"));
    REQUIRE(f.run("draw timing glaze -p \"Normal cycle\" --use logic/40_dip.st=glaze/variants/early_infeed.st --watch "
                  "dip_step "
                  "--out w.svg")
                .exit == 1);
    CHECK(contains(f.read("w.svg"), "broken: Nothing comes in while the lift is away<"));
    CHECK(contains(f.read("w.svg"), ">Glaze line: Normal cycle with glaze/variants/early_infeed.st<"));
}

TEST_CASE("the plan names every device, with what it shows") {
    Folder f;
    f.copy_example();
    REQUIRE(f.run("draw plan glaze --at 0s --out p.svg").exit == 0);
    const std::string rest = f.read("p.svg");
    for (const std::string& line : lines_of(f.read("glaze/plant.toml"))) {
        if (!line.starts_with("[") || !contains(line, ".") || line.starts_with("[item.")) continue;
        const std::string name = line.substr(line.find('.') + 1, line.find(']') - line.find('.') - 1);
        CHECK_MESSAGE(contains(rest, name), name);
    }
    CHECK(contains(rest, ">not lit<"));
    CHECK_FALSE(contains(rest, ">lit<"));
    REQUIRE(
        f.run("draw plan glaze --do 'turn panel.mode to automatic' --do 'press panel.start for 200 ms' --do 'wait 1 "
              "s' --out p.svg")
            .exit == 0);
    CHECK(contains(f.read("p.svg"), ">lit<"));
}
