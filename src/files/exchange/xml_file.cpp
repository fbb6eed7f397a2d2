#include "files/exchange/xml_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>

namespace vyard::files {

using base::Code;

namespace {

constexpr int kMostDepth = 200;  ///< Of elements; programs need some twenty. Walks of the tree call themselves.

constexpr std::array<std::pair<std::string_view, char>, 5> kEntities = {
    {{"amp", '&'}, {"lt", '<'}, {"gt", '>'}, {"quot", '"'}, {"apos", '\''}}};

std::string utf8(unsigned long c) {
    std::string out;
    const auto byte = [&](unsigned long value) { out += static_cast<char>(value); };
    if (c < 0x80) {
        byte(c);
    } else if (c < 0x800) {
        byte(0xC0 | c >> 6);
        byte(0x80 | (c & 0x3F));
    } else if (c < 0x10000) {
        byte(0xE0 | c >> 12);
        byte(0x80 | (c >> 6 & 0x3F));
        byte(0x80 | (c & 0x3F));
    } else {
        byte(0xF0 | c >> 18);
        byte(0x80 | (c >> 12 & 0x3F));
        byte(0x80 | (c >> 6 & 0x3F));
        byte(0x80 | (c & 0x3F));
    }
    return out;
}

/// What stands for `&name;`, "" for nothing known.
std::string expanded(std::string_view name) {
    for (const auto& [known, c] : kEntities) {
        if (name == known) return {c};
    }
    if (!name.starts_with('#')) return {};
    const bool hexadecimal = name.starts_with("#x");
    const std::string_view digits = name.substr(hexadecimal ? 2 : 1);
    unsigned long value = 0;
    const auto [end, failure] =
        std::from_chars(digits.data(), digits.data() + digits.size(), value, hexadecimal ? 16 : 10);
    const bool whole = failure == std::errc{} && end == digits.data() + digits.size() && !digits.empty();
    const bool character = value == '\t' || value == '\n' || value == '\r' || (value >= 0x20 && value < 0xD800) ||
                           (value > 0xDFFF && value <= 0x10FFFF);
    return whole && character ? utf8(value) : std::string();
}

/// What begins with these and ends with those is passed over.
struct Passed {
    std::string_view open, close;
};
constexpr std::array<Passed, 3> kPassed = {{{"<!--", "-->"}, {"<![CDATA[", "]]>"}, {"<?", "?>"}}};

/// Goes through the text once: depth, entities, document types. The library reads it afterwards.
class Guard {
  public:
    explicit Guard(std::string_view text) : text_(text) {}

    struct Finding {
        Code code = Code::Syntax;
        std::size_t at = 0, length = 1;
        std::string message, hint;
    };
    std::vector<Finding> run() {
        while (at_ < text_.size() && found_.size() < 20) {
            if (text_[at_] == '&') {
                entity();
            } else if (text_[at_] == '<') {
                if (!markup()) break;
            } else {
                ++at_;
            }
        }
        return std::move(found_);
    }

  private:
    void entity() {
        const std::size_t end = text_.find_first_of("; <>\"'\n", at_ + 1);
        const bool closed = end != std::string_view::npos && text_[end] == ';';
        const std::string_view name = text_.substr(at_ + 1, closed ? end - at_ - 1 : 0);
        if (!closed) {
            found_.push_back({Code::Syntax, at_, 1, "'&' begins a character's name, which ends with ';'",
                              "write &amp; for the character itself"});
        } else if (expanded(name).empty()) {
            found_.push_back(
                {Code::NotSupported, at_, end - at_ + 1,
                 fmt::format("'&{};' is not expanded: entities of a document are not read", name.substr(0, 40)),
                 "write the characters themselves"});
        }
        at_ = closed ? end + 1 : at_ + 1;
    }

