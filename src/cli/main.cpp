#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <exception>
#include <string>
#include <system_error>
#include <vector>

#include "cli/command.hpp"
#include "cli/version.hpp"

namespace vyard::cli {

const std::vector<Command>& commands() {
    static const std::vector<Command> all = {
        {"demo", "the shipped example, from loading to verdicts and pictures", demo_line, demo_command},
        {"new", "a small yard that works, to start from", new_line, new_command},
        {"check", "load, compile, check plant, map and procedures; all mistakes at once", check_line, check_command},
        {"tags", "the tags: type, address, joined point, value at rest; free addresses, cross-reference", tags_line,
         tags_command},
        {"map", "the joins, what is joined to nothing, and proposals by name", map_line, map_command},
        {"checkout", "every joined point toggled and watched, with a list to sign", checkout_line, checkout_command},
        {"run", "run unattended, for a time or through a procedure; traces", run_line, run_command},
        {"live", "run with a person: a screen, or orders from standard input", live_line, live_command},
        {"tell", "speak to the live session of a yard from another terminal", tell_line, tell_command},
        {"serve", "keep the links of a yard: its plant to a real controller, its controller to screens", serve_line,
         serve_command},
        {"stand-in", "speak for a controller that is executed elsewhere, over its link", stand_in_line,
         stand_in_command},
        {"prove", "procedures and rules to verdicts", prove_line, prove_command},
        {"campaign", "many runs that look for mistakes: smoke, stops, faults, hunt, again, sweep", campaign_line,
         campaign_command},
        {"draw", "the plan, logic, timing charts, trends, addresses, the rack, as SVG, PNG or PDF", draw_line,
         draw_command},
        {"format", "drawn logic in its canonical layout", format_line, format_command},
        {"convert", "logic to and from the open XML of PLCopen TC6", convert_line, convert_command},
        {"show", "drawn logic in the terminal, with its power flow at one time of a run", show_line, show_command},
        {"compare", "two traces side by side: which signals differ, when, for how long", compare_line, compare_command},
        {"why", "why a tag is as it is at one time of a run, back to its causes", why_line, why_command},
        {"measure", "times from edge to edge in a trace: how often, minimum, mean, maximum", measure_line,
         measure_command},
        {"kinds", "the reference of device kinds", kinds_line, kinds_command},
        {"blocks", "the reference of blocks and functions for logic", blocks_line, blocks_command},
        {"completion", "a script for a shell that completes what is typed", completion_line, completion_command},
        {"manual", "man pages of the commands", manual_line, manual_command},
    };
    return all;
}

const Command* find_command(std::string_view name) {
    for (const Command& c : commands()) {
        if (name == c.name) return &c;
    }
    return nullptr;
}

int no_command(const std::string& name) {
    std::vector<std::string> names;
    for (const Command& c : commands()) names.emplace_back(c.name);
    return wrong_call(fmt::format("no command is named '{}'", name), base::name_hint(name, names));
}

int obey(const Command& command, const std::vector<std::string>& arguments) {
    CommandLine line = command.line();
    if (const auto exit = line.parse(arguments)) return *exit;
    const int exit = command.run(line);
    return exit == kWrongCall && line.refused_by_system() ? static_cast<int>(kOurFault) : exit;
}

namespace {

void print_help() {
    fmt::print(
        "vyard {}: try a machine's control logic against its simulated plant.\n\nvyard COMMAND [YARD] [options]\n\n",
        version_text());
    for (const Command& c : commands()) fmt::print("  {:<11} {}\n", c.name, c.summary);
    fmt::print(
        "\nYARD is a folder with a yard.toml; without it, the one around the current folder.\n"
        "vyard COMMAND --help, or vyard help COMMAND, says more, with an example; vyard --version which one this is.\n"
        "Exit code: 0 all well, 1 a verdict failed or a controller stopped by itself, 2 the input or the command line "
        "is "
        "wrong,\n"
        "3 the tool failed, or the system refuses what it reads or writes.\n");
}

int real_main(const std::vector<std::string>& arguments) {
    const std::string word = arguments.empty() ? "--help" : arguments[0];
    if (word == "--version" || word == "--help" || word == "-h" || word == "help") {
        const bool help = word == "help" && arguments.size() > 1;
        if (arguments.size() > (help ? 2U : 1U))
            return wrong_call(fmt::format("unexpected argument '{}'", arguments[help ? 2 : 1]));
        if (help) {
            const Command* command = find_command(arguments[1]);
            if (command == nullptr) return no_command(arguments[1]);
            fmt::print("{}", command->line().help());
        } else if (word == "--version") {
            fmt::print("vyard {}\n", version_text());
        } else {
            print_help();
        }
        return arguments.empty() ? kWrongCall : kWell;
    }
    const Command* command = find_command(word);
    return command == nullptr ? no_command(word) : obey(*command, {arguments.begin() + 1, arguments.end()});
}

}  // namespace

}  // namespace vyard::cli

namespace {

int no_output(const char* why) {
    std::fprintf(stderr, "error: standard output cannot be written: %s\n", why);
    return vyard::cli::kOurFault;
}

}  // namespace

int main(int count, char** values) {
    try {
        const int exit = vyard::cli::real_main({values + 1, values + count});
        errno = 0;
        if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0)
            return no_output(errno != 0 ? std::strerror(errno) : "an earlier write failed");
        return exit;
    } catch (const std::system_error& failure) {
        if (std::ferror(stdout) != 0) return no_output(failure.code().message().c_str());
        std::fprintf(stderr, "vyard: internal error: %s\n", failure.what());
    } catch (const std::exception& failure) {
        std::fprintf(stderr, "vyard: internal error: %s\n", failure.what());
    }
    return vyard::cli::kOurFault;
}
