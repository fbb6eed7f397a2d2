// Variables, types and values of an exchange file as declarations of our text.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>

#include "files/exchange/names.hpp"
#include "files/exchange/reading.hpp"

namespace vyard::files {

using base::Code;

namespace {

struct SectionName {
    std::string_view element;
    const char* word;
};
constexpr auto kSections = std::to_array<SectionName>({{"inputVars", "VAR_INPUT"},
                                                       {"outputVars", "VAR_OUTPUT"},
                                                       {"inOutVars", "VAR_IN_OUT"},
                                                       {"localVars", "VAR"},
                                                       {"tempVars", "VAR_TEMP"},
                                                       {"externalVars", "VAR_EXTERNAL"},
                                                       {"globalVars", "VAR_GLOBAL"}});

std::string indented(const std::string& text) {
    std::string out = "    ";
    for (const char c : text) {
        out += c;
        if (c == '\n') out += "    ";
    }
    return out;
}

}  // namespace

void DeclarationReading::sections(pugi::xml_node interface, TextMaker& out) {
    for (const pugi::xml_node list : reading_.elements(interface)) {
        const std::string_view name = local_name(list);
        const auto found =
            std::find_if(kSections.begin(), kSections.end(), [&](const SectionName& s) { return s.element == name; });
        if (found == kSections.end()) continue;  // returnType is the unit's; others are left out with a warning
        reading_.read(list);
        section(list, found->word, out);
    }
}

void DeclarationReading::section(pugi::xml_node list, const char* word, TextMaker& out) {
    const auto says = [&](const char* attribute) {
        const std::string_view value = list.attribute(attribute).value();
        return value == "true" || value == "1";
    };
    out.comment(reading_.documentation(list), reading_.origin(list));
    out.line(fmt::format("{}{}{}", word, says("constant") ? " CONSTANT" : "",
                         says("persistent") ? " PERSISTENT"
                         : says("retain")   ? " RETAIN"
                                            : ""),
             reading_.origin(list));
    out.in();
    for (const pugi::xml_node v : reading_.children(list, "variable")) variable(v, out);
    out.out();
    out.line("END_VAR", reading_.origin(list));
}

void DeclarationReading::variable(pugi::xml_node node, TextMaker& out) {
    const std::string name = reading_.name(node);
    const std::string type = this->type(node);
    const std::string initial = value(node);
    if (name.empty() || type.empty()) return;
    std::string address = node.attribute("address").value();
    if (!address.empty() && !address.starts_with('%')) address = fmt::format("%{}", address);
    if (!address.empty()) address = reading_.expression(node, address, "the address");
    std::string edge;
    if (const pugi::xml_node own = reading_.own(node, kOwnEdge)) {
        edge = reading_.xml().text(own) == "falling" ? " F_EDGE" : " R_EDGE";
    }
    out.documented(fmt::format("{}{}{} : {}{}{}{};", name, address.empty() ? "" : " AT ", address, type, edge,
                               initial.empty() ? "" : " := ", initial),
                   reading_.documentation(node), reading_.origin(node));
}

void DeclarationReading::data_type(pugi::xml_node node, TextMaker& out) {
    const std::string documentation = reading_.documentation(node);
    const std::size_t cut = documentation.rfind('\n');
    out.blank();
    if (cut != std::string::npos) out.comment(documentation.substr(0, cut), reading_.origin(node));
    out.line("TYPE", reading_.origin(node));
    out.in();
    const std::string name = reading_.name(node);
    const pugi::xml_node base = reading_.child(node, "baseType");
    const std::string type = base ? type_within(base) : "";
    const std::string initial = value(node);
    if (!base) reading_.error(node, Code::MissingKey, "<dataType> has no <baseType>");
    out.documented(fmt::format("{} : {}{}{};", name, type, initial.empty() ? "" : " := ", initial),
                   cut == std::string::npos ? documentation : documentation.substr(cut + 1), reading_.origin(node));
    out.out();
    out.line("END_TYPE", reading_.origin(node));
}

std::string DeclarationReading::type(pugi::xml_node holder) {
    const pugi::xml_node type = reading_.child(holder, "type");
    if (type) return type_within(type);
    reading_.error(holder, Code::MissingKey, fmt::format("<{}> has no <type>", local_name(holder)));
    return {};
}

/// The one element within <type>, <baseType> or <returnType> is the type.
std::string DeclarationReading::type_within(pugi::xml_node node) {
    const std::vector<pugi::xml_node> found = reading_.elements(node);
    if (found.size() != 1) {
        reading_.error(node, Code::Syntax,
                       fmt::format("<{}> holds one type, found {}", local_name(node), found.size()));
        return {};
    }
    const pugi::xml_node t = found[0];
    reading_.read(t);
    const std::string_view name = local_name(t);
    if (std::find(kElementaryTypes.begin(), kElementaryTypes.end(), name) != kElementaryTypes.end())
        return std::string(name);
    if (name == "string" || name == "wstring") {
        const std::string length = t.attribute("length").value();
        const char* word = name == "string" ? "STRING" : "WSTRING";
        return length.empty() ? word : fmt::format("{}[{}]", word, reading_.expression(t, length, "the length"));
    }
    if (name == "derived") return reading_.dotted(t, "name");
    if (name == "array") return array(t);
    if (name == "struct") return structure(t);
    if (name == "enum") return enumeration(t);
    if (name == "pointer") {
        const pugi::xml_node base = reading_.child(t, "baseType");
        const std::string element = base ? type_within(base) : "";
        return element.empty() ? "" : fmt::format("REF_TO {}", element);
    }
    if (name == "subrangeSigned" || name == "subrangeUnsigned") {
        const pugi::xml_node range = reading_.child(t, "range"), base = reading_.child(t, "baseType");
        const std::string element = base ? type_within(base) : "INT";
        return fmt::format("{} ({}..{})", element,
                           reading_.expression(t, range.attribute("lower").value(), "the lower bound"),
                           reading_.expression(t, range.attribute("upper").value(), "the upper bound"));
    }
    if (name.starts_with("ANY")) return std::string(name);
    reading_.error(t, Code::UnknownType, fmt::format("<{}> is not a type of the format", name));
    return {};
}

std::string DeclarationReading::array(pugi::xml_node node) {
    std::vector<std::string> ranges;
    for (const pugi::xml_node d : reading_.children(node, "dimension")) {
        const std::string lower = d.attribute("lower").value(), upper = d.attribute("upper").value();
        if (lower == "*" && upper == "*") {
            ranges.emplace_back("*");
        } else {
            ranges.push_back(fmt::format("{}..{}", reading_.expression(d, lower, "the lower bound"),
                                         reading_.expression(d, upper, "the upper bound")));
        }
    }
    const pugi::xml_node base = reading_.child(node, "baseType");
    const std::string element = base ? type_within(base) : "";
    if (ranges.empty() || element.empty()) {
        if (ranges.empty()) reading_.error(node, Code::MissingKey, "an <array> needs a <dimension>");
        if (!base) reading_.error(node, Code::MissingKey, "an <array> needs a <baseType>");
        return {};
    }
    return fmt::format("ARRAY [{}] OF {}", fmt::join(ranges, ", "), element);
}

std::string DeclarationReading::structure(pugi::xml_node node) {
    std::string out = "STRUCT\n";
    for (const pugi::xml_node v : reading_.children(node, "variable")) {
        TextMaker field;
        variable(v, field);
        if (field.empty()) return {};
        std::string text = field.source("")->text;
        text.pop_back();
        out += fmt::format("{}\n", indented(text));
    }
    out.append("END_STRUCT");
    return out;
}

std::string DeclarationReading::enumeration(pugi::xml_node node) {
    std::vector<std::string> values;
    for (const pugi::xml_node v : reading_.children(reading_.child(node, "values"), "value")) {
        const std::string name = reading_.name(v), value = v.attribute("value").value();
        if (name.empty()) return {};
        values.push_back(value.empty() ? name
                                       : fmt::format("{} := {}", name, reading_.expression(v, value, "the value")));
    }
    if (values.empty()) {
        reading_.error(node, Code::MissingKey, "an <enum> needs its <values>");
        return {};
    }
    const pugi::xml_node base = reading_.child(node, "baseType");
    return fmt::format("{}{}({})", base ? type_within(base) : "", base ? " " : "", fmt::join(values, ", "));
}

std::string DeclarationReading::value(pugi::xml_node holder) {
    const pugi::xml_node initial = reading_.child(holder, "initialValue");
    return initial ? one_value(initial) : "";
}

std::string DeclarationReading::one_value(pugi::xml_node node) {
    const std::vector<pugi::xml_node> found = reading_.elements(node);
    if (found.size() != 1) {
        reading_.error(node, Code::Syntax,
                       fmt::format("<{}> holds one value, found {}", local_name(node), found.size()));
        return {};
    }
    const pugi::xml_node v = found[0];
    reading_.read(v);
    if (local_name(v) == "simpleValue") return reading_.expression(v, v.attribute("value").value(), "the value");
    const bool array = local_name(v) == "arrayValue";
    if (!array && local_name(v) != "structValue") {
        reading_.error(v, Code::Syntax, fmt::format("<{}> is not a value of the format", local_name(v)));
        return {};
    }
    std::vector<std::string> parts;
    for (const pugi::xml_node part : reading_.children(v, "value")) {
        const std::string text = one_value(part);
        const std::string times = part.attribute("repetitionValue").value();
        if (!array) {
            parts.push_back(fmt::format("{} := {}", reading_.name(part, "member"), text));
        } else if (times.empty() || times == "1") {
            parts.push_back(text);
        } else {
            parts.push_back(fmt::format("{}({})", reading_.expression(part, times, "the repetition"), text));
        }
    }
    return fmt::format("{}{}{}", array ? "[" : "(", fmt::join(parts, ", "), array ? "]" : ")");
}

}  // namespace vyard::files
