#include "core/trace/watch.hpp"

namespace vyard::trace {

Watch::Watch(std::vector<Channel> channels, bool only_changes, RowSink sink)
    : channels_(std::move(channels)), only_changes_(only_changes), sink_(std::move(sink)) {}

void Watch::observe(const session::Session& session) {
    if (!session.scanned() || channels_.empty() || session.now() == last_time_) return;
    std::vector<std::string> cells;
    cells.reserve(channels_.size());
    for (const Channel& c : channels_) cells.push_back(cell_text(c, session::value(session, c.signal)));
    if (only_changes_ && cells == last_) return;
    last_time_ = session.now();
    sink_(session.now(), cells);
    last_ = std::move(cells);
}

}  // namespace vyard::trace
