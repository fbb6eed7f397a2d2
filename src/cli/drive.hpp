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
    std::vector<procedure::ProcedureVerdict> failed;  ///< After drive(): verdicts that did not pass.
};

/// Adds --do, --procedure and --for.
void add_drive_options(CommandLine& line);
/// Null after a report.
std::optional<Drive> read_drive(const CommandLine& line, const Loaded& loaded, double default_seconds);
/// Runs it all; `observer` sees the session after every step.
void drive(Drive& drive, session::Session& session, const procedure::Observer& observer);

}  // namespace vyard::cli
