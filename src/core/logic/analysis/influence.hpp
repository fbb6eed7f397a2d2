// Which variables have a say in another one, and which way: by assignments, by the conditions around them, through
// blocks and charts. Rather too much than too little: what is said to have none has none, and what is said to pull one
// way only never pulls the other way.
#pragma once

#include <map>
#include <set>
#include <string>

#include "core/logic/analysis/node.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

/// Which way one BOOL pulls another. Numbers pull both ways.
struct Pull {
    bool up = false;    ///< TRUE may make it TRUE.
    bool down = false;  ///< TRUE may make it FALSE.
    bool any() const { return up || down; }
    bool operator==(const Pull&) const = default;
};

class Influence {
  public:
    /// Cost: the bodies of the program.
    explicit Influence(const Program& program);

    /// How the global variable `from` pulls `to`, by their names; both ways where it cannot be told. Cost: what has a
    /// say in `to`.
    Pull pull(const std::string& from, const std::string& to) const;
    bool has_a_say(const std::string& from, const std::string& to) const { return pull(from, to).any(); }
    /// Whether some timer, or what measures how long a step of a chart lasts, depends on it. TRUE where it cannot be
    /// told.
    bool is_timed(const std::string& from) const;
    /// Where a global variable is declared; not known() for none.
    base::Place declared(const std::string& name) const;

  private:
    friend class InfluenceReader;
    using Pulls = std::map<Node, Pull>;
    Pull pull(const Node& from, const Node& to) const;

    std::map<Node, Pulls> from_;
    std::map<std::string, Node> globals_;
    std::map<std::string, base::Place> places_;
    std::set<Node> timers_;
    bool untold_ = false;  ///< Outputs are written by address, or through references.
};

}  // namespace vyard::logic
