#include "core/session/mishaps.hpp"

#include <fmt/format.h>

namespace vyard::session {

namespace {

/// Steps count from 1 at the start of a run.
base::Nanoseconds time_of(const SessionModel& model, std::uint32_t step) {
    return model.step * static_cast<std::int64_t>(step - 1);
}

}  // namespace

std::vector<MishapNote> mishaps_of(const Session& session) {
    const plant::PlantModel& plant = *session.model().plant;
    std::vector<MishapNote> out;
    for (const plant::Mishap& m : session.plant().mishaps) {
        MishapNote note;
        note.name = plant::mishap_name(plant, m);
        note.text = plant::mishap_text(plant, m);
        note.first = time_of(session.model(), m.first_step);
        note.last = time_of(session.model(), m.last_step);
        note.times = m.times;
        note.seconds = plant::mishap_seconds(plant, session.plant(), m);
        note.goes_on = m.goes_on;
        if (const plant::AllowedMishap* allowed = plant::allowance(plant, m.device, m.number))
            note.allowed = allowed->reason;
        out.push_back(std::move(note));
    }
    return out;
}

std::string mishap_line(const MishapNote& note) {
    std::string out = fmt::format("{} at {}: {}", note.name, base::clock_text(note.first), note.text);
    if (note.times > 1) out.append(fmt::format("; {} times", note.times));
    if (note.seconds > 0.0)
        out.append(fmt::format("; for {} in all", base::clock_text(base::from_seconds(note.seconds))));
    if (!note.allowed.empty()) out.append(fmt::format(" (allowed: {})", note.allowed));
    return out;
}

std::uint32_t mishaps_counted(const Session& session) {
    return session.plant().mishaps_counted;
}

}  // namespace vyard::session
