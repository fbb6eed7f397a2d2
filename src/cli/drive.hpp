// What run and draw share: bringing a session to where it is wanted by orders, a procedure, and time.
#pragma once

#include "cli/command.hpp"
#include "core/procedure/procedure.hpp"

namespace vyard::cli {

struct Drive {
    std::shared_ptr<const procedure::Book> orders;    ///< From --do; may be null.
    std::shared_ptr<const procedure::Book> book;      ///< Of the yard; may be null.
    std::vector<std::size_t> procedures;              ///< From --procedure; one after the other.
    base::Nanoseconds rest{};                         ///< From --for: time after both.
    base::Nanoseconds until{};                        ///< From --until.
    procedure::TableCheck table{{}};                  ///< What --stimulus expects; looked at by drive().
    std::vector<procedure::ProcedureVerdict> failed;  ///< After drive(): verdicts that did not pass.
    std::vector<std::string> notes;                   ///< After drive(): of procedures that passed, such as measures.
    std::function<bool()> ended;                      ///< Asked before every step; when it says so, the run ends.
    std::size_t expected_stops = 0;                   ///< After drive(): stops of controllers that a step had expected.
    std::vector<procedure::Deed> deeds;               ///< After drive(): what orders did.
    std::vector<procedure::RuleVerdict> broken;       ///< After drive(): rules that did not hold.
    std::vector<session::MishapNote> mishaps;         ///< After drive(): what happened in the plant and should not.
};

/// Adds --do, --procedure, --for and --until; `without_orders`: how long a run is without orders, "10 s".
void add_drive_options(CommandLine& line, const char* without_orders);
/// Null after a report.
std::optional<Drive> read_drive(const CommandLine& line, const Loaded& loaded, double default_seconds);
/// Runs it all; `observer` sees the session after every step.
void drive(Drive& drive, session::Session& session, const procedure::Observer& observer);

/// The session of a run at one instant; runs on when the orders end before it. Without `at`, at its end. `observer`
/// sees it after every step.
session::Session session_at(Drive& drive, const session::SessionModelPtr& model, std::optional<base::Nanoseconds> at,
                            const procedure::Observer& observer = {});

/// A moment of a run, and an earlier one that it is compared with, if --changes names one.
struct Moments {
    session::Session now;
    std::optional<session::Session> before;
};
/// Adds --at and --changes.
void add_moment_options(CommandLine& line, const char* at_help);
/// Null after a report.
std::optional<Moments> moments(const CommandLine& line, Drive& drive, const session::SessionModelPtr& model,
                               const procedure::Observer& observer = {});

/// "Glaze line: 1_normal_cycle with variants/slow.st": the yard, what was run, what stood in for its files.
std::string title_of(const CommandLine& line, const Loaded& loaded);
/// Whether all that was expected held: procedures, orders, the table.
bool passed(const Drive& drive);
/// How the table came out, and which orders and procedures did not pass, and why; nothing where there is none.
void print_verdicts(const CommandLine& line, const Drive& drive);

}  // namespace vyard::cli