    bool markup() {
        for (const Passed& p : kPassed) {
            if (text_.substr(at_, p.open.size()) != p.open) continue;
            const std::size_t end = text_.find(p.close, at_ + p.open.size());
            at_ = end == std::string_view::npos ? text_.size() : end + p.close.size();
            return true;
        }
        if (text_.substr(at_, 9) == "<!DOCTYPE") {
            found_.push_back({Code::NotSupported, at_, 9,
                              "a document type is not read: nothing is fetched, and no entities are expanded",
                              "leave the <!DOCTYPE ...> out"});
            return false;
        }
        const bool closes = text_.substr(at_, 2) == "</";
        const std::size_t begin = at_;
        char quote = '\0';
        for (++at_; at_ < text_.size(); ++at_) {
            const char c = text_[at_];
            if (quote != '\0') {
                if (c == quote) quote = '\0';
                if (c == '&') {
                    entity();
                    --at_;
                }
            } else if (c == '"' || c == '\'') {
                quote = c;
            } else if (c == '>') {
                break;
            }
        }
        const bool empty = at_ > begin && at_ < text_.size() && text_[at_ - 1] == '/';
        ++at_;
        if (closes) --depth_;
        if (!closes && !empty && ++depth_ > kMostDepth) {
            found_.push_back(
                {Code::TooDeep, begin, 1, fmt::format("elements are nested more than {} deep", kMostDepth), ""});
            return false;
        }
        return true;
    }

    std::string_view text_;
    std::size_t at_ = 0;
    int depth_ = 0;
    std::vector<Finding> found_;
};

}  // namespace

std::size_t find_no_xml(std::string_view text) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    for (std::size_t i = 0; i < text.size();) {
        const unsigned char c = byte(i);
        std::size_t size = 1;
        bool good = c >= 0x20 || c == '\t' || c == '\n' || c == '\r';
        if (c >= 0x80) {
            size = c >= 0xF0 ? 4 : c >= 0xE0 ? 3 : 2;
            good = c >= 0xC2 && c < 0xF5 && i + size <= text.size();
            for (std::size_t k = 1; good && k < size; ++k) good = (byte(i + k) & 0xC0U) == 0x80;
            if (good && size == 3) good = !(c == 0xE0 && byte(i + 1) < 0xA0) && !(c == 0xED && byte(i + 1) >= 0xA0);
            if (good && size == 4) good = !(c == 0xF0 && byte(i + 1) < 0x90) && !(c == 0xF4 && byte(i + 1) >= 0x90);
        }
        if (!good) return i;
        i += size;
    }
    return std::string_view::npos;
}

std::string_view local_name(pugi::xml_node node) {
    const std::string_view name = node.name();
    return name.substr(name.rfind(':') == std::string_view::npos ? 0 : name.rfind(':') + 1);
}

pugi::xml_node child(pugi::xml_node node, std::string_view name) {
    for (const pugi::xml_node c : node.children()) {
        if (local_name(c) == name) return c;
    }
    return {};
}

std::vector<pugi::xml_node> children(pugi::xml_node node, std::string_view name) {
    std::vector<pugi::xml_node> out;
    for (const pugi::xml_node c : node.children()) {
        if (c.type() == pugi::node_element && local_name(c) == name) out.push_back(c);
    }
    return out;
}

std::unique_ptr<XmlFile> XmlFile::read(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::unique_ptr<XmlFile> file(new XmlFile(source));
    const std::string& text = source->text;
    file->line_starts_.push_back(0);
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '\n') file->line_starts_.push_back(i + 1);
    }
    if (!file->sound(diagnostics)) return nullptr;
    const pugi::xml_parse_result result =
        file->document_.load_buffer(text.data(), text.size(), pugi::parse_default, pugi::encoding_utf8);
    if (result && file->root()) return file;
    const auto at = static_cast<std::size_t>(std::max<std::ptrdiff_t>(result.offset, 0));
    diagnostics.error(Code::Syntax, file->place_at(std::min(at, text.empty() ? 0 : text.size() - 1)),
                      fmt::format("this is not well-formed XML: {}",
                                  result ? "it holds no element" : base::fold(result.description())));
    return nullptr;
}

