#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"
#include "files/exchange/exchange.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// What is converted: texts, and what the project is called.
struct Input {
    std::string name;
    std::vector<base::SourcePtr> sources;
};

int report(const CommandLine& line, base::Diagnostics& diagnostics, int exit) {
    diagnostics.sort();
    show_diagnostics(line, diagnostics);
    return exit;
}

std::optional<Input> read_input(const CommandLine& line, base::Diagnostics& diagnostics) {
    Input out;
    const std::string word = line.word(0);
    if (files::is_logic_file(word)) {
        out.name = std::filesystem::path(word).stem().string();
        if (const base::SourcePtr source = files::read_logic(word, {}, diagnostics)) out.sources.push_back(source);
        return out;
    }
    const auto loaded = load(line);
    if (!loaded) return std::nullopt;
    const auto& controllers = loaded->yard.model->controllers;
    const std::string wanted = line.text("controller");
    std::vector<std::string> known;
    for (const auto& c : controllers) {
        known.push_back(c.name);
        if (!wanted.empty() && base::fold(c.name) != base::fold(wanted)) continue;
        if (!out.sources.empty()) {
            wrong_call("this yard has several controllers", "name one with --controller");
            return std::nullopt;
        }
        out.name = c.name;
        for (const base::SourcePtr& source : c.program->sources) {
            if (!source->path.starts_with("library/")) out.sources.push_back(source);
        }
    }
    if (!out.sources.empty()) return out;
    wrong_call(fmt::format("no controller is named '{}'", wanted), base::name_hint(wanted, known));
    return std::nullopt;
}

/// Our text, which must be readable itself.
std::optional<std::string> as_text(const Input& input, base::Diagnostics& diagnostics) {
    const base::SourcePtr& source = input.sources.front();
    const int before = diagnostics.error_count();
    logic::parse_file(source, diagnostics);
    if (diagnostics.error_count() == before) logic::drawings_of(source, diagnostics);
    return diagnostics.error_count() == before ? std::optional(source->text) : std::nullopt;
}

bool reads_from(const Input& input, const std::string& path) {
    std::error_code failure;
    return std::any_of(input.sources.begin(), input.sources.end(), [&](const base::SourcePtr& source) {
        return std::filesystem::equivalent(source->path, path, failure);
    });
}

}  // namespace

CommandLine convert_line() {
    CommandLine line(
        "convert [FILE|YARD] [options]",
        "Writes logic in the open XML of PLCopen TC6 2.01, or the text of such a file: an .xml file "
        "becomes text, a text file or the\nlogic of a yard becomes XML. What the other form has no words "
        "for is carried over as text, with a warning; what other\nmakers added to a file is left out, with a "
        "warning that names it.",
        "vyard convert examples/book-press --out /tmp/book-press.xml");
    line.options().add_options()("out", po::value<std::string>()->value_name("FILE"),
                                 "the file to write; default, and -: standard output")(
        "controller", po::value<std::string>()->value_name("NAME"), "whose logic, of a yard with several");
    line.takes_words(1);
    return line;
}

int convert_command(const CommandLine& line) {
    base::Diagnostics diagnostics;
    const bool to_text = files::is_exchange_file(line.word(0));
    const std::string path = is_standard_output(line.text("out")) ? "" : line.text("out");
    const std::string ending = to_text ? ".st" : ".xml";
    if (!path.empty() && base::fold(std::filesystem::path(path).extension().string()) != ending)
        return wrong_call(fmt::format("'{}' is not the name of {}", path, to_text ? "a text file" : "an XML file"),
                          fmt::format("end it with {}", ending));
    const auto input = read_input(line, diagnostics);
    if (!input) return kWrongCall;
    if (diagnostics.has_errors()) return report(line, diagnostics, kWrongCall);
    if (!path.empty() && reads_from(*input, path))
        return wrong_call(fmt::format("'{}' is what is converted", path), "give --out another name");
    const auto text = to_text ? as_text(*input, diagnostics)
                              : std::optional(files::write_exchange(input->name, input->sources, diagnostics));
    report(line, diagnostics, kWell);
    if (!text || diagnostics.has_errors()) return kWrongCall;
    if (path.empty()) {
        fmt::print("{}", *text);
        return kWell;
    }
    return write_result(line, path, *text) ? kWell : kOurFault;
}

}  // namespace vyard::cli
