#include <fmt/format.h>

#include <algorithm>

#include "cli/drive.hpp"
#include "cli/logic_units.hpp"
#include "report/logic_text.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

void show(const session::Session& session, const figures::LogicUnit& unit, report::LogicTextStyle style) {
    const logic::Program& program = *base::at(session.model().controllers, unit.controller).program;
    const controller::ControllerState& state = session.controller(unit.controller);
    const auto seen = logic::seen_unit(program, state.memory, session.now().count(), unit.path);
    fmt::print("{} at {}{}\n", unit.name, base::clock_text(session.now()),
               state.running ? "" : ", its controller is stopped");
    // What is drawn is what the logic has; a forced output leaves with another value.
    for (const std::string& force : session::forces_text(session)) fmt::print("  {}\n", force);
    fmt::print("{}", report::unit_text(*seen, style));
}

}  // namespace

int show_command(const std::vector<std::string>& arguments) {
    CommandLine line(
        "show logic [YARD] [options]",
        "Prints logic at one time of a run. Drawings: lines that have power are heavy, contacts that let it "
        "pass have heavy\nbars, coils that are TRUE are filled. Charts: active steps are heavy. Text: "
        "values stand to its right. All are\nthose after the last scan.",
        "vyard show logic examples/glaze-line --unit panel_signals --procedure 1_normal_cycle --at 12.5s");
    line.add_yard_options();
    line.add_stimulus_option();
    add_drive_options(line);
    line.options().add_options()(
        "unit", po::value<std::string>()->value_name("NAMES"),
        "programs, or instances of blocks in them: panel.pump_1,main; default all that are drawn")(
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
    const auto units = units_for(*loaded->yard.model, line.text("unit"), true);
    if (!units) return kWrongCall;
    const session::Session session =
        session_at(*way, loaded->yard.model, line.has("at") ? std::optional(base::from_seconds(*at)) : std::nullopt);
    for (std::size_t i = 0; i < units->size(); ++i) {
        if (i > 0) fmt::print("\n");
        show(session, (*units)[i], {line.has("ascii")});
    }
    print_verdicts(*way);
    return passed(*way) ? kWell : kFailed;
}

}  // namespace vyard::cli