bool XmlFile::sound(base::Diagnostics& diagnostics) const {
    const std::string_view text = source_->text;
    const bool wide = text.substr(0, 2) == "\xFF\xFE" || text.substr(0, 2) == "\xFE\xFF" ||
                      text.substr(0, 200).find('\0') != std::string_view::npos;
    const std::size_t declared = text.substr(0, 200).find("encoding=");
    std::string encoding = "utf-8";
    if (declared != std::string_view::npos && text.starts_with("<?xml")) {
        const std::size_t begin = std::min(declared + 10, text.size());  // behind the quote
        encoding = base::fold(text.substr(begin, text.find_first_of("\"'", begin) - begin));
    }
    if (wide || (encoding != "utf-8" && encoding != "us-ascii" && encoding != "ascii")) {
        diagnostics.error(
            Code::NotSupported, {source_, 1, 1, 1},
            fmt::format("XML is read in UTF-8, not in {}", wide               ? "UTF-16"
                                                           : encoding.empty() ? "an encoding without a name"
                                                                              : encoding.substr(0, 40)),
            "iconv -f ... -t UTF-8 changes it");
        return false;
    }
    if (const std::size_t at = find_no_xml(text); at != std::string_view::npos) {
        diagnostics.error(Code::Syntax, place_at(at), "this character cannot stand in XML",
                          "the file is cut, or is not written in UTF-8");
        return false;
    }
    const auto found = Guard(text).run();
    for (const auto& f : found) diagnostics.error(f.code, place_at(f.at, f.length), f.message, f.hint);
    return found.empty();
}

base::Place XmlFile::place_at(std::size_t offset, std::size_t length) const {
    const auto after = std::upper_bound(line_starts_.begin(), line_starts_.end(), offset);
    const auto line = after - line_starts_.begin();
    const std::size_t start = *std::prev(after);
    return {source_, static_cast<int>(line), static_cast<int>(offset - start) + 1, static_cast<int>(length)};
}

base::Place XmlFile::place(pugi::xml_node node) const {
    const std::ptrdiff_t offset = node.offset_debug();
    if (offset < 0) return {source_, 0, 0, 1};
    const std::size_t length = std::string_view(node.name()).size() + 1;
    return place_at(static_cast<std::size_t>(std::max<std::ptrdiff_t>(offset - 1, 0)), length);
}

base::LineOrigin XmlFile::origin(pugi::xml_node node) const {
    const base::Place at = place(node);
    return {std::max(at.line, 1), std::max(at.column, 1), false, {}};
}

void XmlFile::decode(std::size_t offset, bool plain, PlacedLines& out) const {
    const std::string_view text = source_->text;
    const std::string_view close = plain ? "]]>" : "<";
    const std::size_t end = std::min(text.find(close, offset), text.size());
    const auto begin_line = [&](std::size_t at) {
        const base::Place place = place_at(std::min(at, text.size() - 1));
        out.back().origin = {place.line, place.column, true, {}};
    };
    if (out.empty()) out.emplace_back();
    if (out.back().text.empty()) begin_line(offset);
    for (std::size_t at = offset; at < end; ++at) {
        PlacedLine& line = out.back();
        const char c = text[at];
        if (c == '\n') {
            out.emplace_back();
            begin_line(at + 1);
        } else if (c == '&' && !plain) {
            const std::size_t stop = text.find(';', at);
            const std::string character = expanded(text.substr(at + 1, stop - at - 1));
            line.text.append(character);
            const int before = line.origin.shifts.empty() ? 0 : line.origin.shifts.back().second;
            const int more = static_cast<int>(stop - at + 1) - static_cast<int>(character.size());
            line.origin.shifts.emplace_back(static_cast<int>(line.text.size()) + 1, before + more);
            at = stop;
        } else if (c != '\r') {
            line.text += c;
        }
    }
}

void XmlFile::collect(pugi::xml_node node, PlacedLines& out) const {
    for (const pugi::xml_node c : node.children()) {
        if (c.type() == pugi::node_pcdata || c.type() == pugi::node_cdata) {
            const std::ptrdiff_t offset = c.offset_debug();
            if (offset >= 0) decode(static_cast<std::size_t>(offset), c.type() == pugi::node_cdata, out);
        } else if (c.type() == pugi::node_element) {
            const std::string_view name = local_name(c);
            const bool block = name == "p" || name == "br" || name == "div" || name == "li";
            if (block && !out.empty() && !out.back().text.empty()) out.emplace_back();
            collect(c, out);
        }
    }
}

PlacedLines XmlFile::lines(pugi::xml_node node) const {
    PlacedLines out;
    collect(node, out);
    return out;
}

std::string XmlFile::text(pugi::xml_node node) const {
    std::string out;
    for (const PlacedLine& line : lines(node)) {
        out.append(out.empty() ? 0 : 1, '\n');
        out.append(line.text);
    }
    const std::size_t first = out.find_first_not_of(" \t\n");
    if (first == std::string::npos) return {};
    return out.substr(first, out.find_last_not_of(" \t\n") - first + 1);
}

}  // namespace vyard::files
