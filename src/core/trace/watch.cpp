#include "core/trace/watch.hpp"

#include <fmt/format.h>

namespace vyard::trace {

namespace {

std::string cell(const session::Session& session, const session::Signal& signal) {
    if (logic::is_text(signal.type)) return session::value_text(session, signal);
    if (!signal.of_plant()) {
        const auto& controller = session.controller(signal.controller);
        const auto& program = *session.model().controllers[static_cast<std::size_t>(signal.controller)].program;
        const logic::Variable& v = program.variables[static_cast<std::size_t>(signal.variable)];
        if (logic::is_moment(v.type) || v.names != nullptr || v.type == logic::Elementary::Bool)
            return logic::variable_text(controller.memory.data(), v);
        if (logic::is_duration(v.type)) return fmt::format("{}", session::read(session, signal) / 1e9);
        if (v.type == logic::Elementary::Real) return logic::variable_text(controller.memory.data(), v);
    }
    return fmt::format("{}", session::read(session, signal));
}

}  // namespace

Watch::Watch(std::vector<std::string> names, std::vector<session::Signal> signals, bool only_changes)
    : signals_(std::move(signals)), only_changes_(only_changes) {
    table_.names = std::move(names);
}

void Watch::observe(const session::Session& session) {
    if (!session.scanned()) return;
    WatchTable::Row row{session.now(), {}};
    for (const session::Signal& s : signals_) row.values.push_back(cell(session, s));
    if (only_changes_ && !table_.rows.empty() && table_.rows.back().values == row.values) return;
    table_.rows.push_back(std::move(row));
}

}  // namespace vyard::trace
