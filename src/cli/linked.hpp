// What the commands that run a yard share about its links: opening them, the stand-in, recording and doing again.
#pragma once

#include <functional>
#include <memory>

#include "cli/command.hpp"
#include "files/text_file.hpp"
#include "link/partner.hpp"

namespace vyard::cli {

/// Adds --stand-in and --wait, for a command that can run with controllers elsewhere; --link-record and --link-replay
/// for one whose run can be done again, and --link-times.
void add_linked_options(CommandLine& line, bool done_again = true);
/// Files that these write.
std::vector<std::string> linked_results(const CommandLine& line);

class Linked {
  public:
    /// Opens the links of the yard, starts its stand-in if asked to, and waits for its controllers. Null after a
    /// report, with the exit code. A yard that executes all here has none: partner() is null then.
    static std::unique_ptr<Linked> open(const CommandLine& line, const Loaded& loaded,
                                        const std::function<bool()>& ended, int& exit);
    Linked() = default;
    Linked(const Linked&) = delete;
    Linked& operator=(const Linked&) = delete;
    ~Linked();

    controller::Partner* partner() const { return partner_; }
    link::Links* links() const { return links_.get(); }
    /// Writes --link-record and --link-times, and says how the links did. False after a report.
    bool close(const CommandLine& line);

  private:
    void keep_times(const std::string& path, const session::SessionModel& model);

    std::unique_ptr<link::Links> links_;
    std::unique_ptr<link::LinkReplay> replay_;
    std::unique_ptr<link::LinkRecorder> recorder_;
    controller::Partner* partner_ = nullptr;
    std::optional<files::WholeFile> times_;
    std::vector<int> children_;
};

/// "line  press  server at 127.0.0.1:1502: 1200 scans, 1200 answered, 4800 requests".
std::string figures_text(const link::LinkFigures& figures, bool in_real_time);
/// Says on standard error where others than this machine can reach what listens at a link; of the whole yard, for
/// those that the plant listens at.
void warn_of_listening(const controller::ControllerModel& controller);
void warn_of_strangers(const session::SessionModel& model);

}  // namespace vyard::cli
