// The map, resolved: which bytes of which controller's memory meet which point, and how.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/controller/controller.hpp"
#include "core/plant/plant.hpp"
#include "core/wiring/rack.hpp"

namespace vyard::wiring {

/// A row of the map as it was read.
struct MapRow {
    std::string tag;  ///< Also "status.%X3", a bit of a word, and "%IX0.3", the tag there.
    base::Place tag_place;
    std::string point;  ///< A point, or the tag that a jumper comes from.
    base::Place point_place;
    std::string scaling;  ///< "", "invert", "0 m..1 m -> 4000..20000"; then "swap bytes", "swap words" or both
    base::Place scaling_place;
    std::string note;
    std::string delay{};  ///< Of a jumper.
    base::Place delay_place{};
    std::string when{};  ///< Of a jumper: a BOOL tag or point, or NOT and one.
    base::Place when_place{};
};

/// tag = offset + gain * point, kept within [low, high]; for BOOL only `invert` matters.
struct Scaling {
    bool invert = false;
    bool linear = false;
    double gain = 1.0, offset = 0.0;
    double tag_low = 0.0, tag_high = 0.0;      ///< Of the tag's values, low <= high.
    double point_low = 0.0, point_high = 0.0;  ///< Of the point's values, low <= high.
};

/// The order of a value's bytes in memory, where a device has another one.
struct ByteOrder {
    bool swap_bytes = false;  ///< The two of each word.
    bool swap_words = false;  ///< First word last.
    bool plain() const { return !swap_bytes && !swap_words; }
};

struct Join {
    int controller = 0;
    int variable = 0;
    int point = 0;
    logic::Elementary type = logic::Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;
    int text = plant::kNone;  ///< Of a text: its number in PlantState::texts.
    int channel = -1;         ///< Number in Wiring::channels; -1 without a rack.
    ByteOrder order;
    Scaling scaling;
    std::string scaling_text;
    std::string note;
};

/// A value of some controller's tag or of a point, where it is read.
struct Source {
    int controller = -1;  ///< -1: `point` of the plant.
    int variable = 0;
    int point = plant::kNone;
    logic::Elementary type = logic::Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;
};

/// A join from a tag to a tag, of the same controller or another, with a delay and a condition: so that logic can be
/// tried before its plant is modelled, and controllers can talk.
struct Jumper {
    int controller = 0;  ///< Of the tag that it goes to.
    int variable = 0;
    logic::Elementary type = logic::Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;
    bool invert = false;
    Source from;
    base::Nanoseconds delay{};
    std::optional<Source> when;  ///< While it does not hold, FALSE or 0 goes in.
    bool when_not = false;
    std::string note;
};

/// What a jumper has under way.
struct JumperState {
    double value = 0.0;                                        ///< At its end now.
    double last = 0.0;                                         ///< What went in last.
    std::vector<std::pair<base::Nanoseconds, double>> coming;  ///< When it comes out, in order.
};

struct Wiring {
    std::vector<Join> inputs;
    std::vector<Join> outputs;
    std::vector<Jumper> jumpers;
    std::vector<Module> modules;
    std::vector<Channel> channels;

    const Join* of_tag(int controller, int variable) const;
    const Join* of_point(int point) const;
};

/// Resolves and checks the rows; mistakes and what is left unjoined (as warnings) go to `diagnostics`. Names in
/// `left_out` (tags, devices) have mistakes of their own that were reported; the map is not blamed for them.
Wiring build_wiring(const std::vector<MapRow>& rows, const std::vector<controller::ControllerModel>& controllers,
                    const plant::PlantModel& plant, const base::Place& map_place, base::Diagnostics& diagnostics,
                    const std::vector<std::string>& left_out = {}, const std::vector<Module>& rack = {});

RackState power_up(const Wiring& wiring);

/// Inputs of `controller` from the plant's points, through their channels. Cost: its joined inputs.
void sample(const Wiring& wiring, int controller, const plant::PlantState& plant, base::Nanoseconds now,
            RackState& rack, controller::ControllerState& state);

/// The value of a join's tag now, from bytes in its own order.
double tag_value(const Join& join, const controller::ControllerState& state);

/// Outputs of `controller` to the plant's points. Cost: its joined outputs.
void publish(const Wiring& wiring, int controller, const controller::ControllerModel& model,
             const controller::ControllerState& state, base::Nanoseconds now, RackState& rack,
             plant::PlantState& plant);

/// After a scan of `controller` or a step of the plant: what its tags say goes into the jumpers.
void feed_jumpers(const Wiring& wiring, int controller, const plant::PlantState& plant,
                  const std::vector<controller::ControllerModel>& models,
                  const std::vector<controller::ControllerState>& states, base::Nanoseconds now,
                  std::vector<JumperState>& jumpers);
/// Before a scan of `controller`: what has come through goes to its tags.
void sample_jumpers(const Wiring& wiring, int controller, base::Nanoseconds now, std::vector<JumperState>& jumpers,
                    controller::ControllerState& state);

/// "tag" or "controller.tag"; controller and variable, or -1 twice.
std::pair<int, int> find_tag(const std::vector<controller::ControllerModel>& controllers, std::string_view name);

}  // namespace vyard::wiring
