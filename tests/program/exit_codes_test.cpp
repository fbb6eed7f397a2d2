// The exit codes that README promises, of every command, from outside: 0 all well, 1 a verdict failed, 2 the input or
// the command line is wrong, 3 the system refuses what is read or written.
#include <set>

#include "program/support.hpp"

using namespace vyard::test;

namespace {

struct Row {
    int exit;
    const char* line;
};

/// `good`: the small yard; `failing`: one whose procedure fails; `wrong`: one that does not compile; `looped`: one with
/// a file that the system refuses, a link to itself (this holds for root as well).
constexpr Row kRows[] = {
    {0, "demo --out d"},
    {0, "new fresh"},
    {2, "new good"},
    {2, "new other --like no-such-example"},
    {3, "new /proc/none"},
    {0, "check good"},
    {2, "check wrong"},
    {2, "check nowhere"},
    {2, "check good --no-such-option"},
    {3, "check looped"},
    {3, "check looped --json"},
    {3, "check link.st"},
    {0, "tags good"},
    {2, "tags wrong"},
    {2, "tags good --cross nothing"},
    {2, "tags good --import none.csv"},
    {3, "tags good --import link.csv"},
    {3, "tags good --csv --out /proc/none"},
    {0, "map good"},
    {2, "map good --write"},
    {3, "map looped"},
    {3, "map good --csv --out /proc/none"},
    {0, "checkout good"},
    {1, "checkout crossed"},
    {2, "checkout wrong"},
    {3, "checkout good --out /proc/none"},
    {0, "run good --for 1s"},
    {1, "run failing -p Go"},
    {1, "run good --for 1s --do 'expect run within 10 ms'"},
    {2, "run good --for 1"},
    {2, "run good --for 1s --do 'drive nothing = TRUE'"},
    {3, "run good --for 1s --out /proc/none"},
    {3, "run looped --for 1s"},
    {0, "live good --plain"},
    {2, "live wrong"},
    {2, "tell good time"},
    {0, "serve good --link screen@127.0.0.1:0 --for 100ms"},
    {1, "serve good --link server@127.0.0.1:0 --for 100ms --wait 10ms"},
    {2, "serve good"},
    {2, "serve wrong"},
    {3, "serve good --link screen@192.0.2.1:1502 --for 1s"},
    {0, "stand-in good --link server@127.0.0.1:9 --for 100ms"},
    {2, "stand-in good"},
    {3, "stand-in good --link client@192.0.2.1:1502 --for 100ms"},
    {0, "prove good"},
    {1, "prove failing"},
    {2, "prove wrong"},
    {2, "prove good -p nothing"},
    {3, "prove good --out /proc/none"},
    {3, "prove looped"},
    {0, "campaign stops good --limit 3"},
    {1, "campaign smoke crossed"},
    {2, "campaign nothing good"},
    {2, "campaign stops wrong"},
    {2, "campaign merge"},
    {3, "campaign smoke looped"},
    {3, "campaign smoke good --out /proc/none"},
    {0, "draw plan good --out p.svg"},
    {1, "draw plan good --do 'expect run within 10 ms' --out q.svg"},
    {2, "draw nothing good"},
    {2, "draw plan wrong --out p.svg"},
    {3, "draw plan good --out /proc/none.svg"},
    {3, "draw timing --trace link.csv --watch run --out p.svg"},
    {0, "format good --check"},
    {1, "format unformatted.st --check"},
    {2, "format wrong.st"},
    {3, "format link.st"},
    {0, "convert good/line.st"},
    {2, "convert wrong.st"},
    {2, "convert none.xml"},
    {3, "convert good/line.st --out /proc/none.xml"},
    {3, "convert link.xml"},
    {0, "show tasks good"},
    {2, "show nothing good"},
    {3, "show tasks looped"},
    {0, "compare a/trace.csv a/trace.csv"},
    {1, "compare a/trace.csv b/trace.csv"},
    {2, "compare a/trace.csv none.csv"},
    {3, "compare a/trace.csv link.csv"},
    {0, "why good run --at 1s"},
    {2, "why good nothing --at 1s"},
    {3, "why looped run --at 1s"},
    {0, "measure b/trace.csv --from 'rises(run)' --to 'falls(run)'"},
    {1, "measure a/trace.csv --from 'rises(run)' --to 'falls(run)'"},
    {2, "measure none.csv --from 'rises(run)' --to 'falls(run)'"},
    {3, "measure link.csv --from 'rises(run)' --to 'falls(run)'"},
    {0, "kinds belt"},
    {2, "kinds nothing"},
    {3, "kinds --figures /proc/none"},
    {0, "blocks TON"},
    {2, "blocks nothing"},
    {0, "completion bash"},
    {2, "completion nothing"},
    {0, "manual"},
    {2, "manual nothing"},
    {3, "manual --out /proc/none"},
    {0, "--version"},
    {0, "--help"},
    {0, "help check"},
    {2, "help nothing"},
    {2, "nothing"},
    {2, ""},
};

void prepare(Folder& f) {
    for (const char* name : {"good", "failing", "wrong", "looped", "crossed"}) {
        Folder small;
        write_small_yard(small);
        fs::copy(small.path(), f / name, fs::copy_options::recursive);
    }
    f.replace("failing/go.proc", "expect run within 50 ms", "expect not run for 50 ms");
    f.replace("wrong/line.st", "OR start_pb", "OR start_bp");
    f.replace("crossed/plant.toml", "contact = \"normally closed\"", "contact = \"normally open\"");
    f.replace("crossed/map.csv", "stop_pb,stop,,", "stop_pb,stop,,normally closed");
    f.write("wrong.st", "LADDER\n|  a  b |\n+--| |--\nEND_LADDER\n");
    f.write("unformatted.st",
            "PROGRAM p\nLADDER\n|  a          b    |\n+-| |---------( )--+\nEND_LADDER\nEND_PROGRAM\n");
    for (const char* name : {"looped/loop.st", "link.st", "link.csv", "link.xml"})
        fs::create_symlink(fs::path(name).filename(), f / name);
    REQUIRE(f.run("run good --for 1s --out a").exit == 0);
    REQUIRE(f.run("run good --for 1s --do 'press start for 100 ms' --do 'wait 200 ms' --do 'press stop for 100 ms' "
                  "--out b")
                .exit == 0);
}

}  // namespace

TEST_CASE("exit codes: every command, as README says") {
    Folder f;
    prepare(f);
    std::set<std::string> seen;
    for (const Row& row : kRows) {
        const std::string line = row.line;
        seen.insert(line.substr(0, line.find(' ')));
        const Result r = f.run(line);
        CHECK_MESSAGE(r.exit == row.exit, fmt::format("{}\n{}{}", line, r.out, r.err));
        if (row.exit >= 2 && !line.empty() && !contains(line, "--json")) CHECK_MESSAGE(!r.err.empty(), line);
        CHECK_MESSAGE(!contains(r.err, "internal error"), line);
    }
    const std::string help = f.run("--help").out;
    for (const std::string& line : lines_of(help)) {
        if (!line.starts_with("  ") || line.size() < 4) continue;
        const std::string command = line.substr(2, line.find(' ', 2) - 2);
        CHECK_MESSAGE(seen.contains(command), command);
    }
}
