// Runs a procedure over a session and watches its rules in every scan.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/book.hpp"
#include "core/procedure/evaluator.hpp"

namespace vyard::procedure {

enum class Verdict : std::uint8_t { Passed, Failed, NotReached };
const char* verdict_text(Verdict verdict);

/// Why a step failed.
struct Failure {
    base::Place place;
    std::string expected;
    std::string found;
    std::vector<std::pair<std::string, std::string>> values;
    base::Nanoseconds time{};
};

struct StepVerdict {
    std::string name;
    base::Place place;
    Verdict verdict = Verdict::NotReached;
    base::Nanoseconds begin{}, end{};
    std::optional<Failure> failure;
    std::vector<std::string> notes;
};

struct RuleVerdict {
    std::string name;
    base::Place place;
    Verdict verdict = Verdict::NotReached;  ///< NotReached: a whenever that was never triggered.
    int times_triggered = 0;
    int times_broken = 0;
    base::Nanoseconds first_broken{}, broken_for{};
    std::string condition;                                    ///< As written.
    std::vector<std::pair<std::string, std::string>> values;  ///< When it first broke.
};

struct ProcedureVerdict {
    std::string name;
    base::Place place;
    Verdict verdict = Verdict::NotReached;
    base::Nanoseconds duration{};
    std::vector<StepVerdict> steps;
    std::vector<RuleVerdict> rules;
    std::vector<std::string> remarks;  ///< Forces and faults left on, a controller that stopped by itself.
};

/// Called at the start and after every step of the plant.
using Observer = std::function<void(const session::Session&)>;

ProcedureVerdict run_procedure(const Book& book, const ProcedureModel& procedure, session::Session& session,
                               const Observer& observer);

}  // namespace vyard::procedure
