#include "core/trace/watch.hpp"

namespace vyard::trace {

Watch::Watch(std::vector<Channel> channels, bool only_changes, RowSink sink)
    : channels_(std::move(channels)),
      gone_(channels_.size(), false),
      only_changes_(only_changes),
      sink_(std::move(sink)) {}

void Watch::observe(const session::Session& session) {
    if (!session.scanned() || channels_.empty() || session.now() == last_time_) return;
    std::vector<std::string> cells;
    cells.reserve(channels_.size());
    for (std::size_t i = 0; i < channels_.size(); ++i)
        cells.push_back(gone_[i] ? std::string()
                                 : cell_text(channels_[i], session::value(session, channels_[i].signal)));
    if (only_changes_ && cells == last_) return;
    last_time_ = session.now();
    sink_(session.now(), cells);
    last_ = std::move(cells);
}

void Watch::follow(int controller, const controller::Rebinding& rebinding) {
    for (std::size_t i = 0; i < channels_.size(); ++i) {
        if (gone_[i]) continue;
        if (const auto now = session::rebound(channels_[i].signal, controller, rebinding)) {
            channels_[i].signal = *now;
        } else {
            gone_[i] = true;
        }
    }
}

}  // namespace vyard::trace
