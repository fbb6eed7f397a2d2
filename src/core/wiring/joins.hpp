// The map, resolved: which bytes of which controller's memory meet which point, and how.
#pragma once

#include <array>
#include <limits>
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
    std::string registers{};  ///< Of the tag, on its controller's line; a row may say that alone, without a point.
    base::Place registers_place{};
};

/// tag = offset + gain * point, kept within [low, high]; for BOOL only `invert` matters.
struct Scaling {
    bool invert = false;
    bool linear = false;
    double gain = 1.0, offset = 0.0;
    double tag_low = 0.0, tag_high = 0.0;      ///< Of the tag's values, low <= high.
    double point_low = 0.0, point_high = 0.0;  ///< Of the point's values, low <= high.

    bool operator==(const Scaling&) const = default;
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
    /// Of an output: what is beyond is cut off, by its scaling or its device. In the unit of the point.
    double low = -std::numeric_limits<double>::infinity(), high = std::numeric_limits<double>::infinity();
    bool safe_given = false;  ///< The yard says what an output is while its controller is stopped.
    ByteOrder order;
    Scaling scaling;
    std::string scaling_text;
    std::string note;

    /// A BOOL that goes straight to its point and back, turned round at most.
    bool one_bit() const {
        return type == logic::Elementary::Bool && channel < 0 && !scaling.linear && order.plain() && low <= 0.0 &&
               high >= 1.0;
    }
};

/// A value of some controller's tag or of a point, where it is read.
struct Source {
    int controller = -1;  ///< -1: `point` of the plant.
    controller::Spot spot;
    int point = plant::kNone;
};

/// A join from a tag to a tag, of the same controller or another, with a delay and a condition: so that logic can be
/// tried before its plant is modelled, and controllers can talk.
struct Jumper {
    int controller = 0;  ///< Of the tag that it goes to.
    controller::Spot spot;
    bool invert = false;
    Source from;
    base::Nanoseconds delay{};
    std::optional<Source> when;  ///< While it does not hold, FALSE or 0 goes in.
    bool when_not = false;
    std::string note;
    bool direct = false;  ///< Between two controllers elsewhere, which exchange it by themselves.
};

/// What a jumper has under way, as bits of the tag that it goes to.
struct JumperState {
    std::uint64_t value = 0;                                          ///< At its end now.
    std::uint64_t last = 0;                                           ///< What went in last.
    std::vector<std::pair<base::Nanoseconds, std::uint64_t>> coming;  ///< When it comes out, in order.
};

/// The logic gave a number that no wire can carry (a NaN, an infinity: the wire carried 0), or one that is cut off at
/// an end of what its scaling reaches or its device takes.
struct OddOutput {
    base::Nanoseconds time{};  ///< The first time.
    int controller = 0, variable = 0, point = 0;
    bool cut_off = false;
    double value = 0.0, low = 0.0, high = 0.0;  ///< What was cut off, and at which ends; in the unit of the point.
};

struct Wiring {
    std::vector<Join> inputs;
    std::vector<Join> outputs;
    std::vector<Jumper> jumpers;
    std::vector<Module> modules;
    std::vector<Channel> channels;

    /// Whether an output may change at its terminal later than it leaves its controller.
    bool outputs_take_time = false;

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

/// The bytes of a value in the order of a join, as the bits of a logic::Value.
std::uint64_t reordered(const ByteOrder& order, logic::Elementary type, std::array<std::byte, 8> bytes);

/// What an analog input shows of a scaled value: a quarter of its range more on both sides, and nothing beyond.
double within_converter(const Scaling& scaling, double value);

/// The value of a join's tag in `memory`, from bytes in its own order.
double tag_value(const Join& join, const std::byte* memory);

/// Which bits of a controller's memory leave it (its area %Q, and what is joined to output points), and their safe
/// values. To be called anew whenever joins, program or safe values change.
controller::OutputLayout lay_out_outputs(const Wiring& wiring, int controller,
                                         const controller::ControllerModel& model);

/// What the wires of all output points carry from now on: the one writer of outputs. It is called in every step of the
/// plant, for controllers that run, are stopped or forced, through modules that delay, convert slowly or are lost:
///   what leaves the controller -> inversion and scaling -> the module's channel -> the wire.
/// A stopped controller and a module without power give no current: FALSE and 0 at the terminal, whatever the scaling
/// makes of a 0; a safe value of the yard goes through the scaling. Numbers that are not finite become 0 and are noted
/// in `odd`, once a join. Cost: joined outputs.
void put_outputs(const Wiring& wiring, const std::vector<controller::ControllerState>& states, base::Nanoseconds now,
                 RackState& rack, plant::PlantState& plant, std::vector<OddOutput>& odd);

/// After a scan of `controller`: what leaves its tags goes into the jumpers. Who is stopped drives nothing: 0, or the
/// safe value of an output.
void feed_jumpers(const Wiring& wiring, int controller, const plant::PlantState& plant,
                  const std::vector<controller::ControllerModel>& models,
                  const std::vector<controller::ControllerState>& states, base::Nanoseconds now,
                  std::vector<JumperState>& jumpers);
/// Before a scan of `controller`: what has come through goes to its tags.
void sample_jumpers(const Wiring& wiring, int controller, base::Nanoseconds now, std::vector<JumperState>& jumpers,
                    controller::ControllerState& state);

/// Joins, jumpers and outputs of one controller after its program changed; what is gone is reported and taken off.
void rebind(const controller::Rebinding& rebinding, int controller, Wiring& wiring, std::vector<JumperState>& jumpers,
            controller::ChangeReport& report);

/// A place in one of several controllers.
struct TagSpot {
    int controller = 0;
    controller::Spot spot;
};
/// "line_run", "h[1]", "places[2].full", "status.%X3", "%QB0" in one program.
std::optional<controller::Spot> find_spot(const logic::Program& program, std::string_view name);
/// All that a name may mean, also as "controller.name"; more than one is for the caller to refuse.
std::vector<TagSpot> find_spots(const std::vector<controller::ControllerModel>& controllers, std::string_view name);
/// The name of a place, "controller.name" where there are several controllers.
std::string spot_name(const std::vector<controller::ControllerModel>& controllers, int controller,
                      const controller::Spot& spot);
/// "tag" or "controller.tag", the first that fits; controller and variable, or -1 twice.
std::pair<int, int> find_tag(const std::vector<controller::ControllerModel>& controllers, std::string_view name);

}  // namespace vyard::wiring
