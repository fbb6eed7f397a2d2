#include <fmt/format.h>

#include <algorithm>

#include "cli/drive.hpp"
#include "report/logic_text.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

struct Unit {
    int controller = 0;
    std::string path;  ///< Within the controller.
    std::string name;  ///< As people give it: with the controller where there are several.
};

std::vector<Unit> units_of(const session::SessionModel& model) {
    std::vector<Unit> out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        for (const std::string& path : logic::drawn_units(*model.controllers[c].program)) {
            const bool several = model.controllers.size() > 1;
            out.push_back({static_cast<int>(c), path, several ? model.controllers[c].name + "." + path : path});
        }
    }
    return out;
}

void show(const session::Session& session, const Unit& unit, report::LogicTextStyle style) {
    const logic::Program& program = *base::at(session.model().controllers, unit.controller).program;
    const controller::ControllerState& state = session.controller(unit.controller);
    const auto drawings = logic::seen(program, state.memory, session.now().count(), unit.path);
    fmt::print("{} at {}{}\n", unit.name, base::clock_text(session.now()),
               state.running ? "" : ", its controller is stopped");
    // What is drawn is what the logic has; a forced output leaves with another value.
    for (const std::string& force : session::forces_text(session)) fmt::print("  {}\n", force);
    for (const logic::SeenDrawing& drawing : *drawings) fmt::print("\n{}", report::drawing_text(drawing, style));
}

}  // namespace

int show_command(const std::vector<std::string>& arguments) {
    CommandLine line("show logic [YARD] [options]",
                     "Prints drawn logic with its power flow at one time of a run: lines that have power are heavy, "
                     "contacts that let it\npass have heavy bars, coils that are TRUE are filled. Values are those "
                     "after the last scan.",
                     "vyard show logic examples/glaze-line --unit panel_signals --procedure 1_normal_cycle --at 12.5s");
    line.add_yard_options();
    line.add_stimulus_option();
    add_drive_options(line);
    line.options().add_options()(
        "unit", po::value<std::string>()->value_name("NAME"),
        "a program, or an instance of a block in it: panel.pump_1; default all that are drawn")(
        "at", po::value<std::string>()->value_name("TIME"), "when; default the end of the run")(
        "ascii", "without box-drawing characters: = and # have power, [ ] let it pass");
    if (const auto exit = line.parse(arguments, 2)) return *exit;
    if (line.word(0) != "logic")
        return wrong_call(
            line.word(0).empty() ? "name what to show: logic" : fmt::format("'{}' cannot be shown", line.word(0)),
            base::name_hint(line.word(0), {"logic"}));
    const auto loaded = load(line, false, 1);
    if (!loaded) return kWrongCall;
    const auto at = line.quantity("at", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    auto way = read_drive(line, *loaded, 0.0);
    if (!at || !way) return kWrongCall;
    std::vector<Unit> units = units_of(*loaded->yard.model);
    if (units.empty())
        return wrong_call("nothing of this logic is drawn", "LADDER and FBD are described in docs/drawn-logic.md");
    if (line.has("unit")) {
        const std::string wanted = line.text("unit");
        std::vector<std::string> known;
        known.reserve(units.size());
        for (const Unit& u : units) known.push_back(u.name);
        std::erase_if(units, [&](const Unit& u) { return base::fold(u.name) != base::fold(wanted); });
        if (units.empty())
            return wrong_call(fmt::format("no drawn unit is named '{}'", wanted), base::name_hint(wanted, known));
    }
    const session::Session session =
        session_at(*way, loaded->yard.model, line.has("at") ? std::optional(base::from_seconds(*at)) : std::nullopt);
    for (std::size_t i = 0; i < units.size(); ++i) {
        if (i > 0) fmt::print("\n");
        show(session, units[i], {line.has("ascii")});
    }
    print_verdicts(*way);
    return passed(*way) ? kWell : kFailed;
}

}  // namespace vyard::cli
