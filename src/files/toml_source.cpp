#include "files/toml_source.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace vyard::files {

using base::Code;

base::Place place_of(const base::SourcePtr& source, const toml::source_region& region, int length) {
    return {source, static_cast<int>(region.begin.line), static_cast<int>(region.begin.column), length};
}

namespace {

/// Tables within tables are read by going down into them, so a name of very many parts would take all of the stack.
/// What stands in quotes is not told apart: no table of a yard comes near the limit.
bool too_nested(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    constexpr std::ptrdiff_t kMostParts = 200;
    const std::string_view text = source->text;
    int number = 0;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        const std::string_view name = text.substr(at, std::min(text.find('=', at), end) - at);
        ++number;
        at = end + 1;
        if (name.starts_with('#') || std::count(name.begin(), name.end(), '.') <= kMostParts) continue;
        diagnostics.error(Code::TooDeep, {source, number, 1, 1},
                          fmt::format("a name of more than {} parts", kMostParts));
        return true;
    }
    return false;
}

}  // namespace

std::optional<toml::table> parse_toml(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    if (too_nested(source, diagnostics)) return std::nullopt;
    try {
        return toml::parse(source->text, source->path);
    } catch (const toml::parse_error& failure) {
        diagnostics.error(Code::Syntax, place_of(source, failure.source()), std::string(failure.description()));
        return std::nullopt;
    }
}

plant::DefinitionValue definition_value(const base::SourcePtr& source, const toml::node& node) {
    using Form = plant::DefinitionValue::Form;
    plant::DefinitionValue out;
    out.place = place_of(source, node.source());
    const toml::source_region& region = node.source();
    if (region.begin.line == region.end.line)
        out.place.length = std::max(1, static_cast<int>(region.end.column) - static_cast<int>(region.begin.column));
    if (const auto* text = node.as_string()) {
        out.form = Form::Text;
        out.text = text->get();
    } else if (const auto* whole = node.as_integer()) {
        out.form = Form::Number;
        out.number = static_cast<double>(whole->get());
    } else if (const auto* real = node.as_floating_point()) {
        out.form = Form::Number;
        out.number = real->get();
    } else if (const auto* flag = node.as_boolean()) {
        out.form = Form::Flag;
        out.flag = flag->get();
    } else if (const auto* list = node.as_array()) {
        out.form = Form::List;
        for (const toml::node& element : *list) out.list.push_back(definition_value(source, element));
    }
    return out;
}

void check_keys(const base::SourcePtr& source, const toml::table& table, const std::vector<std::string>& known,
                const std::string& where, base::Diagnostics& diagnostics) {
    for (const auto& [key, value] : table) {
        const std::string name(key.str());
        if (std::find(known.begin(), known.end(), name) != known.end()) continue;
        diagnostics.error(Code::UnknownKey, place_of(source, key), fmt::format("{} has no '{}'", where, name),
                          base::name_hint(name, known));
    }
}

std::optional<std::string> text_at(const base::SourcePtr& source, const toml::table& table, std::string_view key,
                                   base::Place& place, base::Diagnostics& diagnostics) {
    const toml::node* node = table.get(key);
    if (node == nullptr) return std::nullopt;
    const plant::DefinitionValue value = definition_value(source, *node);
    place = value.place;
    if (value.form == plant::DefinitionValue::Form::Text) return value.text;
    diagnostics.error(Code::WrongValue, value.place, fmt::format("'{}' takes a string in quotes", key));
    return std::nullopt;
}

}  // namespace vyard::files
