// How far long work is, on a terminal: what is done, the share, how long it will still take. Silent in a pipe.
#pragma once

#include <chrono>
#include <string>

#include "cli/command.hpp"

namespace vyard::cli {

class Progress {
  public:
    /// Shows nothing with --quiet, or where standard error is no terminal.
    /// The clock is looked at in every so-many-th call.
    explicit Progress(const CommandLine& line, unsigned every = 100);
    /// Takes its line away.
    ~Progress();
    Progress(const Progress&) = delete;
    Progress& operator=(const Progress&) = delete;

    /// `share`: how much of all is done, 0 to 1; less than 0 when that is not known. Written a few times a second.
    void show(double share, const std::string& what) {
        if (shown_ && ++calls_ % every_ == 0) write(share, what);
    }

  private:
    using Clock = std::chrono::steady_clock;
    void write(double share, const std::string& what);

    bool shown_ = false, written_ = false;
    unsigned every_, calls_ = 0;
    Clock::time_point begin_ = Clock::now(), last_ = begin_;
};

}  // namespace vyard::cli
