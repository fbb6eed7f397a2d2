#include "core/procedure/evaluator.hpp"

#include <bit>

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
    : conditions_(std::move(conditions)), memory_(conditions_->set.initial_memory) {
    std::uint32_t values = 0;
    for (const logic::Condition& c : conditions_->set.conditions) {
        last_.push_back({values});
        values += static_cast<std::uint32_t>(c.names.size());
    }
    seen_.resize(values);
}

void Evaluator::follow(std::shared_ptr<const Conditions> conditions) {
    conditions_ = std::move(conditions);
    for (Last& last : last_) last.known = false;
}

void Evaluator::arm(int condition) {
    for (const std::uint32_t at : model(condition).edges) memory_[at] = std::byte{0};
    base::at(last_, condition).known = false;
}

bool Evaluator::unchanged(const logic::Condition& condition, const Last& last, const session::Session& session) {
    bool same = last.known;
    for (std::size_t k = 0; k < condition.names.size(); ++k) {
        const logic::Gathered& g = base::at(conditions_->set.gathered, condition.names[k]);
        if (logic::is_text(g.type)) {
            same = false;
            continue;
        }
        const std::uint64_t bits = session::bits(session, base::at(conditions_->signals, g.source));
        same = same && bits == seen_[last.first + k];
        seen_[last.first + k] = bits;
    }
    return same;
}

void Evaluator::take_values(const logic::Condition& condition, const Last& last, const session::Session& session) {
    for (std::size_t k = 0; k < condition.names.size(); ++k) {
        const logic::Gathered& g = base::at(conditions_->set.gathered, condition.names[k]);
        const session::Signal& signal = base::at(conditions_->signals, g.source);
        const std::uint64_t bits = seen_[last.first + k];
        if (logic::is_text(g.type)) {
            logic::assign_text(memory_.data() + g.offset, g.type, session::read_text(session, signal));
        } else if (signal.of_plant()) {
            logic::write_number(memory_.data(), g.type, g.offset, -1, std::bit_cast<double>(bits));
        } else {
            logic::write_bits(memory_.data(), g.type, g.offset, -1, bits);
        }
    }
}

Answer Evaluator::evaluate(int number, const session::Session& session) {
    const logic::Condition& condition = model(number);
    Last& last = base::at(last_, number);
    if (!conditions_->gone.empty()) {
        for (const int n : condition.names) {
            if (base::at(conditions_->gone, base::at(conditions_->set.gathered, n).source))
                return {Answer::Kind::Unknown, "a tag of it is gone from the logic"};
        }
    }
    const bool same = unchanged(condition, last, session);
    if (!same || !last.settled) {
        take_values(condition, last, session);
        const auto done =
            logic::execute(conditions_->set.view(), condition.entry, memory_.data(), session.now().count(), 0);
        last.known = done.outcome == logic::Outcome::Done;
        if (!last.known) return {Answer::Kind::Unknown, logic::outcome_text(done)};
        last.settled = same || condition.edges.empty();
        last.yes = memory_[condition.result] != std::byte{0};
    }
    return {last.yes ? Answer::Kind::True : Answer::Kind::False, {}};
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
