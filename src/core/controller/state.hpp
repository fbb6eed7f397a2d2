// One simulated controller: its program (model) and what a run changes (state). A scan is: the wiring has sampled the
// inputs -> forces -> solve -> forces -> the image of what leaves. What leaves a controller (forces, a stop and safe
// values included) is one block of bytes, made here and nowhere else; leaving() gives it.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/base/base.hpp"
#include "core/controller/link.hpp"
#include "core/controller/spot.hpp"
#include "core/logic/logic.hpp"

namespace vyard::controller {

/// A value held over bytes of memory. Those that leave the controller are replaced on their way out, the logic's own
/// stay in memory; all others are written before and after each scan.
struct Force {
    std::string name;  ///< As people know it: "status.%X3".
    Spot spot;
    logic::Value value;
};

/// A value written once, just before the first scan that starts at or after its time.
struct Stimulus {
    base::Nanoseconds time{};
    Spot spot;
    logic::Value value;
};

/// Which bits of memory leave the controller, and what they are while it is stopped.
struct OutputLayout {
    std::vector<std::byte> mask;  ///< From the start of memory up to the last byte that leaves.
    std::vector<std::byte> safe;  ///< As long; 0 where the yard says nothing else.

    /// Marks bytes, or one bit of a byte, as leaving.
    void add(std::uint32_t offset, std::uint32_t size, int bit);
    /// Whether any bit of it leaves.
    bool leaves(std::uint32_t offset, std::uint32_t size, int bit) const;
};

struct ControllerModel {
    std::string name;
    std::shared_ptr<const logic::Program> program;
    base::Nanoseconds scan{10'000'000};
    std::int64_t max_instructions = 10'000'000;  ///< A task may do in loops and calls, each time it runs.
    /// Of real time for one task, where a ScanWatch looks; without it see watchdog_of().
    std::optional<base::Nanoseconds> watchdog;
    std::vector<Stimulus> stimuli;                          ///< By time.
    std::vector<std::pair<int, logic::Value>> safe_values;  ///< Of outputs, when stopped: variable, value.
    std::vector<int> screen;  ///< Variables that a screen writes, and nothing of the yard.
    OutputLayout outputs;     ///< See lay_out_outputs().
    std::optional<LinkModel> link;

    /// Its outputs come over a link.
    bool linked() const { return link && link->role != LinkRole::Screen; }
    /// It is executed elsewhere; else, where it is linked, what executes it here stands in for that.
    bool remote() const { return linked() && !link->here; }
};

/// How long a task may take by the wall clock: what the yard says, else ten times its interval and 100 ms at least. A
/// task that is late by nine scans controls nothing any more; below 100 ms, what else a computer does would end it.
base::Nanoseconds watchdog_of(const ControllerModel& model, const logic::Task& task);

/// Why a controller stopped by itself.
struct LogicFault {
    logic::Execution execution;
    base::Nanoseconds time{};
};

struct ControllerState {
    std::vector<std::byte> memory;
    base::Rare<std::byte> image;  ///< What leaves, where it is not what memory holds; else empty. See leaving().
    base::Rare<Force> forces;
    base::Rare<Stimulus> writes;  ///< Values that a person writes once, before the next scan.
    bool forces_on = true;
    bool running = true;
    bool powered = true;  ///< Without power nothing leaves it, not even safe values, and forces wait.
    bool outputs_on =
        false;         ///< It has scanned since it was started; until then, and while stopped, nothing leaves it.
    LogicFault fault;  ///< Of the last stop by itself, until it is started again.
    std::uint32_t stops = 0;  ///< How often it stopped by itself.
    std::uint64_t scans = 0;
    std::uint32_t touched = 0;  ///< How often a person changed forces or modes: what is seen may change between scans.
    std::size_t next_stimulus = 0;
    base::Nanoseconds last_due{};  ///< When it would have scanned last, running or not.
    base::Nanoseconds stood{};     ///< How long it has not run: its timers stood still.
    LinkState link;                ///< Of one that is executed elsewhere.

    /// What its timers see as the time: it does not pass while the controller is stopped or without power.
    base::Nanoseconds clock() const { return last_due - stood; }
};

ControllerState power_up(const ControllerModel& model);

/// Writes that are due, forces, solve, forces again, what leaves. Cost: the instructions executed, and the bytes that
/// leave while any is forced or the controller is stopped. After a run-time fault the controller is stopped.
void solve(const ControllerModel& model, ControllerState& state, base::Nanoseconds now,
           logic::ScanWatch* watch = nullptr);

/// The same of controller number `c`, which is executed elsewhere: forces, its inputs go to `partner` and what comes of
/// its outputs goes to memory, forces again, what leaves. Without a fresh exchange its link is lost: safe values leave.
/// Null: nothing comes. Of one that is linked and executed here, as solve(), with all that its link does: nothing is
/// solved while it is lost.
void exchange(const ControllerModel& model, int c, ControllerState& state, base::Nanoseconds now, Partner* partner,
              logic::ScanWatch* watch = nullptr);

/// The time of a scan that is not done, for want of power: timers stand still.
void stand_still(ControllerState& state, base::Nanoseconds now);

/// Memory as it leaves, valid up to OutputLayout::mask's end: forces laid over it, safe values while outputs are off.
inline const std::byte* leaving(const ControllerState& state) {
    return state.image.empty() ? state.memory.data() : state.image.data();
}
/// Works out what leaves anew; for whoever changes forces or modes between scans.
void renew_image(const ControllerModel& model, ControllerState& state);

/// Enters or replaces a force; it acts at once, unless forces are switched off.
void enter_force(const ControllerModel& model, ControllerState& state, Force force);
/// False when just that was not forced.
bool remove_force(const ControllerModel& model, ControllerState& state, const Spot& spot);
void remove_all_forces(const ControllerModel& model, ControllerState& state);
void switch_forces(const ControllerModel& model, ControllerState& state, bool on);
/// The force that acts on any bit of the spot, the last entered first; null when there is none.
const Force* acting_force(const ControllerState& state, const Spot& spot);

void stop(const ControllerModel& model, ControllerState& state);
/// Cold start: all variables but PERSISTENT ones at their initial values; forces stay.
void start(const ControllerModel& model, ControllerState& state);
/// Warm start: the same, but RETAIN variables keep their values.
void start_warm(const ControllerModel& model, ControllerState& state);

/// Power goes: RETAIN variables keep their values, everything else is lost; what is wired to it gets FALSE and 0.
void power_off(const ControllerModel& model, ControllerState& state);
/// Power comes back: a warm start.
void power_on(const ControllerModel& model, ControllerState& state);

/// The values of RETAIN variables, each elementary one by its path, as the language writes them.
struct RetainedValue {
    std::string path, type, value;

    bool operator==(const RetainedValue&) const = default;
};
std::vector<RetainedValue> retained_values(const ControllerModel& model, const ControllerState& state);
/// Puts a value back, before the next scan. What is wrong with it (no such RETAIN variable, another type), or "".
std::string put_retained(const ControllerModel& model, ControllerState& state, const RetainedValue& retained);

/// The yard's safe value of a variable; null for FALSE and 0.
const logic::Value* safe_value(const ControllerModel& model, int variable);

/// Bytes of a variable in memory.
std::uint32_t size_of(const logic::Program& program, const Spot& spot);

/// "logic/main.st:12:5: division by zero, called at logic/main.st:80:3" and the like; "" when there is none.
std::string fault_text(const ControllerModel& model, const LogicFault& fault);
inline std::string fault_text(const ControllerModel& model, const ControllerState& state) {
    return fault_text(model, state.fault);
}

}  // namespace vyard::controller
