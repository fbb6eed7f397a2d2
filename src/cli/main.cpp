#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <exception>
#include <string>
#include <system_error>
#include <vector>

#include "cli/command.hpp"

namespace vyard::cli {

const std::vector<Command>& commands() {
    static const std::vector<Command> all = {
        {"demo", "the shipped example, from loading to verdicts and pictures", demo_command},
        {"check", "load, compile, check plant, map and procedures; all mistakes at once", check_command},
        {"tags", "the tags: type, address, joined point, value at rest; free addresses, cross-reference", tags_command},
        {"map", "the joins, what is joined to nothing, and proposals by name", map_command},
        {"checkout", "every joined point toggled and watched, with a list to sign", checkout_command},
        {"run", "run unattended, for a time or through a procedure; traces", run_command},
        {"live", "run with a person: a screen, or orders from standard input", live_command},
        {"tell", "speak to the live session of a yard from another terminal", tell_command},
        {"prove", "procedures and rules to verdicts", prove_command},
        {"draw", "the plan, logic, timing charts, trends, addresses, the rack, as SVG, PNG or PDF", draw_command},
        {"format", "drawn logic in its canonical layout", format_command},
        {"convert", "logic to and from the open XML of PLCopen TC6", convert_command},
        {"show", "drawn logic in the terminal, with its power flow at one time of a run", show_command},
        {"compare", "two traces side by side: which signals differ, when, for how long", compare_command},
        {"measure", "times from edge to edge in a trace: how often, least, mean, most", measure_command},
        {"kinds", "the reference of device kinds", kinds_command},
        {"blocks", "the reference of blocks and functions for logic", blocks_command},
    };
    return all;
}

namespace {

void print_help() {
    fmt::print(
        "vyard {}: try a machine's control logic against its simulated plant.\n\nvyard COMMAND [YARD] [options]\n\n",
        VYARD_VERSION);
    for (const Command& c : commands()) fmt::print("  {:<8} {}\n", c.name, c.summary);
    fmt::print(
        "\nYARD is a folder with a yard.toml; without it, the one around the current folder.\n"
        "vyard COMMAND --help says more, with an example.\n"
        "Exit code: 0 all well, 1 a verdict failed or a controller stopped by itself, 2 the input or the call is "
        "wrong,\n"
        "3 the tool failed, or what it writes to.\n");
}

int real_main(const std::vector<std::string>& arguments) {
    if (arguments.empty() || arguments[0] == "--help" || arguments[0] == "-h" || arguments[0] == "help") {
        print_help();
        return arguments.empty() ? kWrongCall : kWell;
    }
    if (arguments[0] == "--version") {
        fmt::print("vyard {}\n", VYARD_VERSION);
        return kWell;
    }
    std::vector<std::string> names;
    for (const Command& c : commands()) {
        if (arguments[0] == c.name) return c.run({arguments.begin() + 1, arguments.end()});
        names.emplace_back(c.name);
    }
    return wrong_call(fmt::format("no command is named '{}'", arguments[0]), base::name_hint(arguments[0], names));
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
