#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "cli/command.hpp"
#include "core/session/session.hpp"
#include "core/wiring/wiring.hpp"
#include "files/map_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

const logic::Variable& tag_of(const session::SessionModel& model, int controller, int variable) {
    return base::at(base::at(model.controllers, controller).program->variables, variable);
}

/// As the map names it: with its controller where there are several.
std::string tag_name(const session::SessionModel& model, int controller, int variable) {
    const std::string& path = tag_of(model, controller, variable).path;
    if (model.controllers.size() == 1) return path;
    return base::at(model.controllers, controller).name + "." + path;
}

std::string address_text(const logic::Variable& v) {
    return v.address.area == logic::Area::None ? "" : v.address.text();
}

report::Table joins_table(const session::SessionModel& model) {
    report::Table table;
    table.columns = {"tag", "type", "address", "direction", "point", "scaling", "delay", "when", "note"};
    const auto join_row = [&](const wiring::Join& j, const char* direction) {
        const logic::Variable& v = tag_of(model, j.controller, j.variable);
        const bool part = j.bit >= 0 && v.bit < 0;
        const std::uint32_t bit = (j.offset - v.offset) * 8 + static_cast<std::uint32_t>(std::max(j.bit, 0));
        table.rows.push_back({tag_name(model, j.controller, j.variable) + (part ? fmt::format(".%X{}", bit) : ""),
                              v.type_text, address_text(v), direction, base::at(model.plant->points, j.point).name,
                              j.scaling_text, "", "", j.note});
    };
    for (const wiring::Join& j : model.wiring.inputs) join_row(j, "in");
    for (const wiring::Join& j : model.wiring.outputs) join_row(j, "out");
    for (const wiring::Jumper& j : model.wiring.jumpers) {
        const logic::Variable& v = tag_of(model, j.controller, j.spot.variable);
        std::string when;
        if (j.when)
            when = fmt::format("{}{}", j.when_not ? "NOT " : "",
                               j.when->controller < 0 ? base::at(model.plant->points, j.when->point).name
                                                      : tag_name(model, j.when->controller, j.when->spot.variable));
        table.rows.push_back({tag_name(model, j.controller, j.spot.variable), v.type_text, address_text(v), "jumper",
                              tag_name(model, j.from.controller, j.from.spot.variable), j.invert ? "invert" : "",
                              base::time_text(j.delay), when, j.note});
    }
    return table;
}

/// What is missing on both sides.
report::Table unjoined_table(const session::SessionModel& model) {
    report::Table table;
    table.columns = {"side", "name", "type", "address", "direction"};
    std::vector<bool> joined(model.plant->points.size(), false);
    std::vector<std::pair<int, int>> tags;
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) {
            base::at(joined, j.point) = true;
            tags.emplace_back(j.controller, j.variable);
        }
    }
    for (const wiring::Jumper& j : model.wiring.jumpers) {
        tags.emplace_back(j.controller, j.spot.variable);
        tags.emplace_back(j.from.controller, j.from.spot.variable);
    }
    std::sort(tags.begin(), tags.end());
    static constexpr const char* kTypes[] = {"BOOL", "whole number", "analog", "text"};
    for (std::size_t p = 0; p < joined.size(); ++p) {
        const plant::PointModel& point = model.plant->points[p];
        if (!joined[p])
            table.rows.push_back({"point", point.name, kTypes[static_cast<int>(point.type)], "",
                                  point.direction == plant::PointDirection::Input ? "in" : "out"});
    }
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto& variables = model.controllers[c].program->variables;
        for (std::size_t v = 0; v < variables.size(); ++v) {
            const logic::Area area = variables[v].address.area;
            const bool wired = area == logic::Area::Input || area == logic::Area::Output;
            const std::pair key(static_cast<int>(c), static_cast<int>(v));
            if (wired && variables[v].is_tag && !std::binary_search(tags.begin(), tags.end(), key))
                table.rows.push_back({"tag", tag_name(model, key.first, key.second), variables[v].type_text,
                                      address_text(variables[v]), area == logic::Area::Input ? "in" : "out"});
        }
    }
    return table;
}

/// For the electrician: every channel of the rack, joined or spare.
report::Table wiring_list(const session::SessionModel& model) {
    report::Table table;
    table.columns = {"module", "kind", "channel", "address", "tag", "point", "device", "description"};
    std::map<std::pair<int, int>, const wiring::Join*> joins;
    for (const auto* list : {&model.wiring.inputs, &model.wiring.outputs}) {
        for (const wiring::Join& j : *list) {
            if (j.channel < 0) continue;
            const wiring::Channel& c = base::at(model.wiring.channels, j.channel);
            joins[{c.module, c.number}] = &j;
        }
    }
    for (std::size_t m = 0; m < model.wiring.modules.size(); ++m) {
        const wiring::Module& module = model.wiring.modules[m];
        for (int c = 0; c < module.channels; ++c) {
            const auto found = joins.find({static_cast<int>(m), c});
            const wiring::Join* join = found == joins.end() ? nullptr : found->second;
            const plant::PointModel* point = join == nullptr ? nullptr : &base::at(model.plant->points, join->point);
            table.rows.push_back({module.full_name(), base::at(wiring::module_kind_names(), module.kind),
                                  std::to_string(c), module.address_of(c).text(),
                                  join == nullptr ? "" : tag_name(model, join->controller, join->variable),
                                  point == nullptr ? "spare" : point->name,
                                  point == nullptr ? "" : base::at(model.plant->devices, point->device).kind->name,
                                  join == nullptr ? "" : tag_of(model, join->controller, join->variable).description});
        }
    }
    return table;
}

