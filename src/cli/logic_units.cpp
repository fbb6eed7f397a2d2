#include "cli/logic_units.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"

namespace vyard::cli {

namespace {

std::vector<figures::LogicUnit> all_units(const session::SessionModel& model, bool drawn) {
    std::vector<figures::LogicUnit> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const logic::Program& program = *model.controllers[c].program;
        for (const std::string& path : drawn ? logic::drawn_units(program) : logic::unit_paths(program)) {
            const bool several = model.controllers.size() > 1;
            out.push_back({static_cast<int>(c), path, several ? model.controllers[c].name + "." + path : path});
        }
    }
    return out;
}

}  // namespace

std::optional<std::vector<figures::LogicUnit>> units_for(const session::SessionModel& model, const std::string& wanted,
                                                         bool drawn_by_default) {
    std::vector<figures::LogicUnit> units = all_units(model, wanted.empty() && drawn_by_default);
    if (wanted.empty()) {
        if (!units.empty()) return units;
        wrong_call("nothing of this logic is drawn", "name a unit with --unit; LADDER and FBD: docs/drawn-logic.md");
        return std::nullopt;
    }
    std::vector<std::string> known;
    known.reserve(units.size());
    for (const figures::LogicUnit& u : units) known.push_back(u.name);
    std::vector<figures::LogicUnit> out;
    for (const std::string& name : session::split_names(wanted)) {
        const auto found = std::find_if(units.begin(), units.end(), [&](const figures::LogicUnit& u) {
            return base::fold(u.name) == base::fold(name);
        });
        if (found == units.end()) {
            wrong_call(fmt::format("no unit is named '{}'", name), base::name_hint(name, known));
            return std::nullopt;
        }
        out.push_back(*found);
    }
    return out;
}

}  // namespace vyard::cli
