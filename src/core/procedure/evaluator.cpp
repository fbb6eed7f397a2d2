#include "core/procedure/evaluator.hpp"

namespace vyard::procedure {

std::shared_ptr<const Conditions> rebound(const Conditions& conditions, int controller,
                                          const controller::Rebinding& rebinding, std::vector<std::string>& gone) {
    auto out = std::make_shared<Conditions>(conditions);
    out->gone.resize(out->signals.size(), false);
    for (std::size_t i = 0; i < out->signals.size(); ++i) {
        if (out->gone[i]) continue;
        if (const auto now = session::rebound(out->signals[i], controller, rebinding)) {
            out->signals[i] = *now;
            continue;
        }
        out->gone[i] = true;
        for (const logic::Gathered& g : out->set.gathered) {
            if (static_cast<std::size_t>(g.source) == i) gone.push_back(g.name);
        }
    }
    return out;
}

Evaluator::Evaluator(std::shared_ptr<const Conditions> conditions)
    : conditions_(std::move(conditions)), memory_(conditions_->set.initial_memory) {}

void Evaluator::arm(int condition) {
    for (const std::uint32_t at : model(condition).edges) memory_[at] = std::byte{0};
}

Answer Evaluator::evaluate(int number, const session::Session& session) {
    const logic::Condition& condition = model(number);
    for (const int n : condition.names) {
        const logic::Gathered& g = base::at(conditions_->set.gathered, n);
        const session::Signal& signal = base::at(conditions_->signals, g.source);
        if (!conditions_->gone.empty() && base::at(conditions_->gone, g.source))
            return {Answer::Kind::Unknown, "a tag of it is gone from the logic"};
        if (logic::is_text(g.type)) {
            logic::assign_text(memory_.data() + g.offset, g.type, session::read_text(session, signal));
        } else if (signal.of_plant()) {
            logic::write_number(memory_.data(), g.type, g.offset, -1, session::read(session, signal));
        } else {
            logic::write_bits(memory_.data(), g.type, g.offset, -1, session::bits(session, signal));
        }
    }
    const auto done =
        logic::execute(conditions_->set.view(), condition.entry, memory_.data(), session.now().count(), 0);
    if (done.outcome != logic::Outcome::Done) return {Answer::Kind::Unknown, logic::outcome_text(done)};
    return {memory_[condition.result] != std::byte{0} ? Answer::Kind::True : Answer::Kind::False, ""};
}

std::vector<NamedValue> Evaluator::values(int number, const session::Session& session) const {
    std::vector<NamedValue> out;
    for (const int n : model(number).names) {
        const logic::Gathered& g = base::at(conditions_->set.gathered, n);
        if (!conditions_->gone.empty() && base::at(conditions_->gone, g.source)) {
            out.emplace_back(g.name, "gone");
            continue;
        }
        out.emplace_back(g.name, session::explained_text(session, base::at(conditions_->signals, g.source)));
    }
    return out;
}

std::vector<std::string> Evaluator::not_holding(int number, const session::Session& session) {
    std::vector<std::string> out;
    for (const int part : model(number).parts) {
        if (!evaluate(part, session).yes()) out.push_back(model(part).text);
    }
    if (out.empty()) out.push_back(model(number).text);
    return out;
}

}  // namespace vyard::procedure
