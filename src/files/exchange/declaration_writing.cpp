// Variables, types and values of our text in the exchange format.
#include <fmt/format.h>

#include <algorithm>

#include "files/exchange/names.hpp"
#include "files/exchange/writing.hpp"

namespace vyard::files {

using logic::Declaration;
using logic::Expression;
using logic::ExpressionKind;
using logic::Section;
using logic::TypeSpec;
using logic::TypeSpecKind;

namespace {

std::string upper(std::string text) {
    for (char& c : text) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
    return text;
}

void named(pugi::xml_node parent, const std::string& name) {
    std::string word = upper(name);
    if (word == "DATE_AND_TIME") word = "DT";
    if (word == "TIME_OF_DAY") word = "TOD";
    const bool elementary = std::find(kElementaryTypes.begin(), kElementaryTypes.end(), word) != kElementaryTypes.end();
    if (elementary || word.starts_with("ANY")) {
        add(parent, word.c_str());
    } else {
        set(add(parent, "derived"), "name", name);
    }
}

const char* list_name(Section section) {
    switch (section) {
        case Section::Input: return "inputVars";
        case Section::Output: return "outputVars";
        case Section::InOut: return "inOutVars";
        case Section::Temp: return "tempVars";
        case Section::External: return "externalVars";
        case Section::Global: return "globalVars";
        case Section::Local: break;
    }
    return "localVars";
}

/// `told`: what documents the names that were declared together with this one.
void variable(pugi::xml_node list, const Declaration& d, const base::SourcePtr& source, Comments& comments,
              std::string& told) {
    pugi::xml_node node = add(list, "variable");
    set(node, "name", d.name);
    if (!d.address.empty()) set(node, "address", d.address);
    const bool structured = d.type->kind == TypeSpecKind::Structure;
    const std::string above = structured ? comments.up_to(d.written.begin) : "";
    add_type(add(node, "type"), *d.type, source, comments);
    if (d.initial) add_value(add(node, "initialValue"), *d.initial, source);
    if (d.edge != logic::Edge::None)
        add_own(node, kOwnEdge, "edge", d.edge == logic::Edge::Rising ? "rising" : "falling");
    std::string around = comments.around(d.written);
    if (!above.empty()) around = fmt::format("{}\n{}", above, around);
    told = around.empty() ? told : around;
    add_documentation(node, told);
}

/// A value that the format has a form for; others stay the text that they are.
bool has_form(const Expression& value) {
    if (value.kind == ExpressionKind::Fields) {
        return std::all_of(value.arguments.begin(), value.arguments.end(),
                           [](const logic::Argument& a) { return a.value && has_form(*a.value); });
    }
    if (value.kind != ExpressionKind::List) return true;
    return std::all_of(value.operands.begin(), value.operands.end(), [](const logic::ExpressionPtr& o) {
        const bool repeats = o->kind == ExpressionKind::Repeat;
        return repeats ? o->operands.size() == 2 && o->operands[1] && has_form(*o->operands[1]) : has_form(*o);
    });
}

/// Each into the list that `list_of` says.
template <class ListOf>
void each_variable(std::span<const Declaration> declarations, const base::SourcePtr& source, Comments& comments,
                   ListOf&& list_of) {
    std::string told;
    std::uint32_t begin = 0;
    for (const Declaration& d : declarations) {
        if (d.written.begin != begin) told.clear();
        begin = d.written.begin;
        variable(list_of(d), d, source, comments, told);
    }
}

}  // namespace

void add_type(pugi::xml_node parent, const TypeSpec& spec, const base::SourcePtr& source, Comments& comments) {
    switch (spec.kind) {
        case TypeSpecKind::Named: return named(parent, spec.name);
        case TypeSpecKind::Text: {
            pugi::xml_node node = add(parent, base::fold(spec.name).c_str());
            if (spec.length) set(node, "length", code_text(source, spec.length->written));
            return;
        }
        case TypeSpecKind::Array: {
            pugi::xml_node node = add(parent, "array");
            for (const auto& [low, high] : spec.ranges) {
                pugi::xml_node dimension = add(node, "dimension");
                set(dimension, "lower", low ? code_text(source, low->written) : "*");
                set(dimension, "upper", high ? code_text(source, high->written) : "*");
            }
            return add_type(add(node, "baseType"), *spec.element, source, comments);
        }
        case TypeSpecKind::Structure: {
            pugi::xml_node node = add(parent, "struct");
            each_variable(spec.fields, source, comments, [&](const Declaration&) { return node; });
            return;
        }
        case TypeSpecKind::Enumeration: {
            pugi::xml_node node = add(parent, "enum"), values = add(node, "values");
            for (const logic::EnumValue& v : spec.values) {
                pugi::xml_node value = add(values, "value");
                set(value, "name", v.name);
                if (v.value) set(value, "value", code_text(source, v.value->written));
            }
            if (!spec.name.empty()) named(add(node, "baseType"), spec.name);
            return;
        }
        case TypeSpecKind::Subrange: {
            const bool is_unsigned = base::fold(spec.name).starts_with('u');
            pugi::xml_node node = add(parent, is_unsigned ? "subrangeUnsigned" : "subrangeSigned");
            pugi::xml_node range = add(node, "range");
            set(range, "lower", code_text(source, spec.ranges[0].first->written));
            set(range, "upper", code_text(source, spec.ranges[0].second->written));
            return named(add(node, "baseType"), spec.name);
        }
        case TypeSpecKind::Reference:
            return add_type(add(add(parent, "pointer"), "baseType"), *spec.element, source, comments);
    }
}

void add_value(pugi::xml_node parent, const Expression& value, const base::SourcePtr& source) {
    const bool list = value.kind == ExpressionKind::List;
    if ((!list && value.kind != ExpressionKind::Fields) || !has_form(value)) {
        set(add(parent, "simpleValue"), "value", code_text(source, value.written));
        return;
    }
    pugi::xml_node node = add(parent, list ? "arrayValue" : "structValue");
    for (const logic::Argument& a : value.arguments) {
        pugi::xml_node part = add(node, "value");
        set(part, "member", a.name);
        add_value(part, *a.value, source);
    }
    for (const logic::ExpressionPtr& o : value.operands) {
        pugi::xml_node part = add(node, "value");
        const bool repeats = o->kind == ExpressionKind::Repeat;
        if (repeats) set(part, "repetitionValue", fmt::format("{}", o->operands[0]->integer));
        add_value(part, repeats ? *o->operands[1] : *o, source);
    }
}

void add_variables(pugi::xml_node parent, std::span<const Declaration> declarations, const base::SourcePtr& source,
                   Comments& comments) {
    pugi::xml_node list;
    const Declaration* last = nullptr;
    each_variable(declarations, source, comments, [&](const Declaration& d) {
        const bool same = last != nullptr && last->section == d.section && last->constant == d.constant &&
                          last->retain == d.retain && last->persistent == d.persistent;
        if (!same) {
            list = add(parent, list_name(d.section));
            if (d.constant) set(list, "constant", "true");
            if (d.retain) set(list, "retain", "true");
            if (d.persistent) set(list, "persistent", "true");
            add_documentation(list, comments.above_section(d.written.begin));
        }
        last = &d;
        return list;
    });
}

}  // namespace vyard::files
