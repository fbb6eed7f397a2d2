#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/command.hpp"

namespace vyard::cli {

namespace {

struct Row {
    std::string controller, tag, type, address, point, scaling, at_rest, description;
};

/// Every tag, located ones first by address, then the others as declared.
std::vector<Row> rows_of(const session::SessionModel& model, const session::Session& session) {
    struct Keyed {
        std::tuple<int, std::uint32_t, int, std::size_t> key;
        Row row;
    };
    std::vector<Keyed> keyed;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            const logic::Variable& variable = variables[v];
            if (!variable.is_tag) continue;
            const wiring::Join* join = model.wiring.of_tag(static_cast<int>(c), static_cast<int>(v));
            const bool located = variable.address.area != logic::Area::None;
            session::Signal signal;
            signal.controller = static_cast<int>(c);
            signal.variable = static_cast<int>(v);
            signal.type = variable.type;
            Row row{model.controllers[c].name,
                    variable.path,
                    logic::type_name(variable.type),
                    located ? variable.address.text() : "",
                    join != nullptr ? model.plant->points[static_cast<std::size_t>(join->point)].name : "",
                    join != nullptr ? join->scaling_text : "",
                    session::value_text(session, signal),
                    variable.description};
            keyed.push_back({{located ? static_cast<int>(variable.address.area) : 9, variable.address.byte,
                              variable.address.bit, v},
                             std::move(row)});
        }
    }
    std::stable_sort(keyed.begin(), keyed.end(), [](const Keyed& a, const Keyed& b) { return a.key < b.key; });
    std::vector<Row> rows;
    rows.reserve(keyed.size());
    for (Keyed& k : keyed) rows.push_back(std::move(k.row));
    return rows;
}

void print_table(const std::vector<Row>& rows) {
    const Row head{"controller", "tag", "type", "address", "point", "scaling", "at rest", "description"};
    const std::vector<std::string Row::*> columns = {&Row::tag,     &Row::type,    &Row::address,    &Row::point,
                                                     &Row::at_rest, &Row::scaling, &Row::description};
    std::vector<std::size_t> widths;
    for (const auto column : columns) {
        std::size_t width = (head.*column).size();
        for (const Row& r : rows) width = std::max(width, (r.*column).size());
        widths.push_back(width);
    }
    const auto print = [&](const Row& r) {
        std::string out;
        for (std::size_t i = 0; i < columns.size(); ++i) out += fmt::format("{:<{}}  ", r.*columns[i], widths[i]);
        out.erase(out.find_last_not_of(' ') + 1);
        fmt::print("{}\n", out);
    };
    print(head);
    for (const Row& r : rows) print(r);
}

}  // namespace

int tags_command(const std::vector<std::string>& arguments) {
    CommandLine line(
        "tags [YARD] [options]",
        "Lists every tag: type, address, joined point, and its value with the machine at rest (after the first scan).",
        "vyard tags examples/glaze-line");
    line.add_yard_options();
    line.options().add_options()("json", "as JSON");
    if (const auto exit = line.parse(arguments, 1)) return *exit;
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    const session::Session session(loaded->yard.model);
    const std::vector<Row> rows = rows_of(*loaded->yard.model, session);
    if (!line.has("json")) {
        print_table(rows);
        return kWell;
    }
    nlohmann::ordered_json json = nlohmann::ordered_json::array();
    for (const Row& r : rows) {
        json.push_back({{"controller", r.controller},
                        {"tag", r.tag},
                        {"type", r.type},
                        {"address", r.address},
                        {"point", r.point},
                        {"scaling", r.scaling},
                        {"at_rest", r.at_rest},
                        {"description", r.description}});
    }
    fmt::print("{}\n", json.dump(2));
    return kWell;
}

}  // namespace vyard::cli
