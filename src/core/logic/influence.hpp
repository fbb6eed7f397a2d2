// Which variables have a say in another one: by assignments, by the conditions around them, through blocks and charts.
// Rather too much than too little: what is said to have none has none.
#pragma once

#include <map>
#include <set>
#include <string>
#include <tuple>

#include "core/logic/program.hpp"

namespace vyard::logic {

class Influence {
  public:
    /// Cost: the bodies of the program.
    explicit Influence(const Program& program);

    /// Whether the global variable `from` has a say in `to`, by their names. TRUE where it cannot be told. Cost: what
    /// has a say in `to`.
    bool has_a_say(const std::string& from, const std::string& to) const;
    /// Where a global variable is declared; not known() for none.
    base::Place declared(const std::string& name) const;

  private:
    friend class InfluenceReader;
    /// Unit (-1 of what all see), space, offset, bit.
    using Node = std::tuple<int, int, std::uint32_t, int>;

    std::map<Node, std::set<Node>> from_;
    std::map<std::string, Node> globals_;
    std::map<std::string, base::Place> places_;
    bool untold_ = false;  ///< Outputs are written by address, or through references.
};

}  // namespace vyard::logic
