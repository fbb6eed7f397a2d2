// The first hour: help, a yard to start from, man pages, completion, the package.
#include <fmt/format.h>

#include <filesystem>
#include <sstream>
#include <vector>

#include "program/support.hpp"

using namespace vyard::test;

namespace {

/// The commands that the help lists.
std::vector<std::string> commands(Folder& f) {
    std::vector<std::string> out;
    for (const std::string& line : lines_of(f.run("help").out)) {
        if (line.starts_with("  ")) out.push_back(line.substr(2, line.find(' ', 2) - 2));
    }
    return out;
}

}  // namespace

TEST_CASE("help and version, of all and of one command") {
    Folder f;
    CHECK(f.run("help check").out == f.run("check --help").out);
    CHECK(f.run("help").out == f.run("--help").out);
    const Result version = f.run("--version");
    CHECK(version.out.starts_with("vyard 0."));
    CHECK(contains(f.run("help").out, "vyard --version"));
    const Result wrong = f.run("help chek");
    CHECK(wrong.exit == 2);
    CHECK(wrong.err == "error: no command is named 'chek'\n    hint: did you mean 'check'?\n");
    CHECK(f.run("help check more").err == "error: unexpected argument 'more'\n");
    CHECK(f.run("--version more").exit == 2);
    CHECK(f.run("").exit == 2);
    for (const std::string& command : commands(f)) {
        CAPTURE(command);
        const Result help = f.run("help " + command);
        CHECK(help.exit == 0);
        CHECK(contains(help.out, "\nExample:\n  "));
    }
}

TEST_CASE("new makes a yard that checks and proves at once, or a copy of an example") {
    Folder f;
    const Result made = f.run("new 'my yard'");
    CHECK(made.exit == 0);
    CHECK(contains(made.out, "wrote my yard/yard.toml\n"));
    CHECK(f.has("my yard/README.md"));
    const Result checked = f.run("check 'my yard' --strict");
    CHECK(checked.exit == 0);
    CHECK(checked.err == "");
    CHECK(contains(f.run("prove 'my yard'").out, "1 of 1 procedure passed"));
    CHECK(contains(f.run("checkout 'my yard'").out, "9 passed, 0 failed"));
    // Every line of its README that is a command works within it.
    for (const std::string& line : lines_of(f.read("my yard/README.md"))) {
        if (!line.starts_with("vyard ") || line.starts_with("vyard live")) continue;
        const std::string words =
            line.substr(6, line.find("  ") == std::string::npos ? line.npos : line.find("  ") - 6);
        CAPTURE(words);
        const std::string command =
            fmt::format("cd '{}/my yard' && '{}' {} > /dev/null 2>&1", f.path().string(), VYARD_PROGRAM, words);
        CHECK(std::system(command.c_str()) == 0);
    }
    const Result again = f.run("new 'my yard'");
    CHECK(again.exit == 2);
    CHECK(again.err == "error: 'my yard' is there already\n    hint: name a folder that is not there, or empty\n");
    CHECK(f.run("new lock --like canal-lock").exit == 0);
    CHECK(f.run("check lock").exit == 0);
    CHECK(contains(f.run("new x --like canal_lock").err, "did you mean 'canal-lock'?"));
    CHECK_FALSE(f.has("x"));
    CHECK(f.run("new").exit == 2);
}

TEST_CASE("man pages of all commands say what --help says") {
    Folder f;
    REQUIRE(f.run("manual --out pages").exit == 0);
    CHECK(contains(f.read("pages/vyard.1"), ".BR vyard\\-check (1)\n"));
    for (const std::string& command : commands(f)) {
        CAPTURE(command);
        const std::string page = f.read("pages/vyard-" + command + ".1");
        CHECK(page.starts_with(".TH \"VYARD\\-"));
        CHECK(contains(page, ".SH EXAMPLE\n"));
        CHECK(page == f.run("manual " + command).out);
        // Every option of the help stands in the page.
        for (const std::string& line : lines_of(f.run("help " + command).out)) {
            const std::size_t at = line.find("--");
            if (!line.starts_with("  ") || at == std::string::npos || at > 9 || line.starts_with("  vyard")) continue;
            std::string option = line.substr(at, line.find_first_of(" ]", at) - at), dashes;
            for (const char c : option) dashes += c == '-' ? "\\-" : std::string(1, c);
            CHECK_MESSAGE(contains(page, dashes), option);
        }
        // No line is a request by accident.
        for (const std::string& line : lines_of(page)) {
            if (line.starts_with("."))
                CHECK((line.starts_with(".S") || line.starts_with(".T") || line.starts_with(".B") || line == ".nf" ||
                       line == ".fi"));
        }
    }
    CHECK(f.run("manual chek").exit == 2);
    CHECK(f.run("manual check --out x").exit == 2);
}

