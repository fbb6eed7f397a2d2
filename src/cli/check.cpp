#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdlib>

#include "cli/command.hpp"

namespace vyard::cli {

namespace {

struct Counts {
    std::size_t tags = 0, located = 0, points = 0, joined = 0, jumpers = 0, unjoined_points = 0, modules = 0,
                channels = 0, spare = 0, devices = 0, procedures = 0, rules = 0;
};

Counts count(const Loaded& loaded) {
    const session::SessionModel& model = *loaded.yard.model;
    Counts c;
    for (const auto& controller : model.controllers) {
        for (const logic::Variable& v : controller.program->variables) {
            c.tags += v.is_tag ? 1U : 0U;
            c.located += v.is_tag && v.address.area != logic::Area::None ? 1U : 0U;
        }
    }
    c.points = model.plant->points.size();
    c.joined = model.wiring.inputs.size() + model.wiring.outputs.size();
    std::vector<bool> joined(model.plant->points.size(), false);
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) base::at(joined, j.point) = true;
    }
    c.unjoined_points = static_cast<std::size_t>(std::count(joined.begin(), joined.end(), false));
    c.jumpers = model.wiring.jumpers.size();
    for (std::size_t i = 0; i < model.wiring.modules.size(); ++i) {
        const wiring::Module& m = model.wiring.modules[i];
        c.modules += m.partner < static_cast<int>(i) ? 1 : 0;  // one with inputs and outputs is one
        c.channels += static_cast<std::size_t>(m.channels);
    }
    c.spare = c.channels - model.wiring.channels.size();
    c.devices = model.plant->devices.size();
    if (loaded.book == nullptr) return c;
    c.procedures = loaded.book->procedures.size();
    for (const auto& p : loaded.book->procedures) c.rules = std::max(c.rules, p.rules.size());
    return c;
}

nlohmann::ordered_json diagnostics_json(const std::vector<base::Diagnostic>& list) {
    auto out = nlohmann::ordered_json::array();
    for (const base::Diagnostic& d : list) {
        nlohmann::ordered_json entry = {{"severity", base::severity_name(d.severity)},
                                        {"code", base::code_name(d.code)}};
        if (d.place.known()) {
            const auto [line, column] = d.place.source->in_file(d.place.line, d.place.column);
            entry["file"] = d.place.source->path;
            entry["line"] = line;
            entry["column"] = column;
        }
        entry["message"] = d.message;
        if (!d.hint.empty()) entry["hint"] = d.hint;
        out.push_back(std::move(entry));
    }
    return out;
}

/// The counts of a yard without errors, and what is wrong or doubtful in any.
int as_json(const CommandLine& line) {
    const auto loaded = read_all(line, 0, true);
    if (!loaded) return kWrongCall;
    nlohmann::ordered_json json = {{"yard", loaded->yard.name}};
    if (loaded->errors == 0) {
        const Counts c = count(*loaded);
        json.update({{"devices", c.devices},
                     {"points", c.points},
                     {"tags", c.tags},
                     {"joined", c.joined},
                     {"unjoined_points", c.unjoined_points},
                     {"jumpers", c.jumpers},
                     {"modules", c.modules},
                     {"procedures", c.procedures},
                     {"rules", c.rules}});
    }
    json["errors"] = loaded->errors;
    json["warnings"] = loaded->warnings;
    json["remarks"] = loaded->remarks;
    json["diagnostics"] = diagnostics_json(loaded->diagnostics);
    line.remember(loaded->diagnostics);
    fmt::print("{}\n", json.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace));
    const bool strict = line.has("strict") && loaded->warnings > 0;
    return loaded->errors > 0 || strict ? kWrongCall : kWell;
}

/// ", 2 warnings"; "" for none.
std::string counted(int count, const char* what) {
    return count == 0 ? std::string() : fmt::format(", {} {}{}", count, what, count == 1 ? "" : "s");
}

