// The logic executed by itself, from power-up, with a few devices away from rest in the ways their contacts can be:
// what it is seen to do then, it can do.
#pragma once

#include <functional>
#include <optional>
#include <utility>
#include <vector>

#include "core/logic/logic.hpp"
#include "core/session/session_state.hpp"

namespace vyard::session {

/// Of a yard with one controller.
class Situations {
  public:
    /// Inputs with a value of their own.
    using Away = std::vector<std::pair<const wiring::Join*, bool>>;
    /// Asked after each scan, 1 the first; TRUE ends the search.
    using Seen = std::function<bool(int scan, const controller::ControllerState&)>;

    explicit Situations(const SessionModelPtr& model);

    /// The first situation in which `seen` says so, of 250 at most, few devices first: up to three with a say in one of
    /// the outputs away from rest, and `always`. The contacts of one device exclude one another; what stops the machine
    /// stays at rest. Cost: `scans` of each.
    std::optional<Away> find(const std::vector<const wiring::Join*>& outputs, const Away& always, int scans,
                             const Seen& seen);
    /// "'a' TRUE, 'b' TRUE": those that are not as at rest.
    std::string text(const Away& away) const;
    /// A BOOL as it reads at power-up.
    bool at_rest(const wiring::Join& input) const;
    /// A BOOL as it leaves, on its wire.
    static bool on(const controller::ControllerState& state, const wiring::Join& output);
    const logic::Influence& influence() const { return influence_; }
    const std::string& tag(const wiring::Join& j) const { return base::at(program_.variables, j.variable).path; }

  private:
    /// How the contacts of one device can stand away from rest, as values of tags.
    struct Ways {
        std::vector<const wiring::Join*> inputs;
        std::vector<std::vector<bool>> values;
    };
    struct Search;
    Ways ways_of(std::vector<const wiring::Join*> inputs) const;
    std::vector<Ways> devices_with_a_say(const std::vector<const wiring::Join*>& outputs) const;
    bool search(Search& now, std::size_t first, std::size_t left) const;
    bool seen_in(const Search& now) const;

    const SessionModel& model_;
    const logic::Program& program_;
    const logic::Influence influence_;
    const controller::ControllerState rest_;
};

}  // namespace vyard::session
