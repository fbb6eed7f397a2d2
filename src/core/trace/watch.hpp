// A table of chosen signals, a row after every scan or only when one of them changed; texts included. What a
// spreadsheet is compared with.
#pragma once

#include <string>
#include <vector>

#include "core/session/signals.hpp"

namespace vyard::trace {

struct WatchTable {
    std::vector<std::string> names;
    struct Row {
        base::Nanoseconds time{};
        std::vector<std::string> values;  ///< BOOL as TRUE and FALSE, durations in seconds.
    };
    std::vector<Row> rows;
};

class Watch {
  public:
    Watch(std::vector<std::string> names, std::vector<session::Signal> signals, bool only_changes);

    void observe(const session::Session& session);
    WatchTable finish() { return std::move(table_); }

  private:
    std::vector<session::Signal> signals_;
    bool only_changes_;
    WatchTable table_;
};

}  // namespace vyard::trace
