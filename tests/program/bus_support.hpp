// What tests of the fieldbus share: the built program in the background, and a client library.
#pragma once

#include <chrono>
#include <thread>

#include "program/support.hpp"

// Behind ours: it has macros for names of members.
#include <modbus/modbus.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

namespace vyard::test {

inline void copy_mixer(Folder& f) {
    fs::copy(fs::path(VYARD_SOURCE) / "examples/dough-mixer", f / "mixer", fs::copy_options::recursive);
}

/// Ports of this process alone, for what cannot take any that is free.
inline int some_port() {
    static int next = 20'000 + static_cast<int>(::getpid() % 20'000);
    return next++;
}

/// The built program in the background; it is ended with SIGTERM.
class Running {
  public:
    /// `out`: the file for what it says, `with`: what starts it.
    Running(Folder& f, const std::string& arguments, const std::string& out = "running.out",
            const std::string& with = "")
        : out_(f / out) {
        child_ = ::fork();
        REQUIRE(child_ >= 0);
        if (child_ > 0) return;
        const std::string command = fmt::format("cd '{}' && exec {} '{}' {} >'{}' 2>&1", f.path().string(), with,
                                                VYARD_PROGRAM, arguments, out_.string());
        ::execl("/bin/sh", "sh", "-c", command.c_str(), nullptr);
        ::_exit(127);
    }
    ~Running() { static_cast<void>(end()); }
    Running(const Running&) = delete;
    Running& operator=(const Running&) = delete;

    std::string said() const { return slurp(out_); }
    /// Waits until it has said something; the rest of that line.
    std::string wait_for(const std::string& text) const {
        for (int i = 0; i < 500; ++i) {
            const std::string all = said();
            if (const std::size_t at = all.find(text);
                at != std::string::npos && all.find('\n', at) != std::string::npos)
                return all.substr(at + text.size(), all.find('\n', at) - at - text.size());
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
        }
        FAIL("it never said '" << text << "', but: " << said());
        return "";
    }
    /// Waits until it has said that.
    void wait_for_text(const std::string& text) const {
        for (int i = 0; i < 500; ++i) {
            if (contains(said(), text)) return;
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
        }
        FAIL("it never said '" << text << "', but: " << said());
    }
    bool lives() {
        if (child_ > 0 && ::waitpid(child_, nullptr, WNOHANG) != 0) child_ = -1;
        return child_ > 0;
    }
    void kill() {
        if (child_ > 0) ::kill(child_, SIGKILL);
        if (child_ > 0) ::waitpid(child_, nullptr, 0);
        child_ = -1;
    }
    int end() {
        if (child_ <= 0) return -1;
        ::kill(child_, SIGTERM);
        int status = 0;
        ::waitpid(child_, &status, 0);
        child_ = -1;
        return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    }

  private:
    fs::path out_;
    pid_t child_ = -1;
};

struct FreeModbus {
    void operator()(modbus_t* m) const {
        modbus_close(m);
        modbus_free(m);
    }
};
using Modbus = std::unique_ptr<modbus_t, FreeModbus>;

inline Modbus connected(int port, int unit = 1) {
    Modbus m(modbus_new_tcp("127.0.0.1", port));
    REQUIRE(m != nullptr);
    modbus_set_slave(m.get(), unit);
    modbus_set_response_timeout(m.get(), 2, 0);
    for (int i = 0; i < 100; ++i) {
        if (modbus_connect(m.get()) == 0) return m;
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    FAIL("cannot connect");
    return m;
}

}  // namespace vyard::test