int show_code(const Loaded& loaded) {
    for (const auto& controller : loaded.yard.model->controllers)
        fmt::print("controller {}\n{}", controller.name, logic::code_text(*controller.program));
    return kWell;
}

/// The lines of a source's text that stand in line `number` of its file.
std::vector<int> lines_made_of(const base::SourceText& source, int number) {
    if (source.origins.empty()) return {number};
    std::vector<int> out;
    for (int line = 1; line <= static_cast<int>(source.origins.size()); ++line) {
        if (source.in_file(line, 1).first == number) out.push_back(line);
    }
    return out;
}

int explain(const Loaded& loaded, const std::string& wanted) {
    const std::size_t colon = wanted.rfind(':');
    const int number = colon == std::string::npos ? 0 : std::atoi(wanted.c_str() + colon + 1);
    const std::string file = wanted.substr(0, colon);
    if (number < 1)
        return wrong_call(fmt::format("'{}' is not a line of a file", wanted),
                          "write FILE:LINE, such as logic/line.st:14");
    std::vector<std::string> known;
    for (const auto& controller : loaded.yard.model->controllers) {
        for (const base::SourcePtr& source : controller.program->sources) {
            known.push_back(source->path);
            const bool meant = source->path == file || source->path.ends_with("/" + file);
            if (!meant) continue;
            for (const int line : lines_made_of(*source, number)) {
                fmt::print("{}:{}: {}\n", source->path, number, source->line(line));
                const std::string code = logic::explain_line(*controller.program, source->path, line);
                fmt::print("{}", code.empty() ? "       no instructions\n" : code);
            }
            return kWell;
        }
    }
    return wrong_call(fmt::format("no logic is read from '{}'", file), base::name_hint(file, known));
}

}  // namespace

CommandLine check_line() {
    CommandLine line(
        "check [YARD] [options]",
        "Loads a yard, compiles its logic, checks plant, map and procedures, and reports all mistakes at once.",
        "vyard check examples/glaze-line");
    line.add_yard_options();
    line.options().add_options()("json", "the counts and all diagnostics as JSON")("no-warnings", "show errors only")(
        "here", "with the logic of stand_in, of controllers that are executed elsewhere")(
        "code", "print the instructions that the logic became")(
        "explain", boost::program_options::value<std::string>()->value_name("FILE:LINE"),
        "print what one line of logic became, with the variables it touches");
    line.one_of({"code", "explain", "json"});
    line.apart({"no-warnings"}, {"code", "explain", "json"});
    line.apart({"strict"}, {"code", "explain"});
    line.takes_words(1);
    return line;
}

int check_command(const CommandLine& line) {
    if (line.has("json")) return as_json(line);
    const auto loaded = load(line, !line.has("no-warnings") && !line.quiet(), 0, true);
    if (!loaded) return kWrongCall;
    if (line.has("code")) return show_code(*loaded);
    if (line.has("explain")) return explain(*loaded, line.text("explain"));
    const Counts c = count(*loaded);
    if (line.quiet()) return kWell;
    fmt::print("{}: {}\n", loaded->yard.name,
               loaded->warnings + loaded->remarks == 0
                   ? "all well"
                   : "no errors" + counted(loaded->warnings, "warning") + counted(loaded->remarks, "remark"));
    fmt::print("  {}, {}: {} joined, {} not\n", number_of(c.devices, "device"), number_of(c.points, "point"),
               c.points - c.unjoined_points, c.unjoined_points);
    fmt::print("  {}, {} with an address; {}{}\n", number_of(c.tags, "tag"), c.located, number_of(c.joined, "join"),
               c.jumpers > 0 ? ", " + number_of(c.jumpers, "jumper") : "");
    if (c.modules > 0)
        fmt::print("  {} with {}, {} of them spare\n", number_of(c.modules, "module"), number_of(c.channels, "channel"),
                   c.spare);
    fmt::print("  {}, up to {} watched in each\n", number_of(c.procedures, "procedure"), number_of(c.rules, "rule"));
    return kWell;
}

}  // namespace vyard::cli
