#include "files/exchange/writing.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "files/exchange/names.hpp"

namespace vyard::files {

namespace {

std::vector<std::string> lines_of(std::string_view text) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        std::string line(text.substr(at, end - at));
        while (!line.empty() && (line.back() == ' ' || line.back() == '\t' || line.back() == '\r')) line.pop_back();
        out.push_back(std::move(line));
        at = end + 1;
    }
    return out;
}

}  // namespace

Comments::Comments(base::SourcePtr source) : source_(std::move(source)), comments_(logic::comments_of(source_)) {}

/// Without marks; what follows the first line loses the indent that it shares.
std::string Comments::content(const logic::Extent& comment) const {
    std::string_view text = comment.of(*source_);
    if (text.starts_with("//")) {
        text.remove_prefix(2);
    } else if (!text.starts_with('{')) {
        text.remove_prefix(2);
        if (text.ends_with("*)") || text.ends_with("*/")) text.remove_suffix(2);
    }
    std::vector<std::string> lines = lines_of(text);
    std::size_t indent = std::string::npos;
    for (std::size_t i = 1; i < lines.size(); ++i) {
        if (!lines[i].empty()) indent = std::min(indent, lines[i].find_first_not_of(" \t"));
    }
    std::string out;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const std::size_t cut = i == 0 ? lines[i].find_first_not_of(" \t") : indent;
        if (i > 0) out += '\n';
        if (cut < lines[i].size()) out.append(lines[i], cut, std::string::npos);
    }
    const std::size_t first = out.find_first_not_of('\n');
    return first == std::string::npos ? "" : out.substr(first, out.find_last_not_of('\n') - first + 1);
}

std::string Comments::up_to(std::uint32_t offset) {
    std::string out;
    for (; next_ < comments_.size() && comments_[next_].begin < offset; ++next_) {
        const std::string text = content(comments_[next_]);
        if (text.empty()) continue;
        out.append(out.empty() ? 0 : 1, '\n');
        out.append(text);
    }
    return out;
}

std::string Comments::above_section(std::uint32_t offset) {
    std::uint32_t boundary = 0;
    for (std::size_t i = next_; i < comments_.size() && comments_[i].begin < offset; ++i) {
        const std::uint32_t next = i + 1 < comments_.size() ? std::min(comments_[i + 1].begin, offset) : offset;
        const std::string_view between =
            std::string_view(source_->text).substr(comments_[i].end, next - comments_[i].end);
        if (between.find_first_not_of(" \t\r\n\f") != std::string_view::npos) boundary = comments_[i].end;
    }
    return up_to(boundary);
}

void Comments::pass(std::uint32_t offset) {
    while (next_ < comments_.size() && comments_[next_].begin < offset) ++next_;
}

std::string Comments::around(const logic::Extent& extent) {
    std::string above = up_to(extent.end);
    if (next_ < comments_.size()) {
        const std::string_view between =
            std::string_view(source_->text).substr(extent.end, comments_[next_].begin - extent.end);
        const std::string_view text = comments_[next_].of(*source_);
        const bool behind =
            between.find_first_not_of(" \t") == std::string_view::npos && text.find('\n') == std::string_view::npos;
        if (behind) {
            const std::string described = content(comments_[next_++]);
            return above.empty() ? described : fmt::format("{}\n{}", above, described);
        }
    }
    return above.empty() ? above : fmt::format("{}\n", above);
}

void Writing::warn(const base::SourcePtr& source, logic::Span span, std::string message) {
    diagnostics.warning(base::Code::NotSupported, logic::place_in(source, span), std::move(message));
}

pugi::xml_node add(pugi::xml_node parent, const char* name) {
    return parent.append_child(name);
}

void set(pugi::xml_node node, const char* name, const std::string& value) {
    node.append_attribute(name).set_value(value.c_str());
}

void add_text(pugi::xml_node parent, const std::string& text) {
    pugi::xml_node node = add(parent, "xhtml");
    set(node, "xmlns", std::string(kTextSpace));
    std::string plain = text;
    std::replace(plain.begin(), plain.end(), '\f', ' ');
    node.text().set(plain.c_str());
}

void add_documentation(pugi::xml_node parent, const std::string& text) {
    if (!text.empty()) add_text(add(parent, "documentation"), text);
}

pugi::xml_node add_own(pugi::xml_node parent, std::string_view name, const char* element, const std::string& text) {
    pugi::xml_node list = parent.child("addData");
    if (!list) list = add(parent, "addData");
    pugi::xml_node data = add(list, "data");
    set(data, "name", std::string(name));
    set(data, "handleUnknown", "discard");
    pugi::xml_node node = add(data, element);
    set(node, "xmlns", "");
    if (!text.empty()) node.text().set(text.c_str());
    return node;
}

std::string code_text(const base::SourcePtr& source, const logic::Extent& extent) {
    const base::SourcePtr piece = base::make_source("", std::string(extent.of(*source)));
    std::string out = piece->text;
    for (const logic::Extent& c : logic::comments_of(piece)) {
        for (std::uint32_t i = c.begin; i < c.end; ++i) out[i] = ' ';
    }
    std::string single;
    for (const char c : out) {
        const bool blank = c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\f';
        if (out.find('\'') == std::string::npos && out.find('"') == std::string::npos) {
            if (!blank || (!single.empty() && single.back() != ' ')) single += blank ? ' ' : c;
        } else {
            single += c == '\n' || c == '\r' || c == '\f' ? ' ' : c;
        }
    }
    while (single.ends_with(' ')) single.pop_back();
    return single;
}

}  // namespace vyard::files
