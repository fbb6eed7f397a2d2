#include "files/exchange/reading.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/logic/logic.hpp"
#include "files/exchange/names.hpp"

namespace vyard::files {

using base::Code;

namespace {

/// Where things stand and who wrote the file: nothing that logic is made of.
constexpr auto kLayout =
    std::to_array<std::string_view>({"fileHeader", "contentHeader", "position", "relPosition", "coordinateInfo"});

/// Attributes that change what an element means, and which elements they are read of.
struct MeaningfulAttribute {
    const char* name;
    std::string_view read_of;  ///< Names with blanks around them.
};
constexpr auto kMeaningful = std::to_array<MeaningfulAttribute>({
    {"negated", " contact coil inVariable outVariable variable "},
    {"negatedIn", " inOutVariable "},
    {"negatedOut", " inOutVariable "},
    {"edge", " contact coil variable "},
    {"storage", " contact coil "},
});

bool is_identifier(std::string_view text) {
    const auto letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; };
    if (text.empty() || !letter(text.front())) return false;
    return std::all_of(text.begin(), text.end(), [&](char c) { return letter(c) || (c >= '0' && c <= '9'); });
}

}  // namespace

void Reading::error(pugi::xml_node at, Code code, std::string message, std::string hint) {
    diagnostics_.error(code, xml_.place(at), std::move(message), std::move(hint));
}
void Reading::warning(pugi::xml_node at, Code code, std::string message, std::string hint) {
    diagnostics_.warning(code, xml_.place(at), std::move(message), std::move(hint));
}

pugi::xml_node Reading::child(pugi::xml_node node, std::string_view name) {
    const pugi::xml_node found = files::child(node, name);
    if (found) read(found);
    return found;
}

std::vector<pugi::xml_node> Reading::children(pugi::xml_node node, std::string_view name) {
    std::vector<pugi::xml_node> found = files::children(node, name);
    for (const pugi::xml_node c : found) read(c);
    return found;
}

std::vector<pugi::xml_node> Reading::elements(pugi::xml_node node) {
    std::vector<pugi::xml_node> out;
    for (const pugi::xml_node c : node.children()) {
        const std::string_view name = local_name(c);
        if (c.type() == pugi::node_element && name != "documentation" && name != "addData") out.push_back(c);
    }
    return out;
}

pugi::xml_node Reading::own(pugi::xml_node node, std::string_view name) {
    for (const pugi::xml_node data : files::children(files::child(node, "addData"), "data")) {
        if (name != data.attribute("name").value()) continue;
        read(data);
        return data;
    }
    return {};
}

std::string Reading::name(pugi::xml_node node, const char* attribute) {
    std::string text = node.attribute(attribute).value();
    if (is_identifier(text)) return text;
    error(node, Code::Syntax,
          text.empty() ? fmt::format("<{}> has no {}", local_name(node), attribute)
                       : fmt::format("'{}' cannot be the name of something", text.substr(0, 60)),
          "names are made of letters, digits and _");
    return {};
}

std::string Reading::dotted(pugi::xml_node node, const char* attribute) {
    std::string text = node.attribute(attribute).value();
    std::string_view rest = text;
    while (true) {
        const std::size_t dot = rest.find('.');
        if (!is_identifier(rest.substr(0, dot))) break;
        if (dot == std::string_view::npos) return text;
        rest.remove_prefix(dot + 1);
    }
    return name(node, attribute);
}

std::string Reading::expression(pugi::xml_node node, std::string text, const char* what) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == '\n' || c == '\r' || c == '\t'; }, ' ');
    const std::size_t first = text.find_first_not_of(' ');
    text = first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(' ') - first + 1);
    base::Diagnostics ignored;
    const base::SourcePtr piece = base::make_source("", text);
    int depth = 0;
    bool sound = !text.empty() && logic::comments_of(piece).empty();
    for (const logic::Token& t : logic::tokenize(piece, ignored)) {
        const bool symbol = t.kind == logic::TokenKind::Symbol;
        if (symbol && (t.text == "(" || t.text == "[")) ++depth;
        if (symbol && (t.text == ")" || t.text == "]") && --depth < 0) sound = false;
        if ((symbol && t.text == ";") || t.kind == logic::TokenKind::Drawing) sound = false;
    }
    if (sound && depth == 0 && !ignored.has_errors()) return text;
    error(node, Code::Syntax,
          text.empty() ? fmt::format("{} is missing", what)
                       : fmt::format("{} '{}' is not a valid expression", what, text.substr(0, 60)));
    return {};
}

std::string Reading::documentation(pugi::xml_node node) {
    const pugi::xml_node found = child(node, "documentation");
    if (!found) return {};
    std::string text = xml_.text(found);
    const PlacedLines lines = xml_.lines(found);
    const bool above = lines.size() > 1 && lines.back().text.empty() &&
                       lines.front().text.find_first_not_of(" \t") != std::string::npos;
    if (above && !text.empty()) text += "\n";
    return text;
}

