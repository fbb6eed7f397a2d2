#include <fmt/format.h>

#include <filesystem>

#include "cli/command.hpp"
#include "cli/version.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// One act of the demo: what it shows, and the command a user would type.
struct Act {
    const char* title;
    std::vector<std::string> words;
    int expected_exit;
};

std::string typed(const std::vector<std::string>& words) {
    std::string out = "vyard";
    for (const std::string& w : words) out += w.find_first_of(" '") == std::string::npos ? " " + w : " \"" + w + "\"";
    return out;
}

int carry_out(const std::vector<std::string>& words) {
    const Command* command = find_command(words[0]);
    return command == nullptr ? kOurFault : obey(*command, {words.begin() + 1, words.end()});
}

}  // namespace

CommandLine demo_line() {
    CommandLine line("demo [options]",
                     "Shows the glaze line from loading to verdicts: each act is a command you can type yourself.",
                     "vyard demo --out /tmp/vyard-demo");
    line.options().add_options()("out", po::value<std::string>()->value_name("FOLDER"),
                                 "where traces, figures and verdicts go; default vyard-demo")(
        "yard", po::value<std::string>()->value_name("YARD"), "the example to show, if it has moved");
    line.takes_words(0);
    return line;
}

int demo_command(const CommandLine& line) {
    const std::string out = line.has("out") ? line.text("out") : "vyard-demo";
    std::string yard = line.has("yard") ? line.text("yard") : examples_folder() + "/glaze-line";
    std::error_code failure;
    if (!std::filesystem::exists(files::join_path(yard, "yard.toml"), failure))
        return wrong_call(fmt::format("the example is not at {}", yard), "name it: --yard examples/glaze-line");
    if (const auto near = std::filesystem::relative(yard, failure); !failure && !near.empty() && *near.begin() != "..")
        yard = near.string();
    const std::vector<Act> acts = {
        {"Load it, compile the logic, check plant, map and procedures", {"check", yard}, kWell},
        {"The tags: what reads TRUE before anything moves?", {"tags", yard}, kWell},
        {"Run it: start, and watch for a while",
         {"run", yard, "--do", "turn panel.mode to automatic", "--do", "press panel.start for 200 ms", "--for", "60s",
          "--watch", "lift.position,glaze.level", "--out", out},
         kWell},
        {"Draw the plan while the first brick is under",
         {"draw", "plan", yard, "--procedure", "1_normal_cycle", "--at", "13s", "--out",
          files::join_path(out, "plan.png")},
         kWell},
        {"Draw the dip cycle as a timing chart",
         {"draw", "timing", yard, "--procedure", "1_normal_cycle", "--from", "9s", "--to", "18s", "--watch",
          "dip_eye,clamp_close,clamp_grip,lift_down,lift_up,lift_top,lift_bottom,dip_step,lift.position,infeed_run",
          "--out", files::join_path(out, "timing.png")},
         kWell},
        {"Prove it: every procedure, all rules watched", {"prove", yard, "--out", out}, kWell},
        {"And a wrong variant of the logic: does the proof catch it?",
         {"prove", yard, "1_normal_cycle", "--use", "logic/40_dip.st=" + yard + "/variants/early_infeed.st"},
         kFailed},
    };
    for (const Act& act : acts) {
        fmt::print("\n== {}\n$ {}\n", act.title, typed(act.words));
        std::fflush(stdout);
        const int exit = carry_out(act.words);
        if (exit != act.expected_exit) return exit == kWell ? static_cast<int>(kOurFault) : exit;
    }
    fmt::print(
        "\nThe results are in {}. The last proof was meant to fail: its variant lets bricks in while the lift is "
        "away.\n",
        out);
    return kWell;
}

}  // namespace vyard::cli
