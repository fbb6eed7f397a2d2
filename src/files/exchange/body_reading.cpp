// Bodies of an exchange file that are texts: Structured Text as it is, instruction lists as statements.
#include <fmt/format.h>

#include <algorithm>

#include "core/logic/logic.hpp"
#include "files/exchange/reading.hpp"

namespace vyard::files {

using base::Code;

namespace {

PlacedLines written(Reading& reading, pugi::xml_node body) {
    const pugi::xml_node text = reading.child(body, "xhtml");
    if (text) reading.read(text);
    PlacedLines lines = reading.xml().lines(text ? text : body);
    const auto blank = [](const PlacedLine& l) { return l.text.find_first_not_of(" \t") == std::string::npos; };
    while (!lines.empty() && blank(lines.front())) lines.erase(lines.begin());
    while (!lines.empty() && blank(lines.back())) lines.pop_back();
    return lines;
}

void instruction_list(Reading& reading, pugi::xml_node body, const std::string& unit_text,
                      std::vector<std::string>& declarations, TextMaker& out) {
    const PlacedLines lines = written(reading, body);
    base::SourceText list{reading.xml().source()->path, "", {}};
    for (const PlacedLine& l : lines) {
        list.text.append(l.text);
        list.text += '\n';
        list.origins.push_back(l.origin);
    }
    const auto source = std::make_shared<const base::SourceText>(std::move(list));
    const logic::ListReading read = logic::read_instruction_list(source, unit_text, reading.diagnostics());
    declarations.insert(declarations.end(), read.declarations.begin(), read.declarations.end());
    base::LineOrigin origin = reading.origin(body);
    for (const logic::ListStatement& s : read.statements) {
        const auto number = static_cast<std::size_t>(std::max(s.line, 0));
        if (number >= 1 && number <= lines.size()) {
            origin = lines[number - 1].origin;
            origin.exact = false;
            origin.shifts.clear();
        }
        out.line(s.text, origin);
    }
}

/// What is within <xhtml> is text, whatever elements lay it out.
void read_all(Reading& reading, pugi::xml_node node) {
    for (const pugi::xml_node c : node.children()) {
        if (c.type() != pugi::node_element) continue;
        reading.read(c);
        read_all(reading, c);
    }
}

}  // namespace

void read_body(Reading& reading, pugi::xml_node body, const std::string& unit_text,
               std::vector<std::string>& declarations, TextMaker& out) {
    const std::string_view form = local_name(body);
    reading.read(body);
    if (form == "ST" || form == "IL") read_all(reading, body);
    if (form == "ST") {
        out.verbatim(written(reading, body));
    } else if (form == "IL") {
        out.in();
        instruction_list(reading, body, unit_text, declarations, out);
        out.out();
    } else if (form == "LD" || form == "FBD") {
        read_drawn_body(reading, body, out);
    } else {
        reading.error(body, Code::NotSupported, fmt::format("a body <{}> is not read", form),
                      "known: ST, IL, LD, FBD, SFC");
    }
}

}  // namespace vyard::files
