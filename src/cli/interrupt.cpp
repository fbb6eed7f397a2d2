#include "cli/interrupt.hpp"

#include <fmt/format.h>

#include <atomic>
#include <csignal>

namespace vyard::cli {

namespace {

// What a signal handler may write to (ISO C++, 17.13.5), and other threads read.
std::atomic<int> noticed = 0;
static_assert(std::atomic<int>::is_always_lock_free);

void notice(int number) {
    noticed = number;
}

}  // namespace

Interrupt::Interrupt() {
    noticed = 0;
    struct sigaction action {};
    action.sa_handler = notice;
    action.sa_flags = static_cast<int>(SA_RESETHAND);
    ::sigaction(SIGINT, &action, nullptr);
    ::sigaction(SIGTERM, &action, nullptr);
}

Interrupt::~Interrupt() {
    std::signal(SIGINT, SIG_DFL);
    std::signal(SIGTERM, SIG_DFL);
}

bool Interrupt::come() const {
    return noticed != 0;
}

int Interrupt::exit_code(int otherwise) const {
    if (!come()) return otherwise;
    const int number = noticed;
    fmt::print(stderr, "ended by {}; what there was until then is told and written\n",
               number == SIGINT ? "SIGINT" : "SIGTERM");
    return 128 + number;
}

}  // namespace vyard::cli
