// What is read and written: texts that are no text, files that are none, results that would take an input's place, runs
// that are ended from outside.
#include <sys/stat.h>
#include <sys/wait.h>

#include <csignal>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <thread>

#include "program/support.hpp"

using namespace vyard::test;

namespace {

mode_t mode_of(const fs::path& path) {
    struct stat found {};
    REQUIRE(::stat(path.c_str(), &found) == 0);
    return found.st_mode & 0777U;
}

}  // namespace

TEST_CASE("every reader wants UTF-8, and says where it is not") {
    struct Row {
        const char* file;
        const char* begin;  ///< Put in front of the file.
        const char* says;
    };
    const Row rows[] = {
        {"line.st", "(* gr\xFC\xDF *)\n", "line.st:1:6: error: this is not UTF-8: the byte FC"},
        {"plant.toml", "# gr\xFC\xDF\n", "plant.toml:1:5: error: this is not UTF-8: the byte FC"},
        {"yard.toml", "\n# \xE4\n", "yard.toml:2:3: error: this is not UTF-8: the byte E4"},
        {"map.csv", "# \xC0\xAF\n", "map.csv:1:3: error: this is not UTF-8: the byte C0"},
        {"go.proc", "# \xED\xA0\x80\n", "go.proc:1:3: error: this is not UTF-8: the byte ED"},
        {"line.st", "\xFF\xFEP\0", "line.st: error: line.st is UTF-16"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.file);
        Folder f;
        write_small_yard(f);
        f.write(row.file, row.begin + f.read(row.file));
        for (const char* command : {"check", "check --json", "prove", "tags --json", "map --json"}) {
            const Result r = f.run(command);
            CAPTURE(command);
            CHECK(r.exit == 2);
            const std::string said =
                std::string(command) == "check --json" ? nlohmann::json::parse(r.out)["diagnostics"].dump() : r.err;
            CHECK_MESSAGE(contains(said, std::string(row.says).substr(std::string(row.says).find("error: ") + 7)),
                          said);
            if (said == r.err) CHECK_MESSAGE(contains(said, row.says), said);
        }
    }
    Folder f;  // tables of stimuli, lists and traces too; and a byte order mark is fine
    write_small_yard(f);
    for (const char* name : {"line.st", "plant.toml", "map.csv", "go.proc", "yard.toml"})
        f.write(name, "\xEF\xBB\xBF" + f.read(name));
    CHECK(f.run("prove").exit == 0);
    f.write("t.csv", "time,tag,value\n0.1,\xFC,1\n");
    CHECK(contains(f.run("run --stimulus t.csv").err, "t.csv:2:5: error: this is not UTF-8"));
    CHECK(contains(f.run("tags --import t.csv").err, "t.csv:2:5: error: this is not UTF-8"));
    CHECK(contains(f.run("compare t.csv t.csv").err, "t.csv:2:5: error: this is not UTF-8"));
}

