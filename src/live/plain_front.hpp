// Lines in, lines out: for pipes, scripts and terminals that are no screen.
#pragma once

#include <deque>
#include <functional>
#include <string>

#include "live/loop.hpp"

namespace vyard::live {

/// Collects whole lines from a descriptor; never waits. Lines are ended by a line break, or cut at 1 MiB.
class LineReader {
  public:
    explicit LineReader(int descriptor) : descriptor_(descriptor) {}

    std::optional<std::string> next();
    bool ended() const { return closed_ && ready_.empty(); }
    int descriptor() const { return closed_ ? -1 : descriptor_; }
    bool waiting() const { return !ready_.empty(); }

  private:
    void fill();

    int descriptor_;
    std::deque<std::string> ready_;
    std::string partial_;
    bool closed_ = false;
};

/// Lines are obeyed one after the other: while one takes time, the next waits, so that a script does the same each
/// time.
class PlainFront final : public Front {
  public:
    using Print = std::function<void(const std::string&)>;
    PlainFront(int descriptor, Asker asker, Print print)
        : lines_(descriptor), asker_(asker), print_(std::move(print)) {}

    void wants(const Sitting& sitting, std::vector<pollfd>& out) const override;
    void serve(Sitting& sitting) override;
    bool more(const Sitting& sitting) const override { return lines_.waiting() && !sitting.busy(asker_); }
    void show(const Sitting& sitting, const Reply& reply) override;
    bool ended() const override { return lines_.ended(); }

  private:
    LineReader lines_;
    Asker asker_;
    Print print_;
    int number_ = 0;
};

/// "    0.110 s  run = TRUE"
std::string reply_text(const Reply& reply);

}  // namespace vyard::live
