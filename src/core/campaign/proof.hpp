// What a proof has exercised besides its logic: inputs and devices that moved, faults that were tried, rules that were
// triggered, alarms that came, states that were entered, restarts that were done; and what would add most.
#pragma once

#include <map>
#include <set>

#include "core/campaign/nominal.hpp"

namespace vyard::campaign {

struct ProofClass {
    std::string name;   ///< "faults tried"
    std::string to_do;  ///< What a procedure would have to do: "put faults on"
    std::size_t done = 0, all = 0;
    std::vector<std::string> missing;
};

class ProofCoverage {
  public:
    ProofCoverage(const session::SessionModel& model, Alarms alarms);

    /// After each step of a procedure's run. Cost: points, movers, alarms and enumerations.
    void observe(const session::Session& session);
    /// At its end.
    void end(const procedure::ProcedureVerdict& verdict);

    std::vector<ProofClass> classes() const;
    /// Up to three lines: what procedures would add most, by how much is missing.
    std::vector<std::string> proposals() const;

  private:
    struct State {
        std::string name;  ///< "dip_step = LOWER"
        session::Signal signal;
        std::uint64_t bits = 0;
    };

    const session::SessionModel& model_;
    Alarms alarms_;
    std::vector<double> last_;  ///< By point.
    std::vector<bool> input_moved_, device_moved_, alarm_raised_, state_entered_;
    std::vector<State> states_;
    std::map<std::string, bool> rules_;
    std::set<std::string> faults_, restarts_;
    bool fresh_ = true;
};

}  // namespace vyard::campaign