TEST_CASE("completion offers what may stand there, from the tables and from the yard") {
    Folder f;
    write_small_yard(f);
    std::filesystem::create_directories(f / "yards/a");
    f.write("yards/a/yard.toml", "[yard]\nname = \"A\"\n");
    std::filesystem::create_directories(f / "empty");
    const auto offered = [&](const std::string& words) { return f.run("completion words -- " + words).out; };
    CHECK(offered("che") == "check\ncheckout\n");
    CHECK(offered("check --str") == "--strict\n");
    CHECK(offered("check y") == "yards/\n");
    CHECK(offered("check yards/") == "yards/a\n");
    CHECK(offered("kinds photo") == "photoeye\n");
    CHECK(contains(offered("draw ''"), "timing\n"));
    CHECK(contains(offered("draw timing . --watch s"), "start_pb\n"));
    CHECK(contains(offered("run --watch a."), "a.speed\n"));
    CHECK(offered("chek ''") == "");
    CHECK(offered("run --out ''") == "");  // the shell's own names of files
    CHECK(f.run("completion tcsh").exit == 2);
    // The script in a shell.
    const std::string script = fmt::format(
        "cd '{0}' && PATH=\"{1}:$PATH\" bash -c 'source <(vyard completion bash); COMP_WORDS=(vyard check --no); "
        "COMP_CWORD=2; _vyard; printf \"%s\" \"${{COMPREPLY[0]}}\"' > done.txt",
        f.path().string(), std::filesystem::path(VYARD_PROGRAM).parent_path().string());
    REQUIRE(std::system(script.c_str()) == 0);
    CHECK(f.read("done.txt") == "--no-warnings ");
}

TEST_CASE("the package, unpacked into a folder, runs the demo from there") {
    Folder f;
    const std::string make = fmt::format("cd '{0}' && cpack --config '{1}/CPackConfig.cmake' -B '{0}/made' > log 2>&1",
                                         f.path().string(), VYARD_BUILD);
    REQUIRE_MESSAGE(std::system(make.c_str()) == 0, f.read("log"));
    const std::string unpack = fmt::format("cd '{}' && dpkg-deb -x made/*.deb root", f.path().string());
    REQUIRE(std::system(unpack.c_str()) == 0);
    for (const char* file : {"root/usr/bin/vyard", "root/usr/share/man/man1/vyard-check.1",
                             "root/usr/share/bash-completion/completions/vyard",
                             "root/usr/share/doc/vivid-yard/copyright", "root/usr/share/doc/vivid-yard/logic.md"})
        CHECK_MESSAGE(f.has(file), file);
    const auto run = [&](const std::string& words) {
        const std::string command =
            fmt::format("cd '{}' && root/usr/bin/vyard {} > out.txt 2> err.txt", f.path().string(), words);
        const int status = std::system(command.c_str());
        return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    };
    CHECK_MESSAGE(run("demo --out shown") == 0, f.read("err.txt"));
    CHECK(f.has("shown"));
    // Its examples are those that were installed.
    std::filesystem::remove_all(f / "root/usr/share/vivid-yard/examples/canal-lock");
    CHECK(run("new y --like canal-lock") == 2);
    CHECK(run("new y --like dye-bath") == 0);
    CHECK(run("prove y") == 0);
}

TEST_CASE("the page on normally closed contacts shows what the program says") {
    Folder f;
    const std::string page = in_source("docs/normally-closed.md");
    REQUIRE(f.run("new y").exit == 0);
    f.replace("y/plant.toml", "[button.panel.stop]\ncontact = \"normally closed\"\n", "[button.panel.stop]\n");
    const std::string rest = f.run("tags y --at-rest").out;
    for (const std::string& line : lines_of(rest.substr(0, rest.find("at_stamp"))))
        CHECK_MESSAGE(contains(page, line), line);
    const auto remark = [&] {
        const Result r = f.run("checkout y --only stop_pb --csv");
        CHECK(r.exit == 1);
        const std::string line = lines_of(r.out).back();
        return line.substr(line.find("it is stated"), line.find_last_of('"') - line.find("it is stated"));
    };
    CHECK_MESSAGE(contains(page, "\n" + remark() + "\n"), remark());
    f.replace("y/plant.toml", "[button.panel.stop]\n", "[button.panel.stop]\ncontact = \"normally closed\"\n");
    f.replace("y/map.csv", "stop_pb,panel.stop.contact,,normally closed: TRUE at rest",
              "stop_pb,panel.stop.contact,invert,");
    CHECK_MESSAGE(contains(page, "\n" + remark() + "\n"), remark());
}
