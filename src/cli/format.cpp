#include <fmt/format.h>

#include <filesystem>
#include <set>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"
#include "files/exchange/exchange.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace {

/// The logic files that a word of the line names: one, or all of a yard. Empty after a report.
std::vector<std::string> logic_files(const CommandLine& line) {
    const std::string word = line.word(0);
    if (files::is_exchange_file(word)) {
        wrong_call(fmt::format("'{}' is XML, which has no layout", word),
                   fmt::format("vyard convert {} gives its text", word));
        return {};
    }
    if (files::is_logic_file(word)) return {word};
    const auto loaded = read_all(line);
    if (!loaded) return {};
    std::set<std::string> paths;
    if (const auto& model = loaded->yard.checked ? loaded->yard.checked : loaded->yard.model) {
        for (const auto& controller : model->controllers) {
            if (controller.program == nullptr) continue;
            for (const base::SourcePtr& source : controller.program->sources) {
                const bool ours = files::is_there(source->path) && !files::is_exchange_file(source->path);
                if (ours) paths.insert(source->path);
            }
        }
    }
    if (paths.empty()) {
        show_diagnostics(line, loaded->diagnostics);
        wrong_call("no logic file was found to format", "name a file: vyard format logic/line.st");
    }
    return {paths.begin(), paths.end()};
}

/// A file and what it becomes.
struct Formatted {
    std::string path, text;
    bool changed = false;
};

std::optional<std::vector<Formatted>> format_all(const CommandLine& line, const std::vector<std::string>& paths) {
    base::Diagnostics diagnostics;
    std::vector<Formatted> out;
    for (const std::string& path : paths) {
        const base::SourcePtr source = files::read_source(path, {}, diagnostics);
        if (source == nullptr) continue;
        auto text = logic::with_drawings_formatted(source, diagnostics);
        if (text) out.push_back({path, *text, *text != source->text});
    }
    if (!diagnostics.has_errors()) return out;
    show_diagnostics(line, diagnostics);
    return std::nullopt;
}

}  // namespace

CommandLine format_line() {
    CommandLine line("format [FILE|YARD] [options]",
                     "Writes every drawing of a logic file, or of all logic of a yard, in its canonical layout: blocks "
                     "in columns, names over\ntheir symbols, one right rail. The program and its comments stay the "
                     "same. Rungs written as a line of text are drawn.",
                     "vyard format examples/glaze-line --check");
    line.options().add_options()("check", "change nothing; list what is not formatted, exit code 1 if any");
    line.takes_words(1);
    return line;
}

int format_command(const CommandLine& line) {
    const std::vector<std::string> paths = logic_files(line);
    if (paths.empty()) return kWrongCall;
    const auto formatted = format_all(line, paths);
    if (!formatted) return kWrongCall;
    int changed = 0;
    for (const Formatted& f : *formatted) {
        if (!f.changed) continue;
        ++changed;
        if (line.has("check")) {
            fmt::print("{} is not formatted\n", f.path);
        } else if (!write_result(line, f.path, f.text)) {
            return kOurFault;
        }
    }
    if (changed == 0) fmt::print("{} formatted\n", paths.size() == 1 ? paths[0] + " is" : "all files are");
    return changed > 0 && line.has("check") ? kFailed : kWell;
}

}  // namespace vyard::cli
