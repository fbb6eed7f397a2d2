#include <fmt/format.h>

#include <thread>

#include "cli/drive.hpp"
#include "cli/interrupt.hpp"
#include "cli/linked.hpp"
#include "link/screens.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

CommandLine serve_line() {
    CommandLine line(
        "serve [YARD] [options]",
        "Runs a yard in real time, without a person, and keeps its links: the plant to a controller that is "
        "executed elsewhere, a controller that is executed here to screens. It runs until it is ended.",
        "vyard serve examples/dough-mixer --stand-in --for 2s");
    line.add_yard_options();
    line.add_run_options();
    line.add_link_options();
    add_linked_options(line);
    line.options().add_options()("for", po::value<std::string>()->value_name("TIME"),
                                 "end after this time of the run; default: never")(
        "do", po::value<std::vector<std::string>>()->composing()->value_name("ORDER"),
        "an order to carry out at the beginning; may be repeated");
    line.takes_words(1);
    return line;
}

int serve_command(const CommandLine& line) {
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    const session::SessionModel& model = *loaded->yard.model;
    const auto limit = line.quantity("for", base::Dimension::Time, 0.0, 0.0, 1e9);
    if (!limit) return kWrongCall;
    std::shared_ptr<const procedure::Book> orders;
    if (line.has("do") && (orders = read_orders(line, model)) == nullptr) return kWrongCall;
    const bool any = std::any_of(model.controllers.begin(), model.controllers.end(),
                                 [](const auto& c) { return c.link.has_value(); });
    if (!any)
        return wrong_call(
            "no controller of this yard has a link",
            "[controller.NAME.link] with role = \"server\", \"client\" or \"screen\", or --link screen@:1502");
    const Interrupt interrupt;
    const auto ended = [&] { return interrupt.come(); };
    std::string problem;
    const auto screens = link::Screens::open(loaded->yard.model, problem);
    if (screens == nullptr) {
        fmt::print(stderr, "error: {}\n", problem);
        return kOurFault;
    }
    int exit = kWell;
    const auto linked = Linked::open(line, *loaded, ended, exit);
    if (linked == nullptr) return exit;
    if (linked->links() == nullptr) warn_of_strangers(model);
    if (!line.quiet() && !screens->none())
        fmt::print("serving {} at {}\n", loaded->yard.name, fmt::join(screens->places(), ", "));
    std::fflush(stdout);
    session::Session session(loaded->yard.model, nullptr, linked->partner());
    screens->publish(session);
    link::Pace pace;
    // Exchanges keep the time where there are any: real time, or as fast as a locked link goes.
    const bool paced = linked->links() == nullptr;
    const auto step = [&] {
        for (link::ScreenWrite& w : screens->take_written()) session.write(w.controller, w.spot, std::move(w.value));
        session.step();
        screens->publish(session);
        if (paced) pace.wait(session.now());
    };
    if (orders != nullptr) {
        procedure::Run run(orders, 0, session);
        while (run.advance(session) && !ended()) step();
        if (run.failed()) fmt::print(stderr, "warning: not all of --do could be done\n");
    }
    while (!ended() && (*limit == 0.0 || base::to_seconds(session.now()) < *limit)) step();
    if (!line.quiet()) {
        fmt::print("ran {} of simulated time\n", base::clock_text(session.now()));
        for (const session::LinkLossNote& loss : session::link_losses(session)) fmt::print("remark: {}\n", loss.text);
        if (!screens->none()) {
            const link::ServerCounts n = screens->counts();
            fmt::print("{}, {}, {}, {}\n", number_of(n.connected, "connection"), number_of(n.requests, "request"),
                       number_of(n.exceptions, "exception"), number_of(n.refused, "refusal"));
        }
    }
    if (!linked->close(line)) return kOurFault;
    return interrupt.exit_code(session::link_lost_by_itself(session) ? kFailed : kWell);
}

}  // namespace vyard::cli
