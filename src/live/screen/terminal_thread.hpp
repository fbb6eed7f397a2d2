// The terminal in a thread of its own, so that nothing it does, or fails to do, can hold up the plant: a slow line, a
// stopped output, a terminal that is gone. Keys come out of a queue, and the last surface that was shown is painted.
#pragma once

#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "live/screen/terminal.hpp"

namespace vyard::live {

class TerminalThread {
  public:
    /// Null when the terminal cannot show a screen; `why` says so.
    static std::unique_ptr<TerminalThread> open(bool ascii, std::string& why);
    /// Sets the terminal back; one that takes nothing is left as it is after a second.
    ~TerminalThread();
    TerminalThread(const TerminalThread&) = delete;
    TerminalThread& operator=(const TerminalThread&) = delete;

    bool ascii() const { return ascii_; }
    /// Readable when there are keys, or the terminal is gone.
    int descriptor() const { return keys_there_; }
    std::optional<Key> key();
    bool gone();
    int width();
    int height();
    /// Paints it as soon as the terminal takes it; one that was not painted yet is passed over. `anew`: all of it.
    void show(Surface surface, int cursor_x, int cursor_y, bool anew);

  private:
    struct Shown {
        Surface surface;
        int x = 0, y = 0;
    };
    /// What both threads use. It outlives a thread that hangs.
    struct Shared {
        std::mutex mutex;
        std::deque<Key> keys;
        std::optional<Shown> shown;
        bool anew = false, gone = false, stop = false, stopped = false;
        int width = 80, height = 24, wake = -1, keys_there = -1;
    };

    TerminalThread() = default;
    static void work(const std::shared_ptr<Shared>& shared, std::unique_ptr<Terminal> terminal);

    std::shared_ptr<Shared> shared_ = std::make_shared<Shared>();
    std::thread thread_;
    bool ascii_ = false;
    int keys_there_ = -1;
};

}  // namespace vyard::live
