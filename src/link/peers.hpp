// What a stand-in asks of other controllers by itself, over the bus, before each of its scans.
#pragma once

#include <memory>
#include <vector>

#include "core/controller/controller.hpp"

namespace vyard::link {

class Peer;

class Peers {
  public:
    /// Of a controller that is executed here for the time being.
    explicit Peers(const controller::ControllerModel& model);
    ~Peers();

    /// What the others have now goes into `memory`. Who does not answer is asked again in a while; what came last from
    /// it counts for as long as the link says, then FALSE and 0 do. Waits a fifth of a second for an answer, at most.
    void bring(std::byte* memory);
    std::uint64_t requests() const;

  private:
    std::vector<std::unique_ptr<Peer>> all_;
};

}  // namespace vyard::link
