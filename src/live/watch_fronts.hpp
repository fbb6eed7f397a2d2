// What else a live run waits for: signals that end it, and files of the yard that change.
#pragma once

#include <string>
#include <vector>

#include "live/loop.hpp"

namespace vyard::live {

/// SIGINT, SIGTERM and SIGHUP end the run at the next step, as they should: files are closed, what is kept is kept.
class SignalFront final : public Front {
  public:
    SignalFront();
    ~SignalFront() override;
    SignalFront(const SignalFront&) = delete;
    SignalFront& operator=(const SignalFront&) = delete;

    void wants(const Sitting&, std::vector<pollfd>& out) const override { out.push_back({descriptor_, POLLIN, 0}); }
    void serve(Sitting& sitting) override;
    void show(const Sitting&, const Reply&) override {}
    bool ended() const override { return true; }

  private:
    int descriptor_ = -1;
};

/// Folders whose files are the yard's. Editors write in many ways, so a change counts once all has been quiet for a
/// fifth of a second.
class FileFront final : public Front {
  public:
    FileFront(const std::vector<std::string>& folders, Clock& clock);
    ~FileFront() override;
    FileFront(const FileFront&) = delete;
    FileFront& operator=(const FileFront&) = delete;

    void wants(const Sitting&, std::vector<pollfd>& out) const override;
    void serve(Sitting& sitting) override;
    void show(const Sitting&, const Reply&) override {}
    std::optional<base::Nanoseconds> draws_at() const override { return quiet_at_; }
    bool ended() const override { return true; }

  private:
    Clock& clock_;
    int descriptor_ = -1;
    std::optional<base::Nanoseconds> quiet_at_;
};

}  // namespace vyard::live