/// Where a tag stands and how it is to be taken there, up to the order of its words.
std::vector<std::string> register_cells(const std::string& link, const controller::RegisterPlace& p,
                                        const logic::Variable& tag, logic::Elementary type) {
    const bool bits = controller::is_bits(p.area), one = p.count == 1 && !logic::is_text(type);
    return {link,
            controller::area_name(p.area),
            std::to_string(p.first),
            std::to_string(p.first + 1),
            bits ? "" : std::to_string(p.count),
            p.bit >= 0 ? std::to_string(p.bit) : "",
            tag.path,
            tag.type_text,
            bits || type == logic::Elementary::Bool ? "bit" : controller::on_the_link(type),
            fmt::format("{}{}",
                        one                ? ""
                        : p.low_word_first ? "low word first"
                                           : "high word first",
                        p.swap_bytes ? ", bytes swapped" : "")};
}

/// What others have to know of the links: every register, as it is sent (from 0) and as many count it (from 1).
report::Table registers_table(const session::SessionModel& model) {
    report::Table table;
    table.columns = {"link",        "table", "from 0",    "from 1",  "registers", "bit",     "tag", "type",
                     "on the link", "order", "direction", "address", "point",     "scaling", "by"};
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const controller::ControllerModel& controller = model.controllers[c];
        if (!controller.link) continue;
        for (const controller::RegisterEntry& e : controller.link->registers) {
            const logic::Variable& v = tag_of(model, static_cast<int>(c), e.variable);
            const wiring::Join* join = model.wiring.of_tag(static_cast<int>(c), e.variable);
            const bool screen = controller.link->role == controller::LinkRole::Screen;
            std::vector<std::string> row =
                register_cells(fmt::format("{}, {}, unit {}", controller.name,
                                           controller::role_name(controller.link->role), controller.link->unit),
                               e.place, v, v.type);
            row.insert(row.end(),
                       {screen            ? (e.writable ? "read, write" : "read")
                        : e.to_controller ? "to the controller"
                                          : "from the controller",
                        address_text(v), join == nullptr ? "" : base::at(model.plant->points, join->point).name,
                        join == nullptr ? "" : join->scaling_text, e.by_rule ? "rule" : "map"});
            table.rows.push_back(std::move(row));
        }
        for (const controller::Ask& ask : controller.link->asks) {
            for (const controller::Ask::Tag& tag : ask.tags) {
                const logic::Variable& v = tag_of(model, static_cast<int>(c), tag.to.variable);
                std::vector<std::string> row = register_cells(
                    fmt::format("{} asks {}, unit {}", controller.name, ask.name, ask.unit), tag.place, v, tag.type);
                row.insert(row.end(), {"asked for by itself", address_text(v), ask.name + "." + tag.from,
                                       tag.invert ? "invert" : "", "map"});
                table.rows.push_back(std::move(row));
            }
        }
    }
    return table;
}

int print_registers(const CommandLine& line, const session::SessionModel& model) {
    const report::Table table = registers_table(model);
    if (table.rows.empty())
        return wrong_call("no controller of this yard has a link", "--link screen@ lists what a screen would see");
    if (const int exit = print_table(line, table)) return exit;
    if (line.has("json") || line.has("csv") || line.has("out") || line.quiet()) return kWell;
    for (const controller::ControllerModel& c : model.controllers) {
        if (!c.link) continue;
        std::string gaps;
        for (const wiring::RegisterGap& g : wiring::register_gaps(c.link->registers))
            gaps += fmt::format("{}{} {}{}", gaps.empty() ? "" : ", ", controller::area_name(g.area), g.first,
                                g.last > g.first ? fmt::format(" to {}", g.last) : "");
        fmt::print("\n{}: {}; between them free: {}\n", c.name, number_of(c.link->registers.size(), "tag"),
                   gaps.empty() ? "nothing" : gaps);
        if (c.linked() && c.link->locked)
            fmt::print("{}: the count of scans stands in {} {}, the answer to it in {} {} (from 0)\n", c.name,
                       c.link->role == controller::LinkRole::Server ? "input" : "holding", c.link->handshake,
                       c.link->role == controller::LinkRole::Server ? "holding" : "input", c.link->handshake);
    }
    return kWell;
}

