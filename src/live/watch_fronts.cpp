#include "live/watch_fronts.hpp"

#include <fmt/format.h>
#include <signal.h>
#include <sys/inotify.h>
#include <sys/signalfd.h>
#include <unistd.h>

#include <cstring>

namespace vyard::live {

namespace {

constexpr base::Nanoseconds kQuiet{200'000'000};

sigset_t ending_signals() {
    sigset_t set;
    sigemptyset(&set);
    for (const int s : {SIGINT, SIGTERM, SIGHUP}) sigaddset(&set, s);
    return set;
}

}  // namespace

SignalFront::SignalFront() {
    const sigset_t set = ending_signals();
    ::sigprocmask(SIG_BLOCK, &set, nullptr);
    descriptor_ = ::signalfd(-1, &set, SFD_NONBLOCK | SFD_CLOEXEC);
}

SignalFront::~SignalFront() {
    if (descriptor_ >= 0) ::close(descriptor_);
    const sigset_t set = ending_signals();
    ::sigprocmask(SIG_UNBLOCK, &set, nullptr);
}

void SignalFront::serve(Sitting& sitting) {
    signalfd_siginfo info{};
    if (::read(descriptor_, &info, sizeof info) != static_cast<ssize_t>(sizeof info)) return;
    sitting.end(fmt::format("ended by {}", ::strsignal(static_cast<int>(info.ssi_signo))),
                static_cast<int>(info.ssi_signo));
}

FileFront::FileFront(const std::vector<std::string>& folders, Clock& clock)
    : clock_(clock), descriptor_(::inotify_init1(IN_NONBLOCK | IN_CLOEXEC)) {
    for (const std::string& folder : folders)
        ::inotify_add_watch(descriptor_, folder.empty() ? "." : folder.c_str(),
                            IN_CLOSE_WRITE | IN_MOVED_TO | IN_MOVED_FROM | IN_DELETE);
}

FileFront::~FileFront() {
    if (descriptor_ >= 0) ::close(descriptor_);
}

void FileFront::wants(const Sitting&, std::vector<pollfd>& out) const {
    if (descriptor_ >= 0) out.push_back({descriptor_, POLLIN, 0});
}

void FileFront::serve(Sitting& sitting) {
    alignas(inotify_event) char buffer[4096];
    while (::read(descriptor_, buffer, sizeof buffer) > 0) quiet_at_ = clock_.now() + kQuiet;
    if (!quiet_at_ || clock_.now() < *quiet_at_) return;
    quiet_at_.reset();
    sitting.files_changed();
}

}  // namespace vyard::live
