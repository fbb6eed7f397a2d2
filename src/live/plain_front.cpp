#include "live/plain_front.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>

namespace vyard::live {

namespace {
constexpr std::size_t kLongestLine = 1U << 20;
constexpr int kLinesAtATime = 16;
}  // namespace

std::string reply_text(const Reply& reply) {
    return reply.at ? fmt::format("{:>11}  {}", base::clock_text(*reply.at), reply.text) : reply.text;
}

std::optional<std::string> LineReader::next() {
    while (ready_.empty() && !closed_) {
        pollfd waiting{descriptor_, POLLIN, 0};
        const int got = ::poll(&waiting, 1, 0);
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) return std::nullopt;
        fill();
    }
    if (ready_.empty()) return std::nullopt;
    std::string line = std::move(ready_.front());
    ready_.pop_front();
    return line;
}

void LineReader::fill() {
    char buffer[4096];
    const ssize_t got = ::read(descriptor_, buffer, sizeof buffer);
    if (got < 0 && (errno == EINTR || errno == EAGAIN)) return;
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

void PlainFront::wants(const Sitting& sitting, std::vector<pollfd>& out) const {
    if (!sitting.busy(asker_) && lines_.descriptor() >= 0) out.push_back({lines_.descriptor(), POLLIN, 0});
}

void PlainFront::serve(Sitting& sitting) {
    for (int k = 0; k < kLinesAtATime && !sitting.over() && !sitting.busy(asker_); ++k) {
        const auto line = lines_.next();
        if (!line) return;
        sitting.obey(*line, ++number_, asker_);
    }
}

void PlainFront::show(const Sitting&, const Reply& reply) {
    print_(reply_text(reply) + "\n");
}

}  // namespace vyard::live
