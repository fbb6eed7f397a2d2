// Completion for shells. The scripts are a few lines each: they hand over the words that are typed, and `vyard
// completion words` says what could stand at the last one.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"
#include "core/plant/plant.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;
namespace fs = std::filesystem;

namespace {

constexpr const char* kBash = R"(_vyard() {
    local IFS=$'\n'
    COMPREPLY=($(vyard completion words -- "${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null))
    compopt -o default -o nospace 2>/dev/null
    if [ "${#COMPREPLY[@]}" -eq 1 ] && [ "${COMPREPLY[0]: -1}" != "/" ]; then COMPREPLY=("${COMPREPLY[0]} "); fi
}
complete -F _vyard vyard
)";
constexpr const char* kZsh = R"(#compdef vyard
_vyard() {
    local -a found
    found=("${(@f)$(vyard completion words -- "${(@)words[2,CURRENT]}" 2>/dev/null)}")
    if [[ -n "$found" ]]; then compadd -a found; else _files; fi
}
compdef _vyard vyard
)";
constexpr const char* kFish = R"(function __vyard_words
    set -l typed (commandline -opc) (commandline -ct)
    vyard completion words -- $typed[2..] 2>/dev/null
end
complete -c vyard -a '(__vyard_words)'
)";

/// The words that begin as what is typed, sorted, once each.
std::vector<std::string> beginning(const std::set<std::string>& words, const std::string& typed) {
    std::vector<std::string> out;
    std::copy_if(words.begin(), words.end(), std::back_inserter(out),
                 [&](const std::string& w) { return w.starts_with(typed); });
    return out;
}

/// Folders that are yards, or hold some, on the way that is typed: "examples/", "examples/glaze-line".
std::set<std::string> yards(const std::string& typed) {
    const std::size_t slash = typed.rfind('/');
    const std::string folder = slash == std::string::npos ? "" : typed.substr(0, slash + 1);
    std::set<std::string> out;
    std::error_code failure;
    for (const auto& entry : fs::directory_iterator(folder.empty() ? "." : folder, failure)) {
        const std::string name = entry.path().filename().string();
        if (!entry.is_directory(failure) || name.starts_with('.')) continue;
        const bool yard = fs::exists(entry.path() / "yard.toml", failure);
        bool holds = false;
        if (!yard) {
            for (const auto& inner : fs::directory_iterator(entry.path(), failure))
                holds = holds || fs::exists(inner.path() / "yard.toml", failure);
        }
        if (yard || holds) out.insert(folder + name + (yard ? "" : "/"));
    }
    return out;
}

/// What a yard has that may be typed. Mistakes in it are for `check` to tell: what can be read is offered.
class Names {
  public:
    explicit Names(const std::string& yard) {
        base::Diagnostics ignored;
        const std::string folder = yard.empty() ? files::find_yard(".") : yard;
        if (folder.empty() || !names_yard(folder)) return;
        yard_ = files::load_yard(folder, ignored, {});
        if (yard_.checked != nullptr && !yard_.procedures.empty())
            book_ = procedure::read_book(*yard_.checked, yard_.procedures, ignored, yard_.names_known);
    }
    std::set<std::string> procedures() const {
        std::set<std::string> out;
        for (const base::SourcePtr& source : yard_.procedures) out.insert(fs::path(source->path).stem().string());
        if (book_ == nullptr) return out;
        for (const auto& p : book_->procedures) out.insert(p.name);
        return out;
    }
    std::set<std::string> signals() const {
        if (yard_.checked == nullptr) return {};
        const auto names = session::signal_names(*yard_.checked);
        return {names.begin(), names.end()};
    }

  private:
    files::Yard yard_;
    std::shared_ptr<const procedure::Book> book_;
};

std::set<std::string> kind_names() {
    std::set<std::string> out;
    for (const plant::Kind& kind : plant::all_kinds()) out.insert(kind.name);
    return out;
}

