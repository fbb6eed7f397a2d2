#include "core/procedure/evaluator.hpp"

namespace vyard::procedure {

Evaluator::Evaluator(const logic::ConditionSet& conditions, const std::vector<session::Signal>& signals)
    : conditions_(conditions), signals_(signals), memory_(conditions.initial_memory) {}

void Evaluator::arm(int condition) {
    for (const std::uint32_t at : conditions_.conditions[static_cast<std::size_t>(condition)].edges)
        memory_[at] = std::byte{0};
}

bool Evaluator::evaluate(int number, const session::Session& session) {
    const logic::Condition& condition = conditions_.conditions[static_cast<std::size_t>(number)];
    for (const int n : condition.names) {
        const logic::Gathered& g = conditions_.gathered[static_cast<std::size_t>(n)];
        const session::Signal& signal = signals_[static_cast<std::size_t>(g.source)];
        if (logic::is_text(g.type)) {
            logic::assign_text(memory_.data() + g.offset, g.type, session::read_text(session, signal));
        } else {
            logic::write_number(memory_.data(), g.type, g.offset, -1, session::read(session, signal));
        }
    }
    const auto done = logic::execute(conditions_.view(), condition.entry, memory_.data(), session.now().count(), 0);
    // A division by zero while looking is no TRUE.
    return done.outcome == logic::Outcome::Done && memory_[condition.result] != std::byte{0};
}

std::vector<std::pair<std::string, std::string>> Evaluator::values(int number, const session::Session& session) const {
    std::vector<std::pair<std::string, std::string>> out;
    for (const int n : conditions_.conditions[static_cast<std::size_t>(number)].names) {
        const logic::Gathered& g = conditions_.gathered[static_cast<std::size_t>(n)];
        const session::Signal& signal = signals_[static_cast<std::size_t>(g.source)];
        out.emplace_back(g.name, session::value_text(session, signal));
    }
    return out;
}

}  // namespace vyard::procedure
