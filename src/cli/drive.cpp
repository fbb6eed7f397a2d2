#include "cli/drive.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>

#include "report/verdicts.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

void add_drive_options(CommandLine& line, const char* without_orders) {
    line.options().add_options()("do", po::value<std::vector<std::string>>()->composing()->value_name("ORDER"),
                                 "an order to carry out first, as in a procedure; may be repeated")(
        "procedure,p", po::value<std::vector<std::string>>()->composing()->value_name("NAME"),
        "run through this procedure, or all of a file one after the other (its name, or its file's); may be repeated")(
        "for", po::value<std::string>()->value_name("TIME"),
        fmt::format("how long to run after the orders and the procedure; default 0 s, without either {}",
                    without_orders)
            .c_str())("until", po::value<std::string>()->value_name("TIME"), "run on until this moment");
    line.one_of({"for", "until"});
}

std::optional<Drive> read_drive(const CommandLine& line, const Loaded& loaded, double default_seconds) {
    Drive out;
    const auto until = line.quantity("until", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    if (!until) return std::nullopt;
    const bool orders_given = line.has("do") || line.has("procedure");
    const auto rest = line.quantity("for", base::Dimension::Time,
                                    orders_given || line.has("until") ? 0.0 : default_seconds, 0.0, 3.6e6);
    if (!rest) return std::nullopt;
    out.rest = base::from_seconds(*rest);
    out.until = base::from_seconds(*until);
    out.book = loaded.book;
    out.table = procedure::TableCheck(loaded.yard.expectations);
    for (const std::string& name : line.list("procedure")) {
        const auto found = find_procedures(loaded, name);
        if (found.empty()) return std::nullopt;
        out.procedures.insert(out.procedures.end(), found.begin(), found.end());
    }
    if (line.has("do") && (out.orders = read_orders(line, *loaded.yard.model)) == nullptr) return std::nullopt;
    return out;
}

void drive(Drive& drive, session::Session& session, const procedure::Observer& outer) {
    const procedure::Observer observer = [&](const session::Session& s) {
        outer(s);
        drive.table.observe(s);
    };
    drive.table.observe(session);
    const auto follow = [&](const std::shared_ptr<const procedure::Book>& book, std::size_t number) {
        auto verdict = procedure::run_procedure(book, number, session, observer, drive.ended);
        for (const procedure::StopVerdict& stop : verdict.stops) drive.expected_stops += stop.meant ? 1U : 0U;
        drive.deeds.insert(drive.deeds.end(), verdict.deeds.begin(), verdict.deeds.end());
        for (const procedure::RuleVerdict& rule : verdict.rules) {
            if (rule.times_broken > 0) drive.broken.push_back(rule);
        }
        if (verdict.verdict != procedure::Verdict::Passed) {
            drive.failed.push_back(std::move(verdict));
            return;
        }
        for (const procedure::StepVerdict& step : verdict.steps)
            drive.notes.insert(drive.notes.end(), step.notes.begin(), step.notes.end());
    };
    const auto ended = [&] { return drive.ended && drive.ended(); };
    if (drive.orders != nullptr) follow(drive.orders, 0);
    for (const std::size_t p : drive.procedures) {
        if (!ended()) follow(drive.book, p);
    }
    const base::Nanoseconds end = std::max(session.now() + drive.rest, drive.until);
    while (session.now() < end && !ended()) {
        session.step();
        observer(session);
    }
    drive.mishaps = session::mishaps_of(session);
}

session::Session session_at(Drive& way, const session::SessionModelPtr& model, std::optional<base::Nanoseconds> at,
                            const procedure::Observer& observer) {
    session::Session session(model);
    std::optional<session::Session> caught;
    const auto look = [&](const session::Session& s) {
        if (observer && !caught) observer(s);
        if (at && !caught && s.now() >= *at) caught = s;
    };
    look(session);
    drive(way, session, look);
    while (at && !caught) {
        session.step();
        way.table.observe(session);
        look(session);
    }
    return caught ? *caught : session;
}

void add_moment_options(CommandLine& line, const char* at_help) {
    line.options().add_options()("at", po::value<std::string>()->value_name("TIME"), at_help)(
        "changes", po::value<std::string>()->value_name("TIME"),
        "logic: mark what is not as it was at this earlier time");
}

std::optional<Moments> moments(const CommandLine& line, Drive& way, const session::SessionModelPtr& model,
                               const procedure::Observer& observer) {
    const auto at = line.quantity("at", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    const auto earlier = line.quantity("changes", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    if (!at || !earlier) return std::nullopt;
    if (line.has("changes") && line.has("at") && *earlier >= *at) {
        wrong_call("--changes names a time before --at", "--at 12.5s --changes 12s");
        return std::nullopt;
    }
    std::optional<session::Session> before;
    const base::Nanoseconds then = base::from_seconds(*earlier);
    const auto watch = [&](const session::Session& s) {
        if (observer) observer(s);
        if (line.has("changes") && !before && s.now() >= then) before = s;
    };
    session::Session now =
        session_at(way, model, line.has("at") ? std::optional(base::from_seconds(*at)) : std::nullopt, watch);
    if (line.has("changes") && !before) {
        wrong_call(fmt::format("the run ends at {}, before --changes", base::clock_text(now.now())),
                   "give --for, --procedure or --do");
        return std::nullopt;
    }
    return Moments{std::move(now), std::move(before)};
}

std::string title_of(const CommandLine& line, const Loaded& loaded) {
    std::string out = loaded.yard.name;
    const char* separator = ": ";
    for (const std::string& name : line.list("procedure")) {
        out += separator + name;
        separator = ", ";
    }
    const char* with = " with ";
    for (const files::Substitute& s : line.substitutes()) {
        out += with + s.replacement;
        with = ", ";
    }
    return out;
}

bool passed(const Drive& drive) {
    return drive.failed.empty() && drive.table.passed();
}

void print_verdicts(const CommandLine& line, const Drive& drive) {
    // Where standard output is the result itself, they stand beside it.
    const bool aside = is_standard_output(line.text("out"));
    std::FILE* to = aside ? stderr : stdout;
    if (!drive.table.empty()) fmt::print(to, "{}", drive.table.text());
    if (!drive.failed.empty())
        fmt::print(to, "{}",
                   report::verdicts_text(drive.failed, aside ? line.colours_errors() : line.colours_output()));
}

}  // namespace vyard::cli
