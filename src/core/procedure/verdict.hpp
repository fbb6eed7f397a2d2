// What a procedure came to.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/procedure/evaluator.hpp"
#include "core/session/session.hpp"

namespace vyard::procedure {

enum class Verdict : std::uint8_t {
    Passed,
    Failed,
    NotReached,     ///< A step: the procedure ended before it.
    NotTested,      ///< A rule: what it waits for never happened.
    OpenAtEnd,      ///< A rule: its time was not over when the procedure ended, so it is neither kept nor broken.
    CannotBeJudged  ///< A rule: its condition could not be computed.
};
const char* verdict_text(Verdict verdict);

/// Why a step failed.
struct Failure {
    base::Place place;
    std::string expected;
    std::string found;
    std::vector<NamedValue> values;
    base::Nanoseconds time{};
    /// From running the step again with an eye on everything, see explain(): what changed since it began, what keeps
    /// the outputs that were expected off, what is behind the values in the condition, back to inputs, devices and
    /// orders, what the devices concerned did. A line each.
    std::vector<std::string> changes, kept_off, causes, devices;
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
    Verdict verdict = Verdict::NotTested;
    bool own = false;  ///< Of this procedure alone.
    int times_triggered = 0;
    int times_broken = 0;
    base::Nanoseconds first_broken{}, broken_for{};
    std::string condition;           ///< As written.
    std::string reason;              ///< Why it cannot be judged, and since when; or what was too early.
    std::vector<NamedValue> values;  ///< When it first broke, or could not be judged.
};

/// A controller that stopped by itself, or whose link was lost without a fault on it.
struct StopVerdict {
    int controller = 0;
    base::Nanoseconds time{};
    std::string text;    ///< "controller line stopped at 1.230 s: logic/main.st:12:5: division by zero"
    bool meant = false;  ///< A step expected it.
};

/// An order that was carried out: what a hand or a defect did.
struct Deed {
    base::Nanoseconds time{};
    std::string text;    ///< As written.
    bool fault = false;  ///< A defect was put on something.
};

struct ProcedureVerdict {
    std::string name;
    base::Place place;
    Verdict verdict = Verdict::NotReached;  ///< Passed, Failed or OpenAtEnd.
    base::Nanoseconds duration{};
    std::vector<StepVerdict> steps;
    std::vector<RuleVerdict> rules;
    std::vector<StopVerdict> stops;
    std::vector<Deed> deeds;
    std::vector<session::MishapNote> mishaps;  ///< Whatever the rules say of them.
    std::vector<std::string> remarks;          ///< Forces and faults left on, numbers that no wire carries.
};

}  // namespace vyard::procedure
