#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "cli/command.hpp"
#include "core/plant/plant.hpp"
#include "figures/kind_figures.hpp"

namespace vyard::cli {

namespace po = boost::program_options;
using plant::Kind;
using plant::ParameterType;

namespace {

std::string every_defect(bool of_text) {
    std::string out;
    for (const plant::DefectSpec& d : plant::defects()) {
        if (of_text && d.of_text == nullptr) continue;
        fmt::format_to(std::back_inserter(out), "{}{}", out.empty() ? "" : ", ", d.name);
    }
    return out;
}

std::string takes_text(const plant::ParameterSpec& p) {
    switch (p.type) {
        case ParameterType::Quantity:
            return p.dimension == base::Dimension::Plain
                       ? "a number"
                       : fmt::format("{}, {}", base::with_article(base::dimension_name(p.dimension)),
                                     base::accepted_units(p.dimension));
        case ParameterType::Whole: return "a whole number";
        case ParameterType::Choice: return fmt::format("{}", fmt::join(p.choices, " | "));
        case ParameterType::Device: {
            const bool vowel = std::string_view("aeiou").find(p.choices[0][0]) != std::string_view::npos;
            return fmt::format("the name of a{} {}", vowel ? "n" : "", fmt::join(p.choices, ", "));
        }
        case ParameterType::Items: return "the name of an item, or a list of them";
        case ParameterType::Numbers:
            return p.dimension == base::Dimension::Plain
                       ? "a list of numbers"
                       : fmt::format("a list of quantities in {}", base::accepted_units(p.dimension));
        case ParameterType::Colour: return "one of [plant] colours";
        case ParameterType::Names: return "a list of names";
    }
    return {};
}

const char* type_text(plant::PointType type) {
    switch (type) {
        case plant::PointType::Boolean: return "BOOL";
        case plant::PointType::Number: return "whole number";
        case plant::PointType::Analog: return "analog";
        case plant::PointType::Text: break;
    }
    return "text";
}

/// "amount: a share; default 50 %, 0 % to 100 %".
std::string amount_text(const plant::FaultSpec& f) {
    return fmt::format("amount: {}, {}; default {}", base::with_article(base::dimension_name(f.dimension)),
                       base::range_text(f.low, f.high, f.dimension),
                       base::quantity_text(f.default_amount, f.dimension));
}

std::string point_text(const plant::PointSpec& p) {
    const char* unit = base::display_unit(p.dimension);
    return fmt::format("{}, {}{}{}", p.direction == plant::PointDirection::Input ? "input" : "output",
                       type_text(p.type), *unit != '\0' ? " in " : "", unit);
}

std::string actual_text(const plant::ActualSpec& g) {
    const char* unit = base::display_unit(g.dimension);
    return fmt::format("{}{}{}", type_text(g.type), *unit != '\0' ? " in " : "", unit);
}

/// Sections of rows: name, what it is, help.
struct Section {
    const char* title;
    std::vector<std::array<std::string, 3>> rows;
};

std::vector<Section> sections(const Kind& kind) {
    Section parameters{"parameters", {}}, points{"points", {}}, controls{"hand controls", {}}, actuals{"actuals", {}},
        faults{"faults", {}}, mishaps{"mishaps", {}};
    for (const auto& [name, help] : plant::placement_keys(kind.placement))
        parameters.rows.push_back({name, "place", help});
    for (const auto& p : kind.parameters) {
        const std::string otherwise = p.required               ? "; required"
                                      : p.default_text.empty() ? ""
                                                               : fmt::format("; default {}", p.default_text);
        parameters.rows.push_back({p.name, takes_text(p), p.help + otherwise});
    }
    for (const auto& p : kind.points) points.rows.push_back({p.name, point_text(p), p.help});
    for (const auto& c : kind.controls)
        controls.rows.push_back({c.verb,
                                 c.takes_position ? "to one of its positions"
                                 : c.takes_value  ? "to " + base::with_article(base::dimension_name(c.dimension))
                                                  : "",
                                 c.help});
    for (const auto& g : kind.actuals) actuals.rows.push_back({g.name, actual_text(g), g.help});
    for (const auto& f : kind.faults) faults.rows.push_back({f.name, f.takes_amount ? amount_text(f) : "", f.help});
    const auto text = [](const plant::PointSpec& p) { return p.type == plant::PointType::Text; };
    if (!std::all_of(kind.points.begin(), kind.points.end(), text))
        faults.rows.push_back({"of its points", "fault DEVICE.POINT NAME", every_defect(false)});
    if (std::any_of(kind.points.begin(), kind.points.end(), text))
        faults.rows.push_back({"of its strings", "fault DEVICE.POINT NAME", every_defect(true)});
    for (const auto& m : kind.mishaps) mishaps.rows.push_back({m.name, "", m.help});
    return {parameters, points, controls, actuals, faults, mishaps};
}

void print_kind(const Kind& kind) {
    fmt::print("{} ({}): {}\n", kind.name, kind.family, kind.summary);
    if (const auto* example = figures::find_kind_example(kind.name)) {
        fmt::print("  an example for plant.toml\n");
        for (std::string_view rest = example->text; !rest.empty();) {
            const std::size_t end = rest.find('\n');
            fmt::print("    {}\n", rest.substr(0, end));
            rest.remove_prefix(end + 1);
        }
    }
    for (const Section& s : sections(kind)) {
        if (s.rows.empty()) continue;
        fmt::print("  {}\n", s.title);
        for (const auto& [name, what, help] : s.rows)
            fmt::print("    {:<22} {}{}{}\n", name, help, what.empty() ? "" : "  ",
                       what.empty() ? "" : "[" + what + "]");
    }
}

/// What the amount of a point's defect is.
std::string defect_amount(const plant::DefectSpec& d) {
    if (!d.takes_amount) return {};
    const char* what = d.defect == plant::Defect::Gain ? "a plain number"
                       : d.of_time                     ? "a time"
                                                       : "in the unit of the point";
    return fmt::format("{}{}", what, d.of_boolean ? "" : "; not of BOOL points");
}

/// The section of a kind in the page.
std::string markdown(const Kind& kind) {
    std::string out;
    out += fmt::format("\n## {0}\n\n{1} ({2}).\n", kind.name, kind.summary, kind.family);
    if (const auto* example = figures::find_kind_example(kind.name))
        out += fmt::format("\n![{0}](kinds/{0}.png)\n\n```toml\n{1}```\n", kind.name, example->text);
    for (const Section& s : sections(kind)) {
        if (s.rows.empty()) continue;
        out += fmt::format("\n| {} | type or range | |\n| --- | --- | --- |\n", s.title);
        for (auto [name, what, help] : s.rows) {
            for (std::string* cell : {&what, &help}) {
                for (std::size_t bar = cell->find('|'); bar != std::string::npos; bar = cell->find('|', bar + 2))
                    cell->replace(bar, 1, "\\|");
            }
            out += fmt::format("| `{}` | {} | {} |\n", name, what, help);
        }
    }
    return out;
}

std::string markdown() {
    std::string out =
        "# Device kinds\n\nWritten by `vyard kinds --markdown`; a test keeps it current. How quantities, places and "
        "names are written\nstands in [yard-files.md](yard-files.md).\n";
    for (const Kind& kind : plant::all_kinds()) out += markdown(kind);
    out += "\n## Faults of every point\n\n| fault | takes | | of a string |\n| --- | --- | --- | --- |\n";
    for (const plant::DefectSpec& d : plant::defects())
        out += fmt::format("| `{}` | {} | {} | {} |\n", d.name, defect_amount(d), d.help,
                           d.of_text == nullptr ? "" : d.of_text);
    return out;
}

nlohmann::ordered_json json_of(const Kind& kind) {
    nlohmann::ordered_json out = {{"name", kind.name}, {"family", kind.family}, {"summary", kind.summary}};
    for (const Section& s : sections(kind)) {
        out[s.title] = nlohmann::ordered_json::array();
        for (const auto& [name, what, help] : s.rows)
            out[s.title].push_back({{"name", name}, {"takes", what}, {"help", help}});
    }
    return out;
}

int write_figures(const CommandLine& line, const std::string& folder) {
    for (const figures::KindExample& example : figures::kind_examples()) {
        const std::string path = fmt::format("{}/{}.png", folder, example.kind);
        if (!write_result(line, path, figures::draw_kind(example)->render(path))) return kOurFault;
    }
    return kWell;
}

}  // namespace

CommandLine kinds_line() {
    CommandLine line("kinds [KIND] [options]",
                     "The reference of device kinds: parameters, points, hand controls, actuals, faults, mishaps.",
                     "vyard kinds photoeye");
    line.options().add_options()("json", "as JSON")("markdown", "as the page docs/kinds.md")(
        "figures", po::value<std::string>()->value_name("FOLDER"), "write a small figure of each kind there");
    line.one_of({"json", "markdown", "figures"});
    line.takes_words(1);
    return line;
}

int kinds_command(const CommandLine& line) {
    if (line.has("figures") && !line.words().empty()) return wrong_call("--figures writes those of all kinds");
    if (line.has("figures")) return write_figures(line, line.text("figures"));
    std::vector<const Kind*> chosen;
    std::vector<std::string> names;
    for (const Kind& kind : plant::all_kinds()) {
        names.push_back(kind.name);
        if (line.words().empty() || kind.name == line.word(0)) chosen.push_back(&kind);
    }
    if (chosen.empty())
        return wrong_call(fmt::format("no device kind is named '{}'", line.word(0)),
                          base::name_hint(line.word(0), names));
    if (line.has("markdown")) {
        fmt::print("{}", line.words().empty() ? markdown() : markdown(*chosen[0]));
    } else if (line.has("json")) {
        nlohmann::ordered_json out = nlohmann::ordered_json::array();
        for (const Kind* kind : chosen) out.push_back(json_of(*kind));
        fmt::print("{}\n", out.dump(2));
    } else if (line.words().empty()) {
        for (const Kind* kind : chosen) fmt::print("{:<24} {:<10} {}\n", kind->name, kind->family, kind->summary);
        fmt::print("\nevery point can have:\n");
        for (const plant::DefectSpec& d : plant::defects()) fmt::print("    {:<12} {}\n", d.name, d.help);
        fmt::print("\nvyard kinds KIND shows one in full.\n");
    } else {
        print_kind(*chosen[0]);
    }
    return kWell;
}

}  // namespace vyard::cli
