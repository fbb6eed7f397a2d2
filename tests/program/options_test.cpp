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
