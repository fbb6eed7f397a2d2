#include "core/campaign/standstill.hpp"

#include <algorithm>

namespace vyard::campaign {

using namespace std::chrono_literals;

Rhythm rhythm_of(const Setup& setup) {
    Rhythm out;
    const session::SessionModel& model = *setup.model;
    for (const controller::ControllerModel& c : model.controllers) {
        out.intervals.push_back(c.scan);
        for (const logic::Task& task : c.program->tasks) {
            if (task.interval.count() > 0) out.intervals.push_back(task.interval);
        }
    }
    const auto tells_step_time = [&](const session::Signal& s) {
        return !s.of_plant() &&
               logic::is_step_time(base::at(model.controllers, s.controller).program->clocks, s.spot.offset);
    };
    for (const auto* list : {&setup.book->conditions->signals, &setup.alarms.signals})
        out.step_times = out.step_times || std::any_of(list->begin(), list->end(), tells_step_time);
    return out;
}

namespace {

/// A table of stimuli has something to write yet.
bool table_goes_on(const session::Session& session) {
    const auto& models = session.model().controllers;
    for (std::size_t c = 0; c < models.size(); ++c) {
        if (session.controller(static_cast<int>(c)).next_stimulus < models[c].stimuli.size()) return true;
    }
    return false;
}

}  // namespace

void Standstill::keep(const Branch& now) {
    anchor_ = now.session;
    position_ = now.run.position();
    over_.clear();
    for (std::size_t c = 0; c < now.session.model().controllers.size(); ++c) {
        const controller::ControllerState& state = now.session.controller(static_cast<int>(c));
        over_.push_back(logic::clocks_over(state.memory, now.session.model().controllers[c].program->clocks,
                                           state.clock().count()));
    }
}

bool Standstill::look(const Branch& now) {
    if (table_goes_on(now.session) || !now.run.waits_in_vain()) {
        anchor_.reset();
        return false;
    }
    if (!anchor_ || position_ != now.run.position()) {
        span_ = 1s;
        keep(now);
        return false;
    }
    // What is left out of the comparison as over has to be so all along.
    for (std::size_t c = 0; c < over_.size(); ++c) {
        const controller::ControllerState& state = now.session.controller(static_cast<int>(c));
        if (!logic::all_over(over_[c], state.memory, state.clock().count())) {
            keep(now);
            return false;
        }
    }
    const base::Nanoseconds gone = now.session.now() - anchor_->now();
    const bool in_step = std::all_of(rhythm_.intervals.begin(), rhythm_.intervals.end(),
                                     [&](base::Nanoseconds i) { return gone % i == base::Nanoseconds(0); });
    const session::Session::LeftOut left_out{.step_times = !rhythm_.step_times, .over = true};
    if (in_step && gone >= 1s && now.session.goes_on_as(*anchor_, left_out)) return true;
    if (gone >= span_) {
        span_ *= 2;
        keep(now);
    }
    return false;
}

}  // namespace vyard::campaign
