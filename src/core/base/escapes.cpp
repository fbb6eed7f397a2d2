#include "core/base/escapes.hpp"

#include <fmt/format.h>

#include <charconv>

namespace vyard::base {

namespace {

bool digit(char c) {
    return c >= '0' && c <= '9';
}

/// "-5", "+0.25 m/s", "-1.5e-3": a sign, a number, perhaps a unit; and "->".
bool number_or_arrow(std::string_view text) {
    if (text == "->") return true;
    std::size_t at = 1;
    const auto digits = [&] {
        const std::size_t first = at;
        while (at < text.size() && digit(text[at])) ++at;
        return at > first;
    };
    if (!digits()) return false;
    if (at < text.size() && text[at] == '.') {
        ++at;
        if (!digits()) return false;
    }
    if (at < text.size() && (text[at] == 'e' || text[at] == 'E')) {
        ++at;
        if (at < text.size() && (text[at] == '-' || text[at] == '+')) ++at;
        if (!digits()) return false;
    }
    if (at == text.size()) return true;
    if (text[at] != ' ') return false;
    return text.find_first_of("=+-*|(!,;'\"&<>@", at) == std::string_view::npos;
}

bool formula(std::string_view text) {
    if (text.empty()) return false;
    const char first = text.front();
    if (first == '=' || first == '@' || first == '\t' || first == '\r') return true;
    return (first == '+' || first == '-') && text.size() > 1 && !number_or_arrow(text);
}

}  // namespace

std::string csv_cell(std::string_view text) {
    const bool defused = formula(text) || (text.size() > 1 && text.front() == '\'' && formula(text.substr(1)));
    std::string plain(defused ? "'" : "");
    plain.append(text);
    // A blank at an end would be taken off by readers.
    const bool blank = !plain.empty() && (plain.front() == ' ' || plain.back() == ' ');
    if (!blank && plain.find_first_of(",;\"\n\r") == std::string::npos) return plain;
    std::string out(1, '"');
    for (const char c : plain) out.append(c == '"' ? 2U : 1U, c);
    out.push_back('"');
    return out;
}

std::string_view without_apostrophe(std::string_view cell) {
    if (cell.size() > 1 && cell.front() == '\'') {
        const std::string_view rest = cell.substr(1);
        if (formula(rest) || (rest.front() == '\'' && formula(rest.substr(1)))) return rest;
    }
    return cell;
}

std::string without_control_references(const std::string& xml) {
    std::string out;
    std::size_t at = 0;
    for (std::size_t found = xml.find("&#"); found != std::string::npos; found = xml.find("&#", found + 2)) {
        unsigned code = 0;
        const char* end = xml.data() + xml.size();
        const auto [rest, failure] = std::from_chars(xml.data() + found + 2, end, code);
        const bool control = failure == std::errc() && rest != end && *rest == ';' && code < 0x20 && code != 9 &&
                             code != 10 && code != 13;
        if (!control) continue;
        out.append(xml, at, found - at).append(fmt::format("\\x{:02X}", code));
        at = static_cast<std::size_t>(rest - xml.data()) + 1;
    }
    return out.append(xml, at, std::string::npos);
}

}  // namespace vyard::base
