// The house and its pages: arrows point one way, generated pages are current, links lead somewhere.
#include <map>
#include <regex>
#include <vector>

#include "core/base/base.hpp"
#include "core/logic/machine/operations.hpp"
#include "program/support.hpp"

using namespace vyard::test;

namespace {

/// Rooms from the ground up; a room includes only what stands before it.
const std::vector<std::string> kRooms = {"core/base",     "core/logic",   "core/plant", "core/controller",
                                         "core/wiring",   "core/session", "core/trace", "core/procedure",
                                         "core/campaign", "files",        "link",       "figures",
                                         "report",        "live",         "cli"};

int floor_of(const std::string& path) {
    for (std::size_t i = 0; i < kRooms.size(); ++i) {
        if (path.starts_with(kRooms[i] + "/")) return static_cast<int>(i);
    }
    return -1;
}

}  // namespace

TEST_CASE("arrows point one way: no room includes one above it") {
    const fs::path source = fs::path(VYARD_SOURCE) / "src";
    int includes = 0;
    for (const auto& entry : fs::recursive_directory_iterator(source)) {
        if (!entry.is_regular_file()) continue;
        const std::string path = fs::relative(entry.path(), source).string();
        const int own = floor_of(path);
        CHECK_MESSAGE(own >= 0, path);
        std::istringstream lines(slurp(entry.path()));
        std::string line;
        while (std::getline(lines, line)) {
            if (!line.starts_with("#include \"")) continue;
            const int other = floor_of(line.substr(10));
            ++includes;
            CHECK_MESSAGE(other <= own, (path + ": " + line));
            CHECK_MESSAGE(other >= 0, (path + ": " + line));
        }
    }
    CHECK(includes > 100);
}

TEST_CASE("a room is entered by its front header alone") {
    std::size_t crossings = 0;
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(VYARD_SOURCE) / "src")) {
        if (!entry.is_regular_file()) continue;
        const std::string path = fs::relative(entry.path(), fs::path(VYARD_SOURCE) / "src").string();
        const auto room = [](const std::string& of) {
            if (!of.starts_with("core/")) return std::string();
            return of.substr(5, of.find('/', 5) - 5);
        };
        std::istringstream lines(slurp(entry.path()));
        std::string line;
        while (std::getline(lines, line)) {
            if (!line.starts_with("#include \"core/")) continue;
            const std::string included = line.substr(10, line.rfind('"') - 10);
            const std::string other = room(included);
            if (other == room(path)) continue;
            ++crossings;
            CHECK_MESSAGE(included == fmt::format("core/{0}/{0}.hpp", other), (path + ": " + line));
        }
    }
    CHECK(crossings > 50);
}

TEST_CASE("the core neither prints nor reads files, clocks or chance") {
    const std::vector<std::string> forbidden = {"<iostream>",   "<fstream>",    "<filesystem>", "<random>",  "<thread>",
                                                "system_clock", "steady_clock", "std::rand",    "fmt::print"};
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(VYARD_SOURCE) / "src/core")) {
        if (!entry.is_regular_file()) continue;
        const std::string text = slurp(entry.path());
        for (const std::string& word : forbidden) {
            // Many runs at once, each of which knows nothing of the others: the one place in the core with threads.
            if (entry.path().filename() == "parallel.hpp" && word == "<thread>") continue;
            CHECK_MESSAGE(!contains(text, word), (entry.path().string() + " has " + word));
        }
    }
}

TEST_CASE("docs/kinds.md is what the program says") {
    Folder f;
    CHECK(f.run("kinds --markdown").out == in_source("docs/kinds.md"));
}

TEST_CASE("docs/diagnostics.md has every code with its meaning") {
    const std::string page = in_source("docs/diagnostics.md");
    for (int i = 0; i < vyard::base::code_count(); ++i) {
        const auto code = static_cast<vyard::base::Code>(i);
        CHECK_MESSAGE(contains(page, fmt::format("| `{}` | {} |\n", vyard::base::code_name(code),
                                                 vyard::base::code_meaning(code))),
                      vyard::base::code_name(code));
    }
}

TEST_CASE("docs/blocks.md is what the program says") {
    Folder f;
    CHECK(f.run("blocks --markdown").out == in_source("docs/blocks.md"));
}

TEST_CASE("docs/machine.md lists every operation family with its effect") {
    const std::string page = in_source("docs/machine.md");
    const auto listed = [&](const char* name, const char* effect) {
        CHECK_MESSAGE(contains(page, fmt::format("| `{}` | {} |\n", name, effect)), name);
    };
#define VYARD_OP(name, effect) listed(#name, effect);
    VYARD_PLAIN_OPERATIONS(VYARD_OP)
    VYARD_INTEGER_OPERATIONS(VYARD_OP)
    VYARD_NUMBER_OPERATIONS(VYARD_OP)
    VYARD_REAL_OPERATIONS(VYARD_OP)
#undef VYARD_OP
}

TEST_CASE("links of the pages lead somewhere") {
    const std::regex link(R"(\]\(([^)#:]+)\))");
    std::vector<std::string> pages = {"README.md", "CONTRIBUTING.md", "CHANGELOG.md"};
    for (const auto& entry : fs::directory_iterator(fs::path(VYARD_SOURCE) / "docs")) {
        if (entry.path().extension() == ".md") pages.push_back("docs/" + entry.path().filename().string());
    }
    CHECK(pages.size() > 15);
    for (const std::string& page : pages) {
        const std::string text = in_source(page);
        CHECK_MESSAGE(text.size() > 200, page);
        for (std::sregex_iterator it(text.begin(), text.end(), link), end; it != end; ++it) {
            const fs::path target = fs::path(VYARD_SOURCE) / fs::path(page).parent_path() / (*it)[1].str();
            CHECK_MESSAGE(fs::exists(target), (page + " -> " + (*it)[1].str()));
        }
    }
}
