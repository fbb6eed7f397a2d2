#include "core/procedure/table.hpp"

#include <fmt/format.h>

#include <cmath>

namespace vyard::procedure {

namespace {

bool meets(const session::Expectation& e, const logic::Value& seen) {
    if (!logic::is_real(seen.type)) return seen == e.value;
    return std::abs(logic::number_of(seen) - logic::number_of(e.value)) <= e.tolerance;
}

}  // namespace

TableCheck::TableCheck(std::vector<session::Expectation> expectations) : expectations_(std::move(expectations)) {}

void TableCheck::observe(const session::Session& session) {
    if (!session.scanned() && !session.model().controllers.empty()) return;
    for (; next_ < expectations_.size() && expectations_[next_].time <= session.now(); ++next_) {
        const session::Expectation& e = expectations_[next_];
        const logic::Value seen = session::value(session, e.signal);
        if (meets(e, seen)) continue;
        Failure miss;
        miss.place = e.place;
        miss.expected = fmt::format("{} = {} at {}", e.name, e.text, base::time_text(e.time));
        miss.found = fmt::format("{} is {}", e.name, session::explained_text(session, e.signal));
        miss.time = session.now();
        misses_.push_back(std::move(miss));
    }
}

std::string TableCheck::text() const {
    std::string out =
        fmt::format("{} of {} expectations of the table held\n", next_ - misses_.size(), expectations_.size());
    for (const Failure& m : misses_)
        out += fmt::format("    {}: expected {}, but {}, at {}\n", m.place.text(), m.expected, m.found,
                           base::clock_text(m.time));
    if (next_ < expectations_.size())
        out += fmt::format("    {} not reached: the run ended before {}\n", expectations_.size() - next_,
                           base::time_text(expectations_[next_].time));
    return out;
}

void TableCheck::add_to(ProcedureVerdict& verdict, const session::Session& session) const {
    StepVerdict step;
    step.name = "the table";
    step.verdict = passed() ? Verdict::Passed : Verdict::Failed;
    step.end = session.now();
    if (!misses_.empty()) {
        step.place = misses_.front().place;
        step.failure = misses_.front();
    }
    for (std::size_t i = 1; i < misses_.size(); ++i)
        step.notes.push_back(
            fmt::format("{}: expected {}, but {}", misses_[i].place.text(), misses_[i].expected, misses_[i].found));
    if (next_ < expectations_.size())
        step.notes.push_back(
            fmt::format("{} expectations of the table were not reached", expectations_.size() - next_));
    verdict.steps.push_back(std::move(step));
    if (!passed()) verdict.verdict = Verdict::Failed;
}

}  // namespace vyard::procedure
