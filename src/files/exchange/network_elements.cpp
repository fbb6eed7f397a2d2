// The elements of a body that is drawn in an exchange file.
#include <algorithm>

#include "files/exchange/body_reader.hpp"
#include "files/exchange/names.hpp"

namespace vyard::files {

using base::Code;

namespace {

logic::PinEdge edge_of(pugi::xml_node node) {
    const std::string_view edge = node.attribute("edge").value();
    return edge == "rising"    ? logic::PinEdge::Rising
           : edge == "falling" ? logic::PinEdge::Falling
                               : logic::PinEdge::None;
}
bool is_true(pugi::xml_node node, const char* attribute) {
    const std::string_view value = node.attribute(attribute).value();
    return value == "true" || value == "1";
}

}  // namespace

void BodyReader::element(pugi::xml_node node) {
    const std::string_view kind = local_name(node);
    const std::size_t before = elements_.size();
    if (kind == "vendorElement") return;  // left out with a warning; what hangs on it is a mistake
    reading_.read(node);
    if (reading_.own(node, kOwnNetwork)) next_begins_ = true;
    if (kind == "leftPowerRail") {
        // Each of its connection points is the rail.
        known_as(node, "", {kRail, 0});
        for (const pugi::xml_node point : reading_.children(node, "connectionPointOut"))
            producers_.emplace(std::pair(std::string(node.attribute("localId").value()),
                                         base::fold(point.attribute("formalParameter").value())),
                               Producer{kRail, 0});
    } else if (kind == "rightPowerRail") {
        for (const pugi::xml_node point : reading_.children(node, "connectionPointIn"))
            reading_.children(point, "connection");
    } else if (kind == "contact" || kind == "coil") {
        contact_or_coil(node, kind == "contact");
    } else if (kind == "inVariable") {
        variable(node, true, false);
    } else if (kind == "outVariable") {
        variable(node, false, true);
    } else if (kind == "inOutVariable") {
        variable(node, true, true);
    } else if (kind == "jump") {
        line_end(node, ElementKind::Jump, "label");
    } else if (kind == "return") {
        line_end(node, ElementKind::Return, nullptr);
    } else if (kind == "connector") {
        line_end(node, ElementKind::Leave, "name");
    } else if (kind == "continuation") {
        line_end(node, ElementKind::Enter, "name");
    } else if (kind == "block") {
        box(node);
    } else if (kind == "label") {
        labels_.push_back({node, reading_.name(node, "label"), static_cast<int>(elements_.size())});
    } else if (kind == "comment") {
        remark(node);
    } else {
        reading_.error(
            node, Code::NotSupported,
            fmt::format("<{}> is not read in a {}", kind.substr(0, 60), form_ == DrawnForm::Ladder ? "LADDER" : "FBD"));
    }
    if (next_begins_ && elements_.size() > before) {
        begins_.insert(static_cast<int>(before));
        next_begins_ = false;
    }
}

void BodyReader::remark(pugi::xml_node node) {
    const pugi::xml_node content = reading_.child(node, "content");
    for (const pugi::xml_node c : reading_.elements(content)) reading_.read(c);
    std::string text = reading_.xml().text(content);
    const PlacedLines lines = reading_.xml().lines(content);
    if (lines.size() > 1 && lines.back().text.empty()) text += "\n";
    if (!text.empty()) remarks_.push_back({node, text, static_cast<int>(elements_.size()), next_begins_});
}

void BodyReader::contact_or_coil(pugi::xml_node node, bool contact) {
    const std::string name =
        reading_.expression(node, reading_.xml().text(reading_.child(node, "variable")), "the variable");
    if (form_ == DrawnForm::Blocks)
        reading_.error(node, Code::Syntax, fmt::format("a <{}> stands in an <LD>, not in an <FBD>", local_name(node)));
    const int number = add(node, contact ? ElementKind::Contact : ElementKind::Coil, name);
    DrawnElement& e = elements_.back();
    const bool negated = is_true(node, "negated");
    const logic::PinEdge edge = edge_of(node);
    const std::string_view storage = node.attribute("storage").value();
    const int told =
        (negated ? 1 : 0) + (edge != logic::PinEdge::None ? 1 : 0) + (storage == "set" || storage == "reset" ? 1 : 0);
    if (told > 1)
        reading_.error(node, Code::NotSupported,
                       fmt::format("a {} is negated, or looks for an edge, or latches; this one does several",
                                   contact ? "contact" : "coil"),
                       "draw it as two");
    if (contact) {
        e.contact = edge == logic::PinEdge::Rising    ? logic::ContactKind::Rising
                    : edge == logic::PinEdge::Falling ? logic::ContactKind::Falling
                    : negated                         ? logic::ContactKind::Closed
                                                      : logic::ContactKind::Open;
        comparison(e);
    } else {
        e.coil = storage == "set"                  ? logic::CoilKind::Set
                 : storage == "reset"              ? logic::CoilKind::Reset
                 : edge == logic::PinEdge::Rising  ? logic::CoilKind::Rising
                 : edge == logic::PinEdge::Falling ? logic::CoilKind::Falling
                 : negated                         ? logic::CoilKind::Negated
                                                   : logic::CoilKind::Plain;
    }
    input(node, number, 0, reading_.child(node, "connectionPointIn"));
    reading_.child(node, "connectionPointOut");
    known_as(node, "", {number, 1});
}

/// A contact on `a > b` compares.
void BodyReader::comparison(DrawnElement& e) {
    if (e.contact != logic::ContactKind::Open) return;
    base::Diagnostics ignored;
    const base::SourcePtr piece = base::make_source("", e.name.text);
    int depth = 0;
    for (const logic::Token& t : logic::tokenize(piece, ignored)) {
        if (t.kind != logic::TokenKind::Symbol) continue;
        if (t.text == "(" || t.text == "[") ++depth;
        if (t.text == ")" || t.text == "]") --depth;
        const bool compares =
            t.text == "=" || t.text == "<>" || t.text == "<" || t.text == "<=" || t.text == ">" || t.text == ">=";
        if (!compares || depth > 0) continue;
        const auto at = static_cast<std::size_t>(t.text.data() - piece->text.data());
        const auto trimmed = [](std::string_view s) {
            while (s.starts_with(' ')) s.remove_prefix(1);
            while (s.ends_with(' ')) s.remove_suffix(1);
            return std::string(s);
        };
        e.contact = logic::ContactKind::Compare;
        e.comparison = std::string(t.text);
        e.name.text = trimmed(std::string_view(piece->text).substr(0, at));
        e.second.text = trimmed(std::string_view(piece->text).substr(at + t.text.size()));
        return;
    }
}

void BodyReader::variable(pugi::xml_node node, bool in, bool out) {
    std::string text =
        reading_.expression(node, reading_.xml().text(reading_.child(node, "expression")), "the expression");
    const bool negated_in = is_true(node, in && out ? "negatedIn" : "negated");
    if (in) {
        const bool negated = in && out ? is_true(node, "negatedOut") : negated_in;
        const int number = add(node, ElementKind::Source, negated ? fmt::format("NOT ({})", text) : text);
        known_as(node, "", {number, 0});
        reading_.child(node, "connectionPointOut");
    }
    if (out) {
        if (negated_in)
            reading_.error(node, Code::NotSupported, "an output variable with a negation of its own is not read",
                           "negate the pin that leads to it");
        const int number = add(node, ElementKind::Target, text);
        input(node, number, 0, reading_.child(node, "connectionPointIn"));
    }
}

void BodyReader::line_end(pugi::xml_node node, ElementKind kind, const char* attribute) {
    const int number = add(node, kind, attribute == nullptr ? "<RETURN>" : reading_.name(node, attribute));
    if (kind == ElementKind::Enter) {
        known_as(node, "", {number, 0});
        reading_.child(node, "connectionPointOut");
    } else {
        input(node, number, 0, reading_.child(node, "connectionPointIn"));
    }
}

void BodyReader::box(pugi::xml_node node) {
    const char* attribute = node.attribute("instanceName") ? "instanceName" : nullptr;
    std::string instance;
    if (attribute != nullptr && *node.attribute(attribute).value() != '\0')
        instance = reading_.expression(node, node.attribute(attribute).value(), "the instance");
    const std::string type = reading_.dotted(node, "typeName");
    const int number = add(node, ElementKind::Box, instance);
    base::at(elements_, number).type.text = type;
    base::at(elements_, number).order = turns_.back();
    box_pins(node, number, "inputVariables", false);
    box_pins(node, number, "inOutVariables", false);
    box_pins(node, number, "outputVariables", true);
    box_pins(node, number, "inOutVariables", true);
}

/// Whether our drawings leave a pin without its name: a function's result, and what is only counted.
bool BodyReader::unnamed(const DrawnElement& e, const std::string& name, bool output) const {
    if (!e.name.empty()) return false;
    const std::string folded = base::fold(name);
    if (output) return folded.empty() || folded == "out" || folded == base::fold(e.type.text);
    if (folded.empty()) return true;
    const auto inputs = std::count_if(e.pins.begin(), e.pins.end(),
                                      [](const DrawnPin& p) { return !p.output && base::fold(p.name.text) != "en"; });
    const logic::FunctionInfo* function = logic::find_function(e.type.text);
    const std::string_view formal = function != nullptr ? function->formal : "IN";
    const bool counted = formal == "IN1" || formal.starts_with("IN1 IN2");
    if (function == nullptr && !logic::find_conversion(e.type.text)) return false;
    return counted ? folded == fmt::format("in{}", inputs + 1) : formal == "IN" && folded == "in";
}

void BodyReader::box_pins(pugi::xml_node node, int number, const char* list, bool output) {
    const bool both = std::string_view(list) == "inOutVariables";
    for (const pugi::xml_node v : reading_.children(reading_.child(node, list), "variable")) {
        const std::string name = v.attribute("formalParameter").value();
        const pugi::xml_node point = reading_.child(v, output ? "connectionPointOut" : "connectionPointIn");
        DrawnElement& e = base::at(elements_, number);
        DrawnPin pin;
        pin.output = output;
        pin.negated = is_true(v, "negated");
        pin.edge = edge_of(v);
        const bool counted = unnamed(e, name, output);
        if (!counted && !name.empty()) pin.name.text = reading_.name(v, "formalParameter");
        const bool open = !output && children(point, "connection").empty();
        if (open && counted) continue;
        const int p = static_cast<int>(e.pins.size());
        e.pins.push_back(std::move(pin));
        if (output) {
            known_as(node, name, {number, p});
            // The one output of a function need not be named; nor need a block's first.
            producers_.emplace(std::pair(std::string(node.attribute("localId").value()), ""), Producer{number, p});
        } else if (!open) {
            input(v, number, p, point);
        }
        if (both && output && !point) e.pins.pop_back();
    }
}

}  // namespace vyard::files
