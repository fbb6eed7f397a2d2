// The room of the machine: kinds of devices and the physics they share. step() is one fixed step of the plant.
#pragma once

#include <optional>
#include <string>

#include "core/plant/builder.hpp"
#include "core/plant/carry_over.hpp"
#include "core/plant/definition.hpp"
#include "core/plant/drawing.hpp"
#include "core/plant/items.hpp"
#include "core/plant/kind.hpp"
#include "core/plant/model.hpp"
#include "core/plant/placements.hpp"
#include "core/plant/state.hpp"
#include "core/plant/step.hpp"
#include "core/plant/transport.hpp"

namespace vyard::plant {

/// One step: output points reach the actuators, physics moves things, sensors fill the input points.
/// Cost: devices, plus items x their neighbours.
void step(const PlantModel& model, PlantState& state);

/// Sensors look once without time passing: the plant as it is found at power-up.
void sense(const PlantModel& model, PlantState& state);

/// Whether nothing that decides what comes differs, but for the number of the step. Defects that change by themselves
/// always differ; `but_for_wires`: those of wires do not count where every wire shows the same.
bool goes_on_as(const PlantState& a, const PlantState& b, bool but_for_wires);

// --- actuals ---

/// An actual or point of the plant by name, for conditions, watches and figures.
struct Reading {
    enum class Source : std::uint8_t { Point, Actual, ItemCount, FloorCount, Mishap, AnyMishap, MishapCount };
    Source source = Source::Point;
    int device = kNone;
    int index = 0;  ///< Point number, or number in the kind's list of actuals, or of mishaps.
    PointType type = PointType::Boolean;
    base::Dimension dimension = base::Dimension::Plain;

    bool operator==(const Reading&) const = default;
};
/// A point by its full name, or a device that stands for its only point; an actual; a mishap, TRUE once it has happened
/// since the start; "plant.items" and "plant.items_on_floor"; "plant.mishap", TRUE once there was one that is not
/// allowed, and "plant.mishaps", how often. No kind has two of them of one name. `plant.` may stand in front of all.
std::optional<Reading> find_reading(const PlantModel& model, std::string_view name);
std::optional<Reading> find_actual(const PlantModel& model, std::string_view device, std::string_view name);
double read(const PlantModel& model, const PlantState& state, const Reading& reading);
/// Of a point of text; its number, as read() gives it, is how often it changed.
std::string_view read_text(const PlantModel& model, const PlantState& state, const Reading& reading);
std::vector<std::string> reading_names(const PlantModel& model);

// --- what a person does ---

void use_control(const PlantModel& model, PlantState& state, int device, const ControlSpec& control, double value);

template <class S>
const S& state_of(const PlantModel& model, const PlantState& state, int device) {
    return as<S>(state.devices.data() + base::at(model.devices, device).state_offset);
}
template <class M>
const M& parameters_of(const PlantModel& model, int device) {
    return as<M>(model.parameters.data() + base::at(model.devices, device).model_offset);
}

}  // namespace vyard::plant
