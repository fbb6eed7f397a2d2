// The real forms of the live run's line source and clock.
#include <poll.h>
#include <time.h>
#include <unistd.h>

#include <cerrno>

#include "live/live.hpp"

namespace vyard::live {

namespace {

constexpr std::size_t kLongestLine = 1U << 20;  // more without an end is cut into lines of this size

class DescriptorLines final : public LineSource {
  public:
    explicit DescriptorLines(int descriptor) : descriptor_(descriptor) {}

    std::optional<std::string> next(bool wait) override {
        while (ready_.empty() && !closed_) {
            pollfd waiting{descriptor_, POLLIN, 0};
            const int got = ::poll(&waiting, 1, wait ? -1 : 0);
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) return std::nullopt;
            fill();
        }
        if (ready_.empty()) return std::nullopt;
        std::string line = std::move(ready_.front());
        ready_.pop_front();
        return line;
    }

    bool ended() const override { return closed_ && ready_.empty(); }

  private:
    void fill() {
        char buffer[4096];
        const ssize_t got = ::read(descriptor_, buffer, sizeof buffer);
        if (got < 0 && errno == EINTR) return;
        if (got <= 0) {
            closed_ = true;
            if (!partial_.empty()) ready_.push_back(std::move(partial_));
            partial_.clear();
            return;
        }
        for (ssize_t i = 0; i < got; ++i) {
            if (buffer[i] != '\n') partial_ += buffer[i];
            if (buffer[i] != '\n' && partial_.size() < kLongestLine) continue;
            ready_.push_back(std::move(partial_));
            partial_.clear();
        }
    }

    int descriptor_;
    std::deque<std::string> ready_;
    std::string partial_;
    bool closed_ = false;
};

class MonotonicClock final : public Clock {
  public:
    base::Nanoseconds now() override {
        timespec t{};
        ::clock_gettime(CLOCK_MONOTONIC, &t);
        return std::chrono::seconds(t.tv_sec) + base::Nanoseconds(t.tv_nsec);
    }
    void sleep_until(base::Nanoseconds time) override {
        const timespec t{static_cast<time_t>(time.count() / 1'000'000'000),
                         static_cast<long>(time.count() % 1'000'000'000)};
        while (::clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &t, nullptr) == EINTR) {
        }
    }
};

}  // namespace

std::unique_ptr<LineSource> lines_from_descriptor(int descriptor) {
    return std::make_unique<DescriptorLines>(descriptor);
}
std::unique_ptr<Clock> wall_clock() {
    return std::make_unique<MonotonicClock>();
}

}  // namespace vyard::live
