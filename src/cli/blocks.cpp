#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/command.hpp"
#include "core/logic/logic.hpp"

namespace vyard::cli {

using logic::ReferenceEntry;
using logic::ReferenceKind;

namespace {

bool own(const ReferenceEntry& e) {
    return e.kind == ReferenceKind::OwnBlock || e.kind == ReferenceKind::OwnFunction ||
           e.kind == ReferenceKind::OwnType;
}
bool function(const ReferenceEntry& e) {
    return e.kind == ReferenceKind::StandardFunction || e.kind == ReferenceKind::OwnFunction;
}

std::string inputs_text(const ReferenceEntry& e) {
    std::string out;
    for (const auto& p : e.ports) {
        if (p.section == "input" || p.section == "in-out") out += (out.empty() ? "" : ", ") + p.name;
    }
    return fmt::format("{}({})", e.name, out);
}

void print_entry(const ReferenceEntry& e) {
    fmt::print("{} ({}{}): {}\n", e.name, own(e) ? "our library, " : "standard ",
               e.kind == ReferenceKind::OwnType ? "type"
               : function(e)                    ? "function"
                                                : "function block",
               e.summary);
    for (const auto& p : e.ports) {
        if (p.type.empty() && p.help.empty()) continue;
        const std::string type = p.initial.empty() ? p.type : fmt::format("{} := {}", p.type, p.initial);
        fmt::print("    {:<8} {:<16} {:<14}{}\n", p.section, p.name, type, p.help);
    }
    if (e.kind == ReferenceKind::StandardFunction) fmt::print("    {}\n", inputs_text(e));
    if (!e.text.empty()) fmt::print("\n{}", e.text);
}

void print_list(const std::vector<ReferenceEntry>& all) {
    const auto list = [&](const char* title, auto&& chosen) {
        fmt::print("{}\n", title);
        for (const ReferenceEntry& e : all) {
            if (chosen(e)) fmt::print("    {:<22} {}\n", e.name, e.summary.substr(0, e.summary.find(". ")));
        }
    };
    list("function blocks of the standard", [](const auto& e) { return e.kind == ReferenceKind::StandardBlock; });
    list("our library, in Structured Text", [](const auto& e) { return own(e); });
    list("functions of the standard", [](const auto& e) { return e.kind == ReferenceKind::StandardFunction; });
    fmt::print("and conversions between all types: INT_TO_REAL, TO_REAL, REAL_TRUNC_INT, WORD_BCD_TO_UINT ...\n");
}

std::string markdown(const std::vector<ReferenceEntry>& all) {
    std::string out =
        "# Blocks and functions\n\nWritten by `vyard blocks --markdown`; a test keeps it current. What of the language "
        "there is "
        "stands in\n[logic.md](logic.md).\n";
    const auto table = [&](const char* title, auto&& chosen) {
        out += fmt::format("\n## {}\n\n| call | does |\n| --- | --- |\n", title);
        for (const ReferenceEntry& e : all) {
            if (chosen(e)) out += fmt::format("| `{}` | {} |\n", inputs_text(e), e.summary);
        }
    };
    table("Function blocks of the standard", [](const auto& e) { return e.kind == ReferenceKind::StandardBlock; });
    table("Functions of the standard", [](const auto& e) { return e.kind == ReferenceKind::StandardFunction; });
    out +=
        "\n## Our library\n\nWritten in Structured Text, in [library](../library); a unit comes into a program when "
        "its name is used. A\nunit of the "
        "same name in the logic takes its place.\n";
    for (const ReferenceEntry& e : all) {
        if (!own(e)) continue;
        out += fmt::format("\n### {}\n\n{}\n\n| | name | type | |\n| --- | --- | --- | --- |\n", e.name, e.summary);
        for (const auto& p : e.ports)
            out += fmt::format("| {} | {} | {}{} | {} |\n", p.section, p.name.empty() ? "" : "`" + p.name + "`", p.type,
                               p.initial.empty() ? "" : ", at first " + p.initial, p.help);
    }
    return out;
}

nlohmann::ordered_json json_of(const ReferenceEntry& e) {
    nlohmann::ordered_json out = {{"name", e.name},
                                  {"own", own(e)},
                                  {"kind", function(e) ? "function" : "function block"},
                                  {"summary", e.summary}};
    out["ports"] = nlohmann::ordered_json::array();
    for (const auto& p : e.ports)
        out["ports"].push_back(
            {{"section", p.section}, {"name", p.name}, {"type", p.type}, {"initial", p.initial}, {"help", p.help}});
    return out;
}

}  // namespace

CommandLine blocks_line() {
    CommandLine line(
        "blocks [NAME] [options]",
        "The function blocks and functions that logic can use: those of the standard and our own library, whose\n"
        "Structured Text is shown.",
        "vyard blocks ramp");
    line.options().add_options()("json", "as JSON")("markdown", "the whole reference as a page");
    line.one_of({"json", "markdown"});
    line.takes_words(1);
    return line;
}

int blocks_command(const CommandLine& line) {
    const std::vector<ReferenceEntry> all = logic::reference();
    std::vector<ReferenceEntry> chosen;
    std::vector<std::string> known;
    for (const ReferenceEntry& e : all) {
        known.push_back(e.name);
        if (line.word(0).empty() || base::fold(e.name) == base::fold(line.word(0))) chosen.push_back(e);
    }
    if (chosen.empty())
        return wrong_call(fmt::format("no block or function is named '{}'", line.word(0)),
                          base::name_hint(line.word(0), known));
    if (line.has("markdown")) {
        fmt::print("{}", markdown(chosen));
    } else if (line.has("json")) {
        nlohmann::ordered_json out = nlohmann::ordered_json::array();
        for (const ReferenceEntry& e : chosen) out.push_back(json_of(e));
        fmt::print("{}\n", out.dump(2));
    } else if (line.word(0).empty()) {
        print_list(chosen);
    } else {
        print_entry(chosen.front());
    }
    return kWell;
}

}  // namespace vyard::cli
