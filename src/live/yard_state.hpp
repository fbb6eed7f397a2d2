// What a live session leaves beside its yard, in the folder .vyard/, so that nothing is lost when it is killed:
//
//   lock          held by the session that runs
//   journal       a line of JSON each: how it began, each order with its time, the time once a second, what is watched
//                 and forced. Gone on from at the next start; a session that ended well leaves it as journal.ended
//   retained.csv  the values of RETAIN variables: controller, variable, type, value
//   live.socket   where other terminals speak to it
//
// Lines go to the system at once, so a process that is killed loses at most what happened since the last second. A
// folder that cannot be written is said once; the session goes on without.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"
#include "live/record.hpp"

namespace vyard::live {

constexpr int kJournalVersion = 1;

struct RetainedRow {
    std::string controller;
    controller::RetainedValue value;

    bool operator==(const RetainedRow&) const = default;
};

/// Of all controllers, in order.
std::vector<RetainedRow> retained_rows(const session::Session& session);
/// As CSV with a header, and back; what is wrong in it is reported.
std::string retained_text(const std::vector<RetainedRow>& rows);
std::vector<RetainedRow> read_retained(const base::SourcePtr& source, base::Diagnostics& diagnostics);
/// The file of a yard.
std::string retained_path(const std::string& yard_folder);
/// Puts values back into a session that has just begun, as power that comes back does: its controllers start warm, and
/// scan first a scan later. What could not be put back, for people.
std::vector<std::string> put_retained(session::Session& session, const std::vector<RetainedRow>& rows);

/// What a session that did not end well left.
struct LeftSession {
    base::Nanoseconds time{};
    std::string fingerprint;            ///< Of the files of its yard.
    std::vector<Record::Entry> orders;  ///< Those that act on the run.
    std::vector<std::string> watches;   ///< As lines of `watch`.
    std::vector<std::string> forces;    ///< As lines of `force`.
    std::vector<RetainedRow> retained;  ///< What was put back before it began.
    std::string not_again;              ///< Why its orders alone do not lead there, or "".
};

class YardState {
  public:
    /// Makes the folder and takes its lock. Null when another session has it, or it cannot be written; `why` says so.
    static std::unique_ptr<YardState> open(const std::string& yard_folder, std::string& why);
    ~YardState();
    YardState(const YardState&) = delete;
    YardState& operator=(const YardState&) = delete;

    std::optional<LeftSession> left() const;
    /// A new journal; one that was there is kept as journal.before.
    void begin(const std::string& fingerprint, const std::vector<RetainedRow>& retained);
    /// Takes down what is new. To be called after orders and at least once a second.
    void keep(const Record& record, const session::Session& session, const std::vector<std::string>& watches);
    /// Orders alone do not lead here any more, because of this.
    void not_again(const std::string& why);
    /// It ended as it should.
    void end();
    /// What could not be written, once; "" when all was.
    std::string take_trouble();

    const std::string& folder() const { return folder_; }
    std::string socket_path() const { return folder_ + "/live.socket"; }

  private:
    YardState() = default;
    void write(const std::string& line);

    std::string folder_, yard_folder_;
    int lock_ = -1, journal_ = -1;
    std::size_t entries_ = 0;
    std::uint64_t revision_ = 0;
    base::Nanoseconds time_{-1};
    std::vector<std::string> watches_, forces_;
    std::vector<RetainedRow> retained_;
    std::string trouble_;
    bool trouble_said_ = false;
};

/// A short number over texts that changes when any of them does (FNV-1a, 64 bits).
std::string fingerprint_of(const std::vector<std::string>& texts);

}  // namespace vyard::live