void Reading::left_out() {
    left_out(xml_.root());
    for (const Addition& a : additions_)
        warning(a.first, Code::NotSupported,
                fmt::format("the addition '{}' of another maker is left out{}", a.name.substr(0, 100),
                            a.count > 1 ? fmt::format(" ({} places)", a.count) : ""));
    for (const Addition& u : unknown_)
        warning(u.first, Code::NotSupported,
                fmt::format("<{}> is not read and left out{}", u.name.substr(0, 100),
                            u.count > 1 ? fmt::format(" ({} places)", u.count) : ""));
}

void Reading::added(pugi::xml_node node) {
    for (const pugi::xml_node data : files::children(node, "data")) {
        if (read_.contains(data.internal_object())) continue;
        const std::string name = data.attribute("name").value();
        const auto found =
            std::find_if(additions_.begin(), additions_.end(), [&](const Addition& a) { return a.name == name; });
        if (found == additions_.end()) {
            additions_.push_back({name, data, 1});
        } else {
            ++found->count;
        }
    }
}

/// What is read over may not turn the meaning round.
void Reading::attributes(pugi::xml_node node) {
    for (const MeaningfulAttribute& m : kMeaningful) {
        const std::string_view value = node.attribute(m.name).value();
        const bool plain = value.empty() || value == "false" || value == "0" || value == "none";
        if (plain || m.read_of.find(fmt::format(" {} ", local_name(node))) != std::string_view::npos) continue;
        error(node, Code::NotSupported,
              fmt::format("{}=\"{}\" of <{}> is not read", m.name, value.substr(0, 40), local_name(node)),
              "say it with an element of its own: a block, a contact or a coil");
    }
}

void Reading::left_out(pugi::xml_node node) {
    attributes(node);
    for (const pugi::xml_node c : node.children()) {
        if (c.type() != pugi::node_element) continue;
        const std::string_view name = local_name(c);
        if (std::find(kLayout.begin(), kLayout.end(), name) != kLayout.end()) continue;
        if (name == "addData") {
            added(c);
        } else if (read_.contains(c.internal_object())) {
            if (name != "documentation") left_out(c);
        } else {
            const auto found =
                std::find_if(unknown_.begin(), unknown_.end(), [&](const Addition& a) { return a.name == name; });
            if (found == unknown_.end()) {
                unknown_.push_back({std::string(name), c, 1});
            } else {
                ++found->count;
            }
        }
    }
}

// --- text ---

void TextMaker::line(std::string text, const base::LineOrigin& origin) {
    const std::string indent(static_cast<std::size_t>(indent_) * 4, ' ');
    lines_.push_back({text.empty() ? "" : fmt::format("{}{}", indent, text), origin});
}

void TextMaker::verbatim(const PlacedLines& lines) {
    lines_.insert(lines_.end(), lines.begin(), lines.end());
}

std::string comment_text(const std::string& text) {
    const bool marks = text.find("*)") != std::string::npos || text.find("(*") != std::string::npos;
    if (!marks) return fmt::format("(* {} *)", text);
    std::string out = "// ";
    for (const char c : text) {
        out += c;
        if (c == '\n') out += "// ";
    }
    return out;
}

void TextMaker::comment(const std::string& text, const base::LineOrigin& origin) {
    if (text.empty()) return;
    std::string_view shown = text;
    while (shown.ends_with('\n')) shown.remove_suffix(1);
    documented(comment_text(std::string(shown)), "", origin);
}

void TextMaker::documented(const std::string& text, const std::string& documentation, const base::LineOrigin& origin) {
    const std::size_t cut = documentation.rfind('\n');
    if (cut != std::string::npos) comment(documentation.substr(0, cut), origin);
    const std::string behind = cut == std::string::npos ? documentation : documentation.substr(cut + 1);
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string row(text, at, end - at);
        const bool last = end == text.size();
        line(last && !behind.empty() ? fmt::format("{}  {}", row, comment_text(behind)) : row, origin);
        at = end + 1;
    }
}

void TextMaker::blank() {
    if (!lines_.empty() && !lines_.back().text.empty()) lines_.push_back({"", lines_.back().origin});
}

void TextMaker::append(const TextMaker& other) {
    const std::string indent(static_cast<std::size_t>(indent_) * 4, ' ');
    for (const PlacedLine& l : other.lines_) {
        lines_.push_back(l);
        if (l.text.empty() || indent_ == 0) continue;
        PlacedLine& added = lines_.back();
        added.text.insert(0, indent);
        if (added.origin.exact) added.origin.column -= static_cast<int>(indent.size());
        for (auto& [from, shift] : added.origin.shifts) from += static_cast<int>(indent.size());
    }
}

base::SourcePtr TextMaker::source(const std::string& path) const {
    base::SourceText out{path, "", {}};
    for (const PlacedLine& l : lines_) {
        out.text.append(l.text);
        out.text += '\n';
        out.origins.push_back(l.origin);
    }
    return std::make_shared<const base::SourceText>(std::move(out));
}

}  // namespace vyard::files
