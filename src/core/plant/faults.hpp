// Defects: of points, which carry something else than the device or the controller gave them, and of devices. Both may
// come and go by time, at random from the run's seed, or at every so-many-th signal.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/plant/wire_text.hpp"

namespace vyard::plant {

struct PlantModel;
struct PlantState;
struct FaultSpec;
struct PointModel;

enum class Defect : std::uint8_t {
    Stuck,
    OpenWire,
    Short,
    Chatter,
    Delay,
    Noise,
    Drift,
    Offset,
    Gain,
    ByHand,  ///< No defect: a person works the device by its own hand override, whatever its wire says. Outputs only.
};

/// What a defect takes: its word in orders, what its amount is, and a line of help.
struct DefectSpec {
    Defect defect;
    const char* name;   ///< "open_wire"
    bool takes_amount;  ///< Stuck: the value; else see `help`.
    bool of_time;       ///< Its amount is a time; else in the unit of the point, or a factor (gain).
    bool of_boolean;    ///< Points that are TRUE and FALSE can have it.
    double default_amount;
    const char* help;
    const char* of_text;  ///< What it does to a text; null when texts cannot have it.
};
const std::vector<DefectSpec>& defects();
const DefectSpec* find_defect(std::string_view name);

/// When a fault is there. All zero: from now on, until it is healed.
struct FaultTiming {
    int every = 0;          ///< At each so-many-th rise of the true signal, as long as it lasts. Points only.
    double mean_s = 0.0;    ///< At random, on average so often ...
    double length_s = 0.0;  ///< ... for so long; without `mean_s` once, from now.
};

/// A fault's place in its timing.
struct FaultClock {
    FaultTiming timing;
    double left_s = 0.0;
    int count = 0;
    bool last = false;
    bool active = true;
    bool over = false;  ///< It healed by itself.
};

struct PointFault {
    Defect defect = Defect::Stuck;
    double amount = 0.0;
    FaultClock clock;
    double phase = 0.0;  ///< Chatter: time since it flipped. Drift: how far it has come.
    bool flipped = false;
    std::vector<double> history;  ///< Delay: the last values, a ring.
    std::size_t oldest = 0;
    WireText text;               ///< Stuck: what a wire of text stays at.
    std::vector<WireText> late;  ///< Delay of a text: a ring as well.
};

/// A point with its defects, and what was put on its wire, which is what it would show without them.
struct FaultedPoint {
    std::int32_t point = 0;
    std::int32_t text = -1;  ///< Of a wire of text: its number in PlantState::texts.
    double put = 0.0;        ///< Of a number or a BOOL; of a text see TextWire.
    std::vector<PointFault> faults;
    WireText last_text;  ///< What had been put on a wire of text in the last step.
};

/// A fault of a device that comes and goes.
struct DeviceFault {
    std::int32_t device = 0;
    std::int32_t fault = 0;  ///< Number in the kind's list.
    double amount = 0.0;
    FaultClock clock;
};

/// What the wire of a point shows when it is broken; in the unit of the point.
double shown_with_open_wire(const PointModel& point);

/// Whether a fault is there in this step, by its clock. `signal` is the true value of a point; `dt_s` 0 asks again in
/// one step.
void advance_clock(FaultClock& clock, bool signal, double dt_s, PlantState& state);

/// Once a step: what comes and goes by time. Cost: faults in force.
void advance_faults(const PlantModel& model, PlantState& state, double dt_s);
/// The devices have put their inputs on the wires: faulted ones show what their defects make of it.
void fault_inputs(const PlantModel& model, PlantState& state);
/// The controllers have put their outputs: the same.
void fault_outputs(const PlantModel& model, PlantState& state);

void set_fault(const PlantModel& model, PlantState& state, int device, const FaultSpec& fault, double amount,
               const FaultTiming& timing = {});
/// Replaces a defect of the same sort.
void set_point_fault(const PlantModel& model, PlantState& state, int point, Defect defect, double amount,
                     const FaultTiming& timing = {});
void heal_point(const PlantModel& model, PlantState& state, int point);
/// A person lets go of an output that was worked by hand. False when it was not.
bool let_go_point(const PlantModel& model, PlantState& state, int point);
/// Outputs that are worked by hand, and their values.
std::vector<std::pair<int, double>> hands_on_points(const PlantState& state);
void heal_device(const PlantModel& model, PlantState& state, int device);
void heal_all(const PlantModel& model, PlantState& state);
/// "dip_eye.signal stuck off", "lift jammed" ...: every fault that is set.
std::vector<std::string> active_faults(const PlantModel& model, const PlantState& state);

}  // namespace vyard::plant
