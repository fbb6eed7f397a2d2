// A table of chosen signals, a row after every scan or only when one of them changed; texts included. What a
// spreadsheet is compared with.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/trace/recorder.hpp"

namespace vyard::trace {

/// Gets each row as it comes.
using RowSink = std::function<void(base::Nanoseconds time, const std::vector<std::string>& cells)>;

class Watch {
  public:
    Watch(std::vector<Channel> channels, bool only_changes, RowSink sink);

    void observe(const session::Session& session);
    /// The program of a controller changed: what is gone shows as an empty cell.
    void follow(int controller, const controller::Rebinding& rebinding);

  private:
    std::vector<Channel> channels_;
    std::vector<bool> gone_;
    bool only_changes_;
    RowSink sink_;
    std::vector<std::string> last_;
    base::Nanoseconds last_time_{-1};  ///< One row an instant.
};

}  // namespace vyard::trace