std::set<std::string> option_names(const CommandLine& line) {
    std::set<std::string> out;
    for (const auto& o : line.options().options()) out.insert("--" + o->long_name());
    return out;
}

/// The option that takes a value and stands before the last word; null when none does.
const po::option_description* asked(const CommandLine& line, const std::string& before) {
    if (!before.starts_with("--")) return nullptr;
    for (const auto& o : line.options().options()) {
        if ("--" + o->long_name() == before && o->semantic()->max_tokens() > 0) return o.get();
    }
    return nullptr;
}

/// The yard among the words, if one stands there.
std::string yard_in(const std::vector<std::string>& words) {
    for (std::size_t i = 1; i + 1 < words.size(); ++i) {
        if (!words[i].starts_with("-") && names_yard(words[i])) return words[i];
    }
    return {};
}

std::vector<std::string> offers(const std::vector<std::string>& words) {
    const std::string typed = words.empty() ? "" : words.back();
    if (words.size() <= 1) {
        std::set<std::string> names{"help", "--help", "--version"};
        for (const Command& c : commands()) names.insert(c.name);
        return beginning(names, typed);
    }
    if (words[0] == "help" || words[0] == "manual") {
        std::set<std::string> names;
        for (const Command& c : commands()) names.insert(c.name);
        return beginning(names, typed);
    }
    const Command* command = find_command(words[0]);
    if (command == nullptr) return {};
    const CommandLine line = command->line();
    if (const po::option_description* option = asked(line, words[words.size() - 2])) {
        const std::string takes = option->format_parameter();
        if (takes.find("NAME") == std::string::npos && takes.find("EDGE") == std::string::npos) return {};
        const Names names(yard_in(words));
        return beginning(option->long_name() == "procedure" ? names.procedures() : names.signals(), typed);
    }
    if (typed.starts_with("-")) return beginning(option_names(line), typed);
    std::set<std::string> out;
    const std::string& usage = line.usage();
    if (usage.find("YARD") != std::string::npos) out = yards(typed);
    if (usage.find("[KIND]") != std::string::npos) out.merge(kind_names());
    if (command->name == std::string("blocks")) {
        for (const auto& e : logic::reference()) out.insert(e.name);
    }
    if (usage.find("PROCEDURE") != std::string::npos) out.merge(Names(yard_in(words)).procedures());
    // "plan|logic|timing": one of these comes first.
    const std::size_t bar = usage.find('|');
    const std::size_t first = usage.find(' ') + 1;
    if (words.size() == 2 && bar != std::string::npos && usage.find(' ', first) > bar && usage[first] != '[') {
        std::string word;
        for (const char c : usage.substr(first, usage.find(' ', first) - first) + "|") {
            if (c != '|') {
                word += c;
            } else {
                out.insert(word);
                word.clear();
            }
        }
    }
    return beginning(out, typed);
}

}  // namespace

CommandLine completion_line() {
    CommandLine line(
        "completion bash|zsh|fish",
        "A script for a shell that completes commands, options, yards, procedures, tags, devices and kinds.",
        "source <(vyard completion bash)");
    line.takes_words(1000);
    return line;
}

int completion_command(const CommandLine& line) {
    const std::string what = line.word(0);
    if (what == "words") {
        for (const std::string& word : offers({line.words().begin() + 1, line.words().end()})) fmt::print("{}\n", word);
        return kWell;
    }
    if (line.words().size() > 1) return wrong_call(fmt::format("unexpected argument '{}'", line.word(1)));
    const char* script = what == "bash" ? kBash : what == "zsh" ? kZsh : what == "fish" ? kFish : nullptr;
    if (script == nullptr)
        return wrong_call(what.empty() ? "a shell is missing" : fmt::format("there is no completion for '{}'", what),
                          "bash, zsh or fish");
    fmt::print("{}", script);
    return kWell;
}

}  // namespace vyard::cli
