#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>

#include "cli/command.hpp"
#include "cli/version.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;
namespace fs = std::filesystem;

namespace {

constexpr const char* kFirstYard = "first-yard";

std::vector<std::string> example_names() {
    std::vector<std::string> names;
    std::error_code failure;
    for (const auto& entry : fs::directory_iterator(examples_folder(), failure)) {
        if (fs::exists(entry.path() / "yard.toml", failure)) names.push_back(entry.path().filename().string());
    }
    std::sort(names.begin(), names.end());
    return names;
}

/// What belongs to the yard itself: no traces of live sessions, no kept checkout.
bool belongs(const fs::path& file) {
    for (const fs::path& part : file) {
        if (part == ".vyard") return false;
    }
    return file.filename() != "checkout.csv";
}

/// Relative to the example, sorted.
std::vector<fs::path> files_of(const fs::path& example) {
    std::vector<fs::path> out;
    std::error_code failure;
    for (const auto& entry : fs::recursive_directory_iterator(example, failure)) {
        const fs::path relative = entry.path().lexically_relative(example);
        if (entry.is_regular_file(failure) && belongs(relative)) out.push_back(relative);
    }
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace

CommandLine new_line() {
    CommandLine line("new FOLDER [options]",
                     "Makes a small yard that works, to start from: a belt, an eye, a cylinder, a panel, ten tags, a "
                     "procedure and rules,\nwith comments, and a README that says what to change first.",
                     "vyard new postmark");
    line.options().add_options()("like", po::value<std::string>()->value_name("EXAMPLE"),
                                 "a copy of a shipped example instead");
    line.takes_words(1);
    return line;
}

int new_command(const CommandLine& line) {
    const std::string folder = line.word(0);
    if (folder.empty()) return wrong_call("a folder is missing", "vyard new FOLDER");
    const std::string name = line.has("like") ? line.text("like") : kFirstYard;
    const std::vector<std::string> known = example_names();
    if (std::find(known.begin(), known.end(), name) == known.end()) {
        const std::string near = base::name_hint(name, known);
        return wrong_call(fmt::format("there is no example '{}'", name),
                          near.empty() ? fmt::format("{}", fmt::join(known, ", ")) : near);
    }
    std::error_code failure;
    if (fs::exists(folder, failure) && !(fs::is_directory(folder, failure) && fs::is_empty(folder, failure)))
        return wrong_call(fmt::format("'{}' is there already", folder), "name a folder that is not there, or empty");
    const fs::path example = fs::path(examples_folder()) / name;
    for (const fs::path& file : files_of(example)) {
        std::string why;
        const auto text = files::read_text((example / file).string(), why);
        if (!text) {
            fmt::print(stderr, "error: {}\n", why);
            return kOurFault;
        }
        if (!write_result(line, files::join_path(folder, file.string()), *text)) return kOurFault;
    }
    if (line.quiet()) return kWell;
    fmt::print("\nnext:  vyard check {0}\n       vyard prove {0}\n       vyard live {0}\n", folder);
    return kWell;
}

}  // namespace vyard::cli
