// Ctrl-C and a request to end, in commands that run for long: the run ends at its next step, what there is is written,
// and the exit code says which signal it was.
#pragma once

namespace vyard::cli {

/// While one lives, SIGINT and SIGTERM do no more than be noticed here. A second signal ends the program at once.
class Interrupt {
  public:
    Interrupt();
    ~Interrupt();
    Interrupt(const Interrupt&) = delete;
    Interrupt& operator=(const Interrupt&) = delete;

    bool come() const;
    /// 128 + the signal, after telling on standard error that it came; `otherwise` when none did.
    int exit_code(int otherwise) const;
};

}  // namespace vyard::cli
