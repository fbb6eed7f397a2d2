// Man pages, from the tables that --help is made of. The format is that of man(7).
#include <fmt/format.h>

#include "cli/command.hpp"
#include "cli/version.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// Text in roff: a backslash and a hyphen are written so that they stay, a line never begins with a request.
std::string escaped(std::string_view text) {
    std::string out;
    bool begins = true;
    for (const char c : text) {
        if (begins && (c == '.' || c == '\'')) out += "\\&";
        begins = c == '\n';
        if (c == '\\')
            out += "\\e";
        else if (c == '-')
            out += "\\-";
        else
            out += c;
    }
    return out;
}

std::string head(const std::string& name, const std::string& summary) {
    std::string upper = name;
    for (char& c : upper) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c;
    return fmt::format(".TH \"{}\" 1 \"\" \"vyard {}\" \"Vivid Yard\"\n.SH NAME\n{} \\- {}\n", escaped(upper),
                       VYARD_VERSION, escaped(name), escaped(summary));
}

constexpr const char* kExit =
    ".SH EXIT STATUS\n0 all well; 1 a verdict failed, or a controller stopped by itself; 2 the input or the command "
    "line "
    "is wrong; 3 the tool failed, or what it writes to.\n";

/// "-h, --help".
std::string name_of(const po::option_description& option) {
    std::string out;
    for (const char c : option.format_name()) {
        if (c == '[') {
            out.back() = ',';
            out += ' ';
        } else if (c != ']' && !(c == ' ' && out.ends_with(' '))) {
            out += c;
        }
    }
    while (out.ends_with(' ')) out.pop_back();
    return out;
}

std::string option_rows(const po::options_description& options) {
    std::string out = ".SH OPTIONS\n";
    for (const auto& o : options.options()) {
        const std::string takes = escaped(o->format_parameter());
        out.append(fmt::format(".TP\n\\fB{}\\fR{}\n{}\n", escaped(name_of(*o)),
                               takes.empty() ? "" : fmt::format(" \\fI{}\\fR", takes), escaped(o->description())));
    }
    return out;
}

std::string page_of(const Command& command) {
    const CommandLine line = command.line();
    return fmt::format(
        "{}.SH SYNOPSIS\n.B vyard\n{}\n.SH DESCRIPTION\n{}\n{}.SH EXAMPLE\n.nf\n{}\n.fi\n{}.SH SEE ALSO\n.BR vyard "
        "(1)\n",
        head(fmt::format("vyard-{}", command.name), command.summary), escaped(line.usage()), escaped(line.summary()),
        option_rows(line.options()), escaped(line.example()), kExit);
}

std::string page_of_all() {
    std::string out = head("vyard", "try a machine's control logic against its simulated plant") +
                      ".SH SYNOPSIS\n.B vyard\nCOMMAND [YARD] [options]\n.SH DESCRIPTION\nYARD is a folder with a "
                      "yard.toml; without it, the one around the current folder.\n.SH COMMANDS\n";
    for (const Command& c : commands()) {
        out += fmt::format(".TP\n.BR vyard\\-{} (1)\n", c.name);
        out += escaped(c.summary) + "\n";
    }
    return out + kExit;
}

}  // namespace

CommandLine manual_line() {
    CommandLine line("manual [COMMAND] [options]",
                     "Man pages, made of the same tables as --help: to standard output, or all of them to a folder.",
                     "vyard manual check | man -l -");
    line.options().add_options()("out", po::value<std::string>()->value_name("FOLDER"),
                                 "write vyard.1 and a page for each command there");
    line.takes_words(1);
    return line;
}

int manual_command(const CommandLine& line) {
    if (line.has("out")) {
        if (!line.word(0).empty()) return wrong_call("--out writes all pages; name no command with it");
        if (!write_result(line, files::join_path(line.text("out"), "vyard.1"), page_of_all())) return kOurFault;
        for (const Command& c : commands()) {
            if (!write_result(line, files::join_path(line.text("out"), fmt::format("vyard-{}.1", c.name)), page_of(c)))
                return kOurFault;
        }
        return kWell;
    }
    if (line.word(0).empty()) {
        fmt::print("{}", page_of_all());
        return kWell;
    }
    const Command* command = find_command(line.word(0));
    if (command == nullptr) return no_command(line.word(0));
    fmt::print("{}", page_of(*command));
    return kWell;
}

}  // namespace vyard::cli
