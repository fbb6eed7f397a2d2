// Every command line of the README and the docs is run, and what is shown of its output is what comes.
//
// In a block between fences, "vyard ..." is a line to type; behind "$ vyard ..." stands what it prints, where "..." is
// any number of lines. Of `vyard live`, lines without an indent are typed, and those with one are printed.
#include <algorithm>
#include <vector>

#include "program/support.hpp"

using namespace vyard::test;

namespace {

struct Call {
    std::string place;  ///< "README.md:42"
    std::string line;   ///< Behind "vyard ".
    std::vector<std::string> shown;
    bool with_output = false;
};

/// Without a comment behind two blanks.
std::string typed(std::string line) {
    const std::size_t comment = line.find("  ");
    return comment == std::string::npos ? line : line.substr(0, comment);
}

std::vector<Call> calls_of(const std::string& page) {
    std::vector<Call> out;
    std::istringstream lines(in_source(page));
    bool fenced = false, within = false;
    int number = 0;
    for (std::string line; std::getline(lines, line);) {
        ++number;
        if (line.starts_with("```")) {
            fenced = !fenced;
            within = false;
        } else if (fenced && (line.starts_with("vyard ") || line.starts_with("$ vyard "))) {
            const bool output = line.starts_with("$ ");
            out.push_back({page + ":" + std::to_string(number), typed(line.substr(output ? 8 : 6)), {}, output});
            within = output;
        } else if (within) {
            out.back().shown.push_back(line);
        }
    }
    return out;
}

/// Whether `lines` are as `shown`, where "..." stands for any number of them.
bool fits(const std::vector<std::string>& shown, const std::vector<std::string>& lines, std::size_t s = 0,
          std::size_t l = 0) {
    if (s == shown.size()) return l == lines.size();
    const bool any = shown[s].find_first_not_of(' ') != std::string::npos &&
                     shown[s].substr(shown[s].find_first_not_of(' ')) == "...";
    if (any) {
        for (std::size_t next = l; next <= lines.size(); ++next) {
            if (fits(shown, lines, s + 1, next)) return true;
        }
        return false;
    }
    return l < lines.size() && shown[s] == lines[l] && fits(shown, lines, s + 1, l + 1);
}

void check_live(Folder& f, const Call& call) {
    std::string input;
    std::vector<std::string> printed;
    for (const std::string& line : call.shown) {
        if (line.starts_with(' '))
            printed.push_back(line);
        else
            input += line + "\n";
    }
    const Result r = f.run(call.line, input);
    for (const std::string& line : printed) CHECK_MESSAGE(contains(r.out + r.err, line + "\n"), line);
}

}  // namespace

TEST_CASE("every command line of README and docs works, and prints what the page shows") {
    Folder f;
    fs::create_directory_symlink(fs::path(VYARD_SOURCE) / "examples", f / "examples");
    REQUIRE(f.run("run examples/glaze-line --procedure 1_normal_cycle --out one").exit == 0);
    REQUIRE(f.run("run examples/glaze-line --procedure 1_normal_cycle --out two --use "
                  "logic/40_dip.st=examples/glaze-line/variants/early_infeed.st")
                .exit == 1);
    std::vector<std::string> pages = {"README.md", "CONTRIBUTING.md"};
    for (const auto& entry : fs::directory_iterator(fs::path(VYARD_SOURCE) / "docs")) {
        if (entry.path().extension() == ".md") pages.push_back("docs/" + entry.path().filename().string());
    }
    std::sort(pages.begin(), pages.end());
    int run = 0, compared = 0;
    for (const std::string& page : pages) {
        for (const Call& call : calls_of(page)) {
            CAPTURE(call.place);
            CAPTURE(call.line);
            const bool talks = call.line.starts_with("live ") || call.line.starts_with("tell ");
            if (talks && !call.with_output) continue;  // with a person, or a session that runs
            ++run;
            if (call.line.starts_with("live ")) {
                check_live(f, call);
                ++compared;
                continue;
            }
            const Result r = f.run(call.line);
            if (!call.with_output) {
                CHECK_MESSAGE(r.exit == (contains(call.line, "variants/") ? 1 : 0), r.err);
                continue;
            }
            ++compared;
            CHECK_MESSAGE(fits(call.shown, lines_of(r.out)), r.out);
        }
    }
    CHECK(run >= 25);
    CHECK(compared >= 4);
}
