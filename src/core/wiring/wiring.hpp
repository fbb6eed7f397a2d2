// The map, resolved: which bytes of which controller's memory meet which point, and how.
#pragma once

#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/controller/controller.hpp"
#include "core/plant/plant.hpp"

namespace vyard::wiring {

/// A row of the map as it was read.
struct MapRow {
    std::string tag;
    base::Place tag_place;
    std::string point;
    base::Place point_place;
    std::string scaling;  ///< "", "invert", or "0 m..1 m -> 4000..20000"
    base::Place scaling_place;
    std::string note;
};

/// tag = offset + gain * point, kept within [low, high]; for BOOL only `invert` matters.
struct Scaling {
    bool invert = false;
    bool linear = false;
    double gain = 1.0, offset = 0.0;
    double tag_low = 0.0, tag_high = 0.0;      ///< Of the tag's values, low <= high.
    double point_low = 0.0, point_high = 0.0;  ///< Of the point's values, low <= high.
};

struct Join {
    int controller = 0;
    int variable = 0;
    int point = 0;
    logic::Elementary type = logic::Elementary::Bool;
    std::uint32_t offset = 0;
    int bit = -1;
    int text = plant::kNone;  ///< Of a text: its number in PlantState::texts.
    Scaling scaling;
    std::string scaling_text;
    std::string note;
};

struct Wiring {
    std::vector<Join> inputs;
    std::vector<Join> outputs;

    const Join* of_tag(int controller, int variable) const;
    const Join* of_point(int point) const;
};

/// Resolves and checks the rows; mistakes and what is left unjoined (as warnings) go to `diagnostics`. Names in
/// `left_out` (tags, devices) have mistakes of their own that were reported; the map is not blamed for them.
Wiring build_wiring(const std::vector<MapRow>& rows, const std::vector<controller::ControllerModel>& controllers,
                    const plant::PlantModel& plant, const base::Place& map_place, base::Diagnostics& diagnostics,
                    const std::vector<std::string>& left_out = {});

/// Inputs of `controller` from the plant's points. Cost: its joined inputs.
void sample(const Wiring& wiring, int controller, const plant::PlantState& plant, controller::ControllerState& state);

/// Outputs of `controller` to the plant's points. Cost: its joined outputs.
void publish(const Wiring& wiring, int controller, const controller::ControllerModel& model,
             const controller::ControllerState& state, plant::PlantState& plant);

/// "tag" or "controller.tag"; controller and variable, or -1 twice.
std::pair<int, int> find_tag(const std::vector<controller::ControllerModel>& controllers, std::string_view name);

}  // namespace vyard::wiring
