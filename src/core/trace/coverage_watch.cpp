#include "core/trace/coverage_watch.hpp"

namespace vyard::trace {

CoverageWatch::CoverageWatch(const session::SessionModel& model) : scans_(model.controllers.size(), UINT64_MAX) {
    coverages_.reserve(model.controllers.size());
    for (const auto& c : model.controllers) coverages_.emplace_back(*c.program);
}

void CoverageWatch::observe(const session::Session& session) {
    for (std::size_t c = 0; c < coverages_.size(); ++c) {
        const controller::ControllerState& state = session.controller(static_cast<int>(c));
        if (state.scans == scans_[c]) continue;
        scans_[c] = state.scans;
        coverages_[c].look(state.memory);
    }
}

}  // namespace vyard::trace
