#include "cli/logic_units.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"

namespace vyard::cli {

std::optional<std::vector<figures::LogicUnit>> units_for(const session::SessionModel& model, const std::string& wanted,
                                                         bool drawn_by_default) {
    std::vector<figures::LogicUnit> units = figures::logic_units(model, wanted.empty() && drawn_by_default);
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
