#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "cli/drive.hpp"
#include "cli/logic_units.hpp"
#include "report/logic_text.hpp"
#include "report/table.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

void show(const Moments& moments, const figures::LogicUnit& unit, report::LogicTextStyle style) {
    const session::Session& session = moments.now;
    const controller::ControllerState& state = session.controller(unit.controller);
    const auto seen = figures::seen_at(session, unit, moments.before ? &*moments.before : nullptr);
    fmt::print("{} at {}{}{}\n", unit.name, base::clock_text(session.now()),
               state.running ? "" : ", its controller is stopped",
               moments.before ? fmt::format("; changed since {}", base::clock_text(moments.before->now())) : "");
    // What is drawn is what the logic has; a forced output leaves with another value.
    for (const std::string& force : session::forces_text(session)) fmt::print("  {}\n", force);
    fmt::print("{}", report::unit_text(*seen, style));
}

/// Tasks in the order in which they run when several are due; programs without one run behind them, once a scan.
int show_tasks(const session::SessionModel& model) {
    report::Table table;
    table.columns = {"controller", "task", "interval", "priority", "programs", "scan", "longest scan"};
    for (const controller::ControllerModel& c : model.controllers) {
        if (c.program->checked == nullptr) continue;
        const auto programs_of = [&](int task) {
            std::vector<std::string> names;
            for (const logic::ProgramInstance& p : c.program->checked->programs) {
                if (p.task == task) names.push_back(p.name);
            }
            return fmt::format("{}", fmt::join(names, ", "));
        };
        // A task whose interval is not a multiple of the scan comes late.
        const auto longest = logic::scan_of_tasks(*c.program);
        const std::string most = longest ? base::time_text(*longest) : "any";
        const auto& tasks = c.program->checked->tasks;
        for (std::size_t t = 0; t < tasks.size(); ++t) {
            const bool timed = tasks[t].interval_ns > 0;
            table.rows.push_back({c.name, tasks[t].name,
                                  timed ? base::time_text(base::Nanoseconds(tasks[t].interval_ns))
                                  : tasks[t].single != nullptr ? "when SINGLE rises"
                                                               : "every scan",
                                  std::to_string(tasks[t].priority), programs_of(static_cast<int>(t)),
                                  base::time_text(c.scan), most});
        }
        if (const std::string rest = programs_of(-1); !rest.empty())
            table.rows.push_back({c.name, "", "every scan", "", rest, base::time_text(c.scan), most});
    }
    fmt::print("{}", report::table_text(table));
    return kWell;
}

}  // namespace

CommandLine show_line() {
    CommandLine line(
        "show logic|tasks [YARD] [options]",
        "Prints logic at one time of a run. Drawings: lines that have power are heavy, contacts that let it "
        "pass have heavy\nbars, coils that are TRUE are filled. Charts: active steps are heavy. Text: "
        "values stand to its right. All are\nthose after the last scan. 'tasks' lists the tasks of each controller: "
        "interval, priority, programs, and the longest scan\nin which each still comes in time.",
        "vyard show logic examples/glaze-line --unit panel_signals --procedure 1_normal_cycle --at 12.5s");
    line.add_yard_options();
    line.add_run_options();
    add_drive_options(line, "0 s");
    add_moment_options(line, "when; default the end of the run");
    line.options().add_options()(
        "unit", po::value<std::vector<std::string>>()->composing()->value_name("NAMES"),
        "programs, or instances of blocks in them: panel.pump_1,main; default all that are drawn")(
        "ascii", "without box-drawing characters: = and # have power, [ ] let it pass");
    line.only_for({"unit", "ascii", "at", "changes", "do", "for", "until", "procedure", "stimulus", "set", "seed"},
                  {"logic"});
    line.takes_words(2);
    return line;
}

int show_command(const CommandLine& line) {
    if (line.word(0) != "logic" && line.word(0) != "tasks")
        return wrong_call(line.word(0).empty() ? "name what to show: logic or tasks"
                                               : fmt::format("'{}' cannot be shown", line.word(0)),
                          base::name_hint(line.word(0), {"logic", "tasks"}));
    const auto loaded = load(line, false, 1);
    if (!loaded) return kWrongCall;
    if (line.word(0) == "tasks") return show_tasks(*loaded->yard.model);
    auto way = read_drive(line, *loaded, 0.0);
    if (!way) return kWrongCall;
    const auto units = units_for(*loaded->yard.model, fmt::format("{}", fmt::join(line.list("unit"), ",")), true);
    if (!units) return kWrongCall;
    const auto seen = moments(line, *way, loaded->yard.model);
    if (!seen) return kWrongCall;
    for (std::size_t i = 0; i < units->size(); ++i) {
        if (i > 0) fmt::print("\n");
        show(*seen, (*units)[i], {line.has("ascii"), 0});
    }
    print_verdicts(line, *way);
    return passed(*way) ? kWell : kFailed;
}

}  // namespace vyard::cli
