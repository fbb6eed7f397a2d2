// What a drawn unit shows at one moment: which contacts let power pass, which lines have it, which values stand at
// pins.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/logic/program.hpp"
#include "core/logic/text/drawing.hpp"

namespace vyard::logic {

/// What a line carries.
enum class Live : std::uint8_t { Off, On, Unknown };

struct SeenNetwork {
    const Network* network = nullptr;  ///< Of the program's tree.
    DrawnForm form = DrawnForm::Ladder;
    std::vector<Live> nets;                      ///< By net; Unknown for what is no BOOL.
    std::map<std::pair<int, int>, Live> states;  ///< Of BOOLs, by element and pin: a contact lets power pass, the
                                                 ///< variable of a coil is TRUE, an output of a box or a value is.
    std::map<std::pair<int, int>, std::string> values;  ///< By element and pin: what people read there.
    std::map<std::pair<int, int>, std::string> before;  ///< Where it was another: what people read there then.

    /// Unknown for what is no BOOL.
    Live state(int element, int pin = 0) const {
        const auto found = states.find({element, pin});
        return found == states.end() ? Live::Unknown : found->second;
    }
};

struct SeenDrawing {
    const Drawing* drawing = nullptr;
    base::SourcePtr source;
    std::vector<SeenNetwork> networks;
};

/// The drawings of the unit at a path: a program ("panel") or an instance of a block within ("panel.pump_1").
/// Computed on a copy of `memory`, as the variables are now: after a scan, what was written late in it shows
/// everywhere. Null when there is no such unit; empty when nothing of it is drawn.
std::optional<std::vector<SeenDrawing>> seen(const Program& program, const std::vector<std::byte>& memory,
                                             std::int64_t now_ns, const std::string& path);

/// Paths of all units that a drawing belongs to.
std::vector<std::string> drawn_units(const Program& program);

}  // namespace vyard::logic
