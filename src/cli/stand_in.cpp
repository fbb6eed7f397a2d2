#include <fmt/format.h>

#include <thread>

#include "cli/command.hpp"
#include "cli/interrupt.hpp"
#include "cli/linked.hpp"
#include "link/stand_in.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

CommandLine stand_in_line() {
    CommandLine line(
        "stand-in [YARD [CONTROLLER]] [options]",
        "Speaks for a controller that is executed elsewhere, over its link, as the real one will: executes "
        "its logic and that of 'stand_in' in yard.toml. It runs until it is ended.",
        "vyard stand-in examples/dough-mixer --for 2s");
    line.add_yard_options();
    line.add_link_options();
    line.reads_stand_ins();
    line.options().add_options()("for", po::value<std::string>()->value_name("TIME"),
                                 "end after this time by the clock; default: never");
    line.takes_words(2);
    return line;
}

int stand_in_command(const CommandLine& line) {
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    const auto limit = line.quantity("for", base::Dimension::Time, 0.0, 0.0, 1e9);
    if (!limit) return kWrongCall;
    std::vector<const controller::ControllerModel*> all;
    std::vector<std::string> names;
    for (const controller::ControllerModel& c : loaded->yard.model->controllers) {
        if (!c.remote()) continue;
        names.push_back(c.name);
        if (line.word(1).empty() || base::fold(line.word(1)) == base::fold(c.name)) all.push_back(&c);
    }
    if (all.empty())
        return wrong_call(names.empty() ? std::string("no controller of this yard is executed elsewhere")
                                        : fmt::format("no controller '{}' is executed elsewhere", line.word(1)),
                          names.empty() ? "[controller.NAME.link] role = \"server\" or \"client\""
                                        : base::name_hint(line.word(1), names));
    for (const controller::ControllerModel* c : all) {
        if (c->link->role == controller::LinkRole::Client) warn_of_listening(*c);
    }
    const Interrupt interrupt;
    const auto begin = std::chrono::steady_clock::now();
    const auto ended = [&] {
        const std::chrono::duration<double> run = std::chrono::steady_clock::now() - begin;
        return interrupt.come() || (*limit > 0.0 && run.count() > *limit);
    };
    std::vector<link::StandInFigures> figures(all.size());
    std::vector<std::thread> threads;
    for (std::size_t i = 0; i < all.size(); ++i)
        threads.emplace_back([&, i] { figures[i] = link::stand_in(*all[i], ended); });
    for (std::thread& t : threads) t.join();
    int exit = kWell;
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (!figures[i].problem.empty()) fmt::print(stderr, "error: {}: {}\n", all[i]->name, figures[i].problem);
        if (!figures[i].problem.empty()) exit = kOurFault;
        if (!line.quiet())
            fmt::print("{}: {} scans, {}{}\n", all[i]->name, figures[i].scans,
                       number_of(figures[i].connections, "connection"),
                       figures[i].asked == 0 ? "" : ", asked others " + number_of(figures[i].asked, "time"));
    }
    return line.quiet() ? exit : interrupt.exit_code(exit);
}

}  // namespace vyard::cli
