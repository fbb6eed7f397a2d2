#include "cli/progress.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>

namespace vyard::cli {

Progress::Progress(const CommandLine& line, unsigned every)
    : shown_(!line.quiet() && isatty(STDERR_FILENO) != 0), every_(every) {}

Progress::~Progress() {
    if (written_) fmt::print(stderr, "\r\x1b[K");
}

void Progress::write(double share, const std::string& what) {
    const Clock::time_point now = Clock::now();
    if (now - last_ < std::chrono::milliseconds(200)) return;
    last_ = now;
    const double taken_s = std::chrono::duration<double>(now - begin_).count();
    if (taken_s < 0.5) return;  // what is over at once needs no word
    const std::string left =
        share > 0.01 ? fmt::format(", about {:.0f} s left", taken_s * (1.0 - share) / share) : std::string();
    fmt::print(stderr, "\r{}{}{}\x1b[K", what, share < 0.0 ? std::string() : fmt::format(", {:.0f} %", share * 100.0),
               left);
    std::fflush(stderr);
    written_ = true;
}

}  // namespace vyard::cli
