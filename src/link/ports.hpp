// The tags of a link at either of its ends: where each lies in the memory of its controller, and its cell.
#pragma once

#include <vector>

#include "core/controller/controller.hpp"
#include "link/tables.hpp"

namespace vyard::link {

class Ports {
  public:
    /// Of a controller whose outputs come over its link.
    explicit Ports(const controller::ControllerModel& model);

    const std::vector<Cell>& cells() const { return cells_; }
    const std::vector<int>& inputs() const { return inputs_; }    ///< Cells of what goes to the controller.
    const std::vector<int>& outputs() const { return outputs_; }  ///< Cells of what comes from it.

    logic::Value get(int cell, const std::byte* memory) const;
    void put(int cell, const logic::Value& value, std::byte* memory) const;
    /// By cell: those of `which` as they are in `memory`, the others empty.
    std::vector<logic::Value> values(const std::vector<int>& which, const std::byte* memory) const;

  private:
    std::vector<Cell> cells_;
    std::vector<controller::Spot> spots_;
    std::vector<int> inputs_, outputs_;
};

}  // namespace vyard::link
