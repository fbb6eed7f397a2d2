// Traces of a live run: what is recorded from `record on` to `record off`, straight to files, and what is kept of the
// last seconds for when a condition comes. Lies beside the run and only looks.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"
#include "files/text_file.hpp"
#include "files/trace_files.hpp"

namespace vyard::live {

/// Most changes that a trigger holds in memory, about 100 bytes each; what is older is let go, and it says so.
constexpr std::size_t kMostRingChanges = 200'000;

class Recording {
  public:
    /// Files go to `folder`/live-N, the first N that is free.
    explicit Recording(std::string folder) : folder_(std::move(folder)) {}

    /// Begins to write trace.vcd and trace.csv of `channels`; says where, or what is wrong.
    std::string start(const session::Session& session, std::vector<trace::Channel> channels);
    /// Ends it; what was written, with sizes.
    std::string stop(const session::Session& session);
    bool on() const { return out_ != nullptr; }
    /// The run is over: what is recorded, and what was caught but not over yet, is written. What there is to say.
    std::vector<std::string> end(const session::Session& session);

    /// When `condition` comes, what was so `before` it until `after` it is written: trace.vcd and trace.csv.
    /// What is wrong with the condition, or "".
    std::string arm(const session::Session& session, const std::string& condition, base::Nanoseconds before,
                    base::Nanoseconds after);
    void disarm() { triggers_.clear(); }
    std::vector<std::string> armed() const;

    /// After every step. What there is to say, a line each.
    std::vector<std::string> look(const session::Session& session);
    /// Once a second: what was recorded stands in the files. Why not, or "".
    std::string flush();
    /// The run goes on from another moment: what is recorded so far ends here, triggers begin anew.
    std::vector<std::string> moved(const session::Session& session);
    /// The program of a controller changed: channels follow their names, triggers begin anew. What there is to say.
    std::vector<std::string> follow(int controller, const controller::Rebinding& rebinding,
                                    const session::Session& session);
    /// The yard is another: channels are found anew by name, in files of their own.
    std::vector<std::string> yard_changed(const session::Session& session);

  private:
    struct Files {
        std::string folder;
        files::WholeFile vcd, csv;
        files::VcdSink vcd_sink{[this](std::string_view text) { vcd.write(text); }};
        files::CsvSink csv_sink{[this](std::string_view text) { csv.write(text); }};

        explicit Files(const std::string& into)
            : folder(into), vcd(files::join_path(into, "trace.vcd")), csv(files::join_path(into, "trace.csv")) {}
        /// What was written, with sizes, or why not.
        std::string keep();
    };
    struct Trigger {
        std::shared_ptr<const procedure::Book> condition;
        std::string text;
        base::Nanoseconds before{}, after{};
        std::unique_ptr<trace::Ring> ring;
        std::unique_ptr<trace::Recorder> recorder;
        procedure::Evaluator evaluator;
        bool was = true;  ///< It must have been FALSE first.
        std::optional<base::Nanoseconds> came;
    };

    std::string free_folder(const char* name) const;
    std::string write_caught(Trigger& trigger, base::Nanoseconds until);
    std::vector<std::string> write_all_caught();
    void begin_again(Trigger& trigger, const session::Session& session) const;
    void end_files();
    std::vector<std::string> arm_anew(const session::Session& session);

    std::string folder_;
    std::unique_ptr<Files> out_;
    std::unique_ptr<trace::Recorder> recorder_;
    std::vector<trace::Channel> channels_;  ///< Of what is recorded.
    std::vector<Trigger> triggers_;
    session::SessionModelPtr model_;  ///< That channels and conditions are of.
};

}  // namespace vyard::live