TEST_CASE("what is written is well-formed, whatever the names are") {
    Folder f;
    write_small_yard(f);
    f.write("go.proc", "procedure \"A\x01 <&> \x1b[31m\"\nstep \"=1+1, \x7f\"\n    expect run\n    note \"n\"\n");
    f.replace("line.st", "see_tile AT %IX0.2 : BOOL;", "see_tile AT %IX0.2 : BOOL;  (* =cmd|' /C calc'!A0 *)");
    const Result prove = f.run("prove --out results");
    CHECK(prove.exit == 1);
    CHECK(prove.out.find('\x1b') == std::string::npos);
    pugi::xml_document xml;
    REQUIRE(xml.load_string(f.read("results/junit.xml").c_str()));
    CHECK(std::string(xml.select_node("//testsuite/@name").attribute().value()) == "A\\x01 <&> \\x1B[31m");
    CHECK(f.read("results/junit.xml").find("&#1;") == std::string::npos);
    CHECK(nlohmann::json::accept(f.read("results/verdicts.json")));
    CHECK(nlohmann::json::accept(f.run("tags --json").out));
    // A spreadsheet takes no description for a formula, and reading takes the apostrophe off again.
    const std::string csv = f.run("tags --csv").out;
    CHECK(contains(csv, ",'=cmd|' /C calc'!A0\n"));
    // Messages show control characters and what is around the mark, not all of a long line.
    f.write("line.st", "PROGRAM main \x1b[31m" + std::string(3'000'000, 'n') + " := 1; END_PROGRAM\n");
    const Result bad = f.run("check");
    CHECK(bad.exit == 2);
    CHECK(bad.err.size() < 50'000);
    CHECK(bad.err.find('\x1b') == std::string::npos);
    CHECK(contains(bad.err, "\\x1B[31mnnn"));
}

TEST_CASE("cells in quotes hold line breaks, and what stands behind them has its own line") {
    Folder f;
    write_small_yard(f);
    f.write("map.csv",
            "tag,point,scaling,note\nstart_pb,start,,\"two\nlines, "
            "\"\"quoted\"\"\"\nstop_pb,stop,,\nsee_tile,see.signal,,\n"
            "run,a.run,,\n");
    const auto json = nlohmann::json::parse(f.run("map --json").out);
    CHECK(json[0]["note"] == "two\nlines, \"quoted\"");
    f.replace("map.csv", "see.signal", "see.sig");
    CHECK(contains(f.run("check").err, "map.csv:5:10: error: no point is named 'see.sig'"));
    f.replace("map.csv", "\"two\n", "two\n\"");
    f.replace("map.csv", "\"\"quoted\"\"\"", "");
    CHECK(contains(f.run("check").err, "error: a cell in quotes is never closed"));
}

TEST_CASE("special files are not read, and strangers' files only when they are meant") {
    Folder f;
    write_small_yard(f);
    REQUIRE(::mkfifo((f / "pipe.st").c_str(), 0600) == 0);
    for (const char* file : {"/dev/zero", "pipe.st"}) {
        const Result r = f.run(fmt::format("check --outside --use line.st={}", file));
        CHECK(r.exit == 2);
        CHECK_MESSAGE(contains(r.err, "it is not a file with an end, but a pipe or a device"), r.err);
    }
    fs::remove(f / "pipe.st");
    Folder other;
    other.write("secret.st", "the line of a stranger\n");
    const std::string path = (other / "secret.st").string();
    const Result refused = f.run("check --use line.st=" + path);
    CHECK(refused.exit == 2);
    CHECK(contains(refused.err, "lies outside of the yard and of the current folder"));
    CHECK_FALSE(contains(refused.err, "the line of a stranger"));
    CHECK(contains(f.run("check --outside --use line.st=" + path).err, "the line of a stranger"));
    // Neither by an order nor through a link that a yard brings along does a live session show them.
    fs::create_directory(f / "lists");
    fs::create_symlink(path, f / "lists/mine.csv");
    for (const std::string& line : {"table " + path, "procedure " + path, std::string("list mine")}) {
        const Result live = f.run("live --plain --pace max --for 1s", line + "\n");
        CHECK_MESSAGE(contains(live.out + live.err, "lies outside of the yard and of the current folder"), live.out);
        CHECK_FALSE(contains(live.out + live.err, "the line of a stranger"));
    }
    CHECK(contains(f.run("live --plain --pace max --for 1s --outside", "table " + path + "\n").out,
                   "the line of a stranger"));
    fs::create_symlink(path, f / "linked.st");  // *.st matches it
    CHECK_FALSE(contains(f.run("check").err, "the line of a stranger"));
    fs::remove(f / "linked.st");
    f.replace("yard.toml", "\"*.st\"", "\"../*/secret.st\"");
    CHECK_FALSE(contains(f.run("check").err, "the line of a stranger"));
}

TEST_CASE("a folder's own name is no pattern") {
    Folder f;
    const std::string name = "machine [v2] * ?";
    fs::create_directory(f / name);
    Folder small;
    write_small_yard(small);
    for (const auto& e : fs::directory_iterator(small.path())) fs::copy(e.path(), f / name / e.path().filename());
    CHECK(f.run("prove 'machine [v2] * ?'").exit == 0);
}

TEST_CASE("results take no input's place, and are tried before the run") {
    Folder f;
    write_small_yard(f);
    f.write("checkout.csv", "direction,point,tag\n");
    f.write("table.csv", "time,tag,value\n0.1,run,TRUE\n");
    struct Row {
        const char* call;
        const char* kept;
    };
    const Row rows[] = {{"tags --csv --out line.st", "line.st"},
                        {"map --out map.csv", "map.csv"},
                        {"map --csv --out ./sub/../plant.toml", "plant.toml"},
                        {"tags --out go.proc", "go.proc"},
                        {"checkout --out .", "checkout.csv"},
                        {"run --for 1s --stimulus table.csv --chunks table.csv", "table.csv"},
                        {"tags --stimulus table.csv", "table.csv"},
                        {"draw plan --out yard.toml.svg", "yard.toml"}};
    for (const Row& row : rows) {
        CAPTURE(row.call);
        const std::string before = f.read(row.kept);
        const Result r = f.run(row.call);
        CHECK(f.read(row.kept) == before);
        if (contains(row.call, "svg") || contains(row.call, "tags --stimulus")) continue;
        CHECK(r.exit == 2);
        CHECK_MESSAGE(contains(r.err, "would take the place of"), r.err);
    }
    // A run that could not be written in the end is not begun.
    f.write("wall", "no folder\n");
    for (const char* call : {"run --for 1s --out wall", "prove --out wall", "checkout --out wall",
                             "draw plan --out wall/a.svg", "run --for 1s --chunks wall/c"}) {
        const Result r = f.run(call);
        CAPTURE(call);
        CHECK(r.exit == 3);
        CHECK(r.out.empty());
        CHECK_MESSAGE(contains(r.err, "wall is not a folder"), r.err);
    }
    REQUIRE(f.run("run --for 100ms --out results").exit == 0);
    for (const char* call : {"compare results/trace.csv results/trace.csv --figure results/trace.csv",
                             "draw timing --trace results/trace.csv --watch run --out results/trace.csv"})
        CHECK(f.run(call).exit == 2);
}

TEST_CASE("links stay links, modes stay, and what is write-protected is left alone") {
    Folder f;
    write_small_yard(f);
    f.write("real/map.csv", "tag,point,scaling,note\nstart_pb,start,,\nstop_pb,stop,,\nrun,a.run,,\n");
    fs::remove(f / "map.csv");
    fs::create_symlink("real/map.csv", f / "map.csv");
    ::chmod((f / "real/map.csv").c_str(), 0640);
    REQUIRE(f.run("map --propose --write --at-least 0%").exit == 0);
    CHECK(fs::is_symlink(f / "map.csv"));
    CHECK(contains(f.read("real/map.csv"), "see_tile,see.signal"));
    CHECK(mode_of(f / "real/map.csv") == 0640);
    f.write("tags.csv", "old\n");
    ::chmod((f / "tags.csv").c_str(), 0440);
    const Result r = f.run("tags --csv --out tags.csv");
    CHECK(r.exit == 3);
    CHECK(contains(r.err, "it is write-protected"));
    CHECK(f.read("tags.csv") == "old\n");
}

TEST_CASE("a run that is ended from outside says so and leaves what there is, whole") {
    struct Way {
        const char* call;
        int signal;
        const char* result;
    };
    for (const Way& way : {Way{"run --for 900000s --out results", SIGINT, "results/trace.vcd"},
                           {"run --for 900000s --chunks results/long.chunks", SIGTERM, "results/long.chunks"},
                           {"prove --out results", SIGINT, "results/junit.xml"},
                           {"prove --out results", SIGTERM, "results/verdicts.json"}}) {
        CAPTURE(way.call);
        Folder f;
        write_small_yard(f);
        f.write("go.proc", "procedure \"Long\"\nstep \"A\"\n    wait 900000 s\n");
        const fs::path err = f / ".err";
        const pid_t child = ::fork();
        if (child == 0) {
            const std::string command =
                fmt::format("cd '{}' && exec '{}' {} >.out 2>.err", f.path().string(), VYARD_PROGRAM, way.call);
            ::execl("/bin/sh", "sh", "-c", command.c_str(), nullptr);
            ::_exit(127);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(700));
        ::kill(child, way.signal);
        int status = 0;
        ::waitpid(child, &status, 0);
        REQUIRE(WIFEXITED(status));
        CHECK(WEXITSTATUS(status) == 128 + way.signal);
        CHECK(contains(slurp(err), way.signal == SIGINT ? "ended by SIGINT" : "ended by SIGTERM"));
        CHECK(f.has(way.result));
        for (const auto& e : fs::recursive_directory_iterator(f.path())) CHECK(e.path().extension() != ".tmp");
        if (contains(way.call, "prove"))
            CHECK(contains(f.read("results/verdicts.txt"), "it was ended from outside at"));
    }
}

TEST_CASE("yards without a plant, without a map, without a controller") {
    Folder f;
    write_small_yard(f);
    f.write("yard.toml", "[yard]\n[controller.line]\nlogic = [\"line.st\"]\n");
    CHECK(f.run("check").exit == 0);
    CHECK(contains(f.run("run --do 'force start_pb = TRUE' --for 1s").out, "controller line: 101 scans, running"));
    f.write("yard.toml", "[yard]\nplant = \"plant.toml\"\nprocedures = [\"hand.proc\"]\n");
    f.write("hand.proc",
            "procedure \"By hand\"\nstep \"The belt runs\"\n    place tile on a at 0.5 m\n    drive a.run = TRUE\n"
            "    wait until see.signal within 5 s\n    undrive a.run\n    expect not a.run\n"
            "    take from a at 2 m\n    expect plant.items = 0\n");
    CHECK(f.run("check").exit == 0);
    const Result r = f.run("prove");
    CHECK_MESSAGE(r.exit == 0, r.out);
    CHECK(contains(r.out, "took tile 1 at 1.9"));
    CHECK(f.run("run --do 'drive a.run = TRUE' --for 1s").exit == 0);
    CHECK(contains(f.run("run --do 'drive a.run = TRUE' --for 1s").out, "hand: a.run driven TRUE by hand"));
    CHECK(contains(f.run("run --do 'take from a at 1 m' --do 'wait 1 s'").out, "there is no item on 'a'"));
    CHECK(contains(f.run("run --do 'place tile on a at 0.5 m' --do 'take from a at 1 m'").out,
                   "there is no item within its length of 1 m; the nearest is tile 1 at 0.500 m on 'a'"));
    CHECK(contains(f.run("run --do 'take from floor'").out, "nothing lies on the floor"));
    CHECK(contains(f.run("run --do 'drive see.signal = TRUE'").err, "is nothing that a device is told by wire"));
}

TEST_CASE("names of tables that begin as no name does are reported") {
    for (const char* name : {"=", "!", "\x01", "", " ", "a.", "a.\x01", "[", "[]", "[=]", "{", "a b"}) {
        Folder f;
        write_small_yard(f);
        f.write("plant.toml", std::string("[") + name + "]\nlength = \"1 m\"\n");
        CAPTURE(std::string(name));
        const Result r = f.run("check");
        CHECK(r.exit == 2);
        CHECK_MESSAGE(contains(r.err, "plant.toml:1:"), r.err);
    }
}