report::Table proposal_table(const session::SessionModel& model, const std::vector<wiring::Proposal>& proposals) {
    report::Table table;
    table.columns = {"tag", "point", "confidence %", "words that meet", "remark"};
    for (const wiring::Proposal& p : proposals)
        table.rows.push_back({tag_name(model, p.controller, p.variable), base::at(model.plant->points, p.point).name,
                              fmt::format("{:.0f}", p.confidence * 100), p.why,
                              p.needs_scaling ? "needs a scaling: write it by hand" : ""});
    return table;
}

int write_rows(const CommandLine& line, const files::Yard& yard, const std::vector<wiring::Proposal>& proposals) {
    std::vector<files::NewRow> rows;
    for (const wiring::Proposal& p : proposals) {
        if (p.needs_scaling) continue;
        rows.push_back({tag_name(*yard.model, p.controller, p.variable),
                        base::at(yard.model->plant->points, p.point).name,
                        fmt::format("proposed: {:.0f} % sure", p.confidence * 100)});
    }
    if (rows.empty()) {
        fmt::print("nothing to write\n");
        return kWell;
    }
    if (!write_file(yard.map->path, files::with_rows(yard.map->text, rows))) return kOurFault;
    if (!line.quiet()) fmt::print("{} added to {}\n", number_of(rows.size(), "row"), yard.map->path);
    return kWell;
}

int propose(const CommandLine& line, const files::Yard& yard) {
    const auto least = line.quantity("at-least", base::Dimension::Percent, 50.0, 0.0, 100.0);
    if (!least) return kWrongCall;
    std::vector<wiring::Proposal> proposals =
        wiring::propose(yard.model->controllers, *yard.model->plant, yard.model->wiring);
    std::erase_if(proposals, [&](const wiring::Proposal& p) { return p.confidence * 100 < *least; });
    if (const int exit = print_table(line, proposal_table(*yard.model, proposals))) return exit;
    if (!line.has("write")) {
        if (!line.has("json") && !line.has("csv") && !line.quiet() && !proposals.empty() && yard.map != nullptr)
            fmt::print("nothing is written; --write adds the rows to {}\n", yard.map->path);
        return kWell;
    }
    return write_rows(line, yard, proposals);
}

}  // namespace

CommandLine map_line() {
    CommandLine line(
        "map [YARD] [options]",
        "Lists the joins of tags and points, and what is joined to nothing on both sides. Proposes joins by "
        "name,\ndescription, type and order, with its confidence; writes nothing until told to.",
        "vyard map examples/glaze-line --unjoined");
    line.add_yard_options();
    line.options().add_options()("unjoined", "only what is joined to nothing")(
        "wires", "the wiring list: module, channel, address, tag, point, device")(
        "registers", "the register map of the links: which table and number each tag has, its type and direction")(
        "propose", "propose joins for it")("at-least", po::value<std::string>()->value_name("SHARE"),
                                           "leave out what is less sure; default 50 %")(
        "write", "add the proposed rows to the map")("csv", "as CSV")("json", "as JSON")(
        "out", po::value<std::string>()->value_name("FILE"), "write the table to FILE");
    line.add_link_options();
    line.one_of({"unjoined", "wires", "propose", "registers"});
    line.needs("link", {"registers"});
    line.one_of({"csv", "json"});
    line.needs("at-least", {"propose"});
    line.needs("write", {"propose"});
    line.takes_words(1);
    return line;
}

int map_command(const CommandLine& line) {
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    if (line.has("out")) {
        if (const auto refused = refuse_outputs(loaded->yard.read_from, {line.text("out")})) return *refused;
    }
    if (loaded->yard.map == nullptr && line.has("write"))
        return wrong_call("there is no map to write to", "a yard names one in yard.toml: [yard] map = \"map.csv\"");
    if (line.has("propose")) return propose(line, loaded->yard);
    if (line.has("registers")) return print_registers(line, *loaded->yard.model);
    if (line.has("wires")) {
        if (loaded->yard.model->wiring.modules.empty())
            return wrong_call("this yard has no rack", "[[controller.line.module]] in yard.toml");
        return print_table(line, wiring_list(*loaded->yard.model));
    }
    const report::Table missing = unjoined_table(*loaded->yard.model);
    const bool for_people = !line.has("json") && !line.has("csv") && !line.has("out");
    if (line.has("unjoined") && missing.rows.empty() && for_people) {
        fmt::print("every point and every located input and output is joined\n");
        return kWell;
    }
    if (line.has("unjoined")) return print_table(line, missing);
    const report::Table joins = joins_table(*loaded->yard.model);
    if (const int exit = print_table(line, joins)) return exit;
    if (line.has("json") || line.has("csv") || line.has("out")) return kWell;
    if (line.quiet()) return kWell;
    fmt::print(
        "\n{}; {} joined to nothing\n", number_of(joins.rows.size(), "join"),
        missing.rows.size() == 1 ? "1 point or tag is" : fmt::format("{} points and tags are", missing.rows.size()));
    if (!missing.rows.empty()) fmt::print("{}", report::table_text(missing));
    return kWell;
}

}  // namespace vyard::cli
