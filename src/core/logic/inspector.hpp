// Computes parts of the checked tree against a copy of a controller's memory, with the generator's own code: what
// explanations and pictures of running logic ask.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/logic/code/expression_writer.hpp"
#include "core/logic/program.hpp"

namespace vyard::logic {

/// A program or an instance of a block within one, and where it lies.
struct UnitPlace {
    std::string path;  ///< "main.pump_1"
    const Layout* layout = nullptr;
    Bases bases;
};

/// All of them, each program before what is in it; only units that were written, as standard blocks have no body.
std::vector<UnitPlace> unit_places(const Program& program);

/// Whether it can be computed from outside: no calls of functions of one's own, no variables that live for one call.
bool computable(const Expression& e);

class Inspector {
  public:
    Inspector(const Program& program, std::vector<std::byte> memory, std::int64_t now_ns)
        : program_(program), memory_(std::move(memory)), now_ns_(now_ns), end_(memory_.size()) {}

    /// Of a scalar that can be computed; null for others, and where computing stops.
    std::optional<Value> value(const Expression& e, const Bases& bases);

  private:
    const Program& program_;
    std::vector<std::byte> memory_;
    std::int64_t now_ns_;
    std::size_t end_;  ///< Where the memory of the program ends.
};

}  // namespace vyard::logic
