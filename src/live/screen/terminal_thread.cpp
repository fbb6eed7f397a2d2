#include "live/screen/terminal_thread.hpp"

#include <poll.h>
#include <signal.h>
#include <sys/eventfd.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <utility>

namespace vyard::live {

namespace {

constexpr int kLongestEnd_ms = 1000;
constexpr std::size_t kMostKeys = 4096;  // what is typed or pasted faster than it is taken

void notify(int descriptor) {
    const std::uint64_t one = 1;
    // A counter that is full is as good as one that has been counted up.
    (void)!::write(descriptor, &one, sizeof one);
}
void take_note(int descriptor) {
    std::uint64_t count = 0;
    (void)!::read(descriptor, &count, sizeof count);
}

void mask_size_changes(int how) {
    sigset_t set;
    sigemptyset(&set);
    sigaddset(&set, SIGWINCH);
    ::pthread_sigmask(how, &set, nullptr);
}

}  // namespace

std::unique_ptr<TerminalThread> TerminalThread::open(bool ascii, std::string& why) {
    auto terminal = Terminal::open(ascii, why);
    if (terminal == nullptr) return nullptr;
    std::unique_ptr<TerminalThread> out(new TerminalThread());
    Shared& shared = *out->shared_;
    shared.wake = ::eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC);
    shared.keys_there = out->keys_there_ = ::eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC);
    shared.width = terminal->width();
    shared.height = terminal->height();
    out->ascii_ = terminal->ascii();
    mask_size_changes(SIG_BLOCK);  // the other thread is told of them
    out->thread_ = std::thread(work, out->shared_, std::move(terminal));
    return out;
}

TerminalThread::~TerminalThread() {
    {
        const std::lock_guard lock(shared_->mutex);
        shared_->stop = true;
    }
    notify(shared_->wake);
    for (int waited = 0; waited < kLongestEnd_ms; waited += 5) {
        {
            const std::lock_guard lock(shared_->mutex);
            if (shared_->stopped) break;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    const std::lock_guard lock(shared_->mutex);
    if (shared_->stopped) {
        thread_.join();
    } else {
        thread_.detach();
    }
    mask_size_changes(SIG_UNBLOCK);
}

void TerminalThread::work(const std::shared_ptr<Shared>& shared, std::unique_ptr<Terminal> terminal) {
    mask_size_changes(SIG_UNBLOCK);
    while (true) {
        std::array<pollfd, 2> waiting{{{STDIN_FILENO, POLLIN, 0}, {shared->wake, POLLIN, 0}}};
        ::poll(waiting.data(), waiting.size(), -1);  // a change of size interrupts it
        if ((waiting[1].revents & POLLIN) != 0) take_note(shared->wake);
        const bool gone = (waiting[0].revents & (POLLHUP | POLLERR | POLLNVAL)) != 0;
        std::deque<Key> keys;
        while (!gone && keys.size() < kMostKeys) {
            const auto key = terminal->key();
            if (!key) break;
            keys.push_back(*key);
        }
        std::optional<Shown> shown;
        bool anew = false;
        {
            const std::lock_guard lock(shared->mutex);
            if (shared->stop) break;
            shared->gone = shared->gone || gone;
            for (Key& k : keys) {
                if (shared->keys.size() < kMostKeys) shared->keys.push_back(k);
            }
            shared->width = terminal->width();
            shared->height = terminal->height();
            shown.swap(shared->shown);
            anew = std::exchange(shared->anew, false);
        }
        if (!keys.empty() || gone) notify(shared->keys_there);
        if (gone) break;
        if (anew) terminal->anew();
        if (shown) terminal->paint(shown->surface, shown->x, shown->y);
    }
    terminal.reset();
    const std::lock_guard lock(shared->mutex);
    shared->stopped = true;
}

std::optional<Key> TerminalThread::key() {
    const std::lock_guard lock(shared_->mutex);
    if (shared_->keys.empty()) {
        take_note(keys_there_);
        return std::nullopt;
    }
    const Key out = shared_->keys.front();
    shared_->keys.pop_front();
    return out;
}

bool TerminalThread::gone() {
    const std::lock_guard lock(shared_->mutex);
    return shared_->gone;
}
int TerminalThread::width() {
    const std::lock_guard lock(shared_->mutex);
    return shared_->width;
}
int TerminalThread::height() {
    const std::lock_guard lock(shared_->mutex);
    return shared_->height;
}

void TerminalThread::show(Surface surface, int cursor_x, int cursor_y, bool anew) {
    {
        const std::lock_guard lock(shared_->mutex);
        shared_->shown = Shown{std::move(surface), cursor_x, cursor_y};
        shared_->anew = shared_->anew || anew;
    }
    notify(shared_->wake);
}

}  // namespace vyard::live
