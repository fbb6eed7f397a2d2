// What a person watches: a signal or a condition, in the display chosen, said when it changes by more than a dead band
// and no more often than asked for. A value; it only looks.
#pragma once

#include <deque>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"

namespace vyard::live {

/// How something is watched.
struct Manner {
    session::Display display = session::Display::Plain;
    base::Nanoseconds every{};  ///< Said no more often; 0 for each change.
    double band = 0.0;          ///< A number is said again when it is farther than this from what was said last.
    std::string band_text;      ///< As it was asked for.

    /// As it stands behind a name: " hex every 500 ms".
    std::string text() const;
};

struct Watched {
    std::string name;                               ///< As it was asked for.
    std::optional<trace::Channel> channel;          ///< Null of a condition.
    std::optional<procedure::Evaluator> condition;  ///< Remembers what rises() and falls() need.
    std::string judged;                             ///< What the condition came to at the last scan.
    Manner manner;
    std::string last;  ///< As it was said.
    double last_number = 0.0;
    base::Nanoseconds changed{};  ///< When it was said last.
    bool forced = false;          ///< Some force acts on it now.
    std::string logic_value;      ///< While forced: what the logic has.

    /// Its value now as people read it, with why it is not the logic's.
    std::string text(const session::Session& session) const;
    /// As a number, for strips: BOOL 0 and 1.
    double number(const session::Session& session) const;
    /// Whether there is something new to say; takes it as said.
    bool look(const session::Session& session);

  private:
    void judge(const session::Session& session);
};

/// What `watch` was asked for; `problem` when it cannot be.
struct WatchRequest {
    std::vector<Watched> watched;
    std::string problem, hint;
};

/// "lift_*, count hex", "level band 5 mm every 500 ms", "level > 0.2 and run": names and patterns, or one condition,
/// then how.
WatchRequest read_watch(const session::Session& session, const std::string& text);

/// The signals of a list of names and patterns, where * stands for any letters and ? for one; `problem` when a name is
/// none, nothing fits, or more than `most` fit.
struct NamesFound {
    std::vector<std::pair<std::string, session::Signal>> signals;
    std::string problem, hint;
};
NamesFound find_names(const session::SessionModel& model, const std::string& list, std::size_t most);
bool is_pattern(const std::string& text);
/// Whether a name fits a pattern, whatever the size of letters.
bool fits_pattern(const std::string& pattern, const std::string& name);
constexpr std::size_t kMostMatches = 200;  ///< Of a pattern that is watched or shown.

}  // namespace vyard::live
