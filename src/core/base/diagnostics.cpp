#include "core/base/diagnostics.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <map>

#include "core/base/at.hpp"

namespace vyard::base {

namespace {

struct CodeText {
    const char* name;
    const char* meaning;
};

constexpr auto kCodes = std::to_array<CodeText>({
#define VYARD_CODE(id, name, meaning) {name, meaning},
    VYARD_DIAGNOSTIC_CODES(VYARD_CODE)
#undef VYARD_CODE
});

int distance(std::string_view a, std::string_view b) {
    std::vector<int> before(b.size() + 1), last(b.size() + 1), row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) last[j] = static_cast<int>(j);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        row[0] = static_cast<int>(i);
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const int swap = a[i - 1] == b[j - 1] ? 0 : 1;
            row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + swap});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
                row[j] = std::min(row[j], before[j - 2] + 1);
            }
        }
        before = last;
        last = row;
    }
    return last[b.size()];
}

}  // namespace

const char* code_name(Code code) {
    return base::at(kCodes, code).name;
}
const char* code_meaning(Code code) {
    return base::at(kCodes, code).meaning;
}
int code_count() {
    return static_cast<int>(kCodes.size());
}

const char* severity_name(Severity severity) {
    static constexpr const char* kNames[] = {"error", "warning", "remark"};
    return base::at(kNames, severity);
}

void Diagnostics::error(Code code, Place place, std::string message, std::string hint) {
    add({Severity::Error, code, std::move(place), std::move(message), std::move(hint)});
}

namespace {

/// A comment on the line, or on the one above, that says "allow CODE: reason".
bool allowed(Code code, const Place& place) {
    if (!place.known() || place.line < 1) return false;
    const std::string mark = fmt::format("allow {}:", code_name(code));
    for (const int line : {place.line, place.line - 1}) {
        if (line < 1) continue;
        const std::string_view text = place.source->line(line);
        const std::size_t at = text.find(mark);
        if (at == std::string_view::npos) continue;
        std::string_view reason = text.substr(at + mark.size());
        while (!reason.empty() && (reason.back() == ')' || reason.back() == '*' || reason.back() == ' '))
            reason.remove_suffix(1);
        if (!trimmed(reason).empty()) return true;
    }
    return false;
}

}  // namespace

void Diagnostics::warning(Code code, Place place, std::string message, std::string hint) {
    if (allowed(code, place)) return;
    add({Severity::Warning, code, std::move(place), std::move(message), std::move(hint)});
}

void Diagnostics::remark(Code code, Place place, std::string message, std::string hint) {
    add({Severity::Remark, code, std::move(place), std::move(message), std::move(hint)});
}

void Diagnostics::add(Diagnostic diagnostic) {
    int& count = diagnostic.severity == Severity::Error     ? error_count_
                 : diagnostic.severity == Severity::Warning ? warning_count_
                                                            : remark_count_;
    if (++count <= kMaxErrors) list_.push_back(std::move(diagnostic));
}

void Diagnostics::sort() {
    std::map<const SourceText*, int> order;
    for (const auto& d : list_) order.emplace(d.place.source.get(), static_cast<int>(order.size()));
    std::stable_sort(list_.begin(), list_.end(), [&](const Diagnostic& a, const Diagnostic& b) {
        const int file_a = order[a.place.source.get()];
        const int file_b = order[b.place.source.get()];
        return std::tie(file_a, a.place.line, a.place.column) < std::tie(file_b, b.place.line, b.place.column);
    });
}

namespace {

/// Bytes of the character at `at`: of well-formed UTF-8 1 to 4, else 0.
std::size_t character_length(std::string_view text, std::size_t at) {
    const auto byte = [&](std::size_t i) {
        return at + i < text.size() ? static_cast<unsigned char>(text[at + i]) : 0U;
    };
    const unsigned first = byte(0);
    if (first < 0x80U) return 1;
    const std::size_t length = first >= 0xC2U && first < 0xE0U   ? 2U
                               : first >= 0xE0U && first < 0xF0U ? 3U
                               : first >= 0xF0U && first < 0xF5U ? 4U
                                                                 : 0U;
    for (std::size_t i = 1; i < length; ++i) {
        if ((byte(i) & 0xC0U) != 0x80U) return 0;
    }
    // Forms longer than needed, surrogates, and what lies beyond U+10FFFF (RFC 3629, 3 and 4).
    const unsigned second = byte(1);
    if ((first == 0xE0U && second < 0xA0U) || (first == 0xEDU && second > 0x9FU) ||
        (first == 0xF0U && second < 0x90U) || (first == 0xF4U && second > 0x8FU))
        return 0;
    return length;
}

/// The character at `at` as a terminal may get it, appended; and its bytes.
std::size_t append_shown(std::string& out, std::string_view text, std::size_t at) {
    const std::size_t length = character_length(text, at);
    const auto code = static_cast<unsigned char>(text[at]);
    // C1 controls are control characters too: U+0080 to U+009F, in UTF-8 C2 80 to C2 9F.
    const bool c1 = length == 2 && code == 0xC2U && static_cast<unsigned char>(text[at + 1]) < 0xA0U;
    if (length == 0 || c1 || (code < 0x20U && code != '\t' && code != '\n') || code == 0x7FU) {
        out.append(fmt::format("\\x{:02X}", c1 ? static_cast<unsigned char>(text[at + 1]) : code));
        return std::max<std::size_t>(length, 1);
    }
    out.append(text.substr(at, length));
    return length;
}

constexpr std::size_t kEchoed = 160;  ///< Bytes of a line that are shown; of a longer one what is around the mark.

/// The line of a place and the mark under it.
std::string echo(std::string_view line, std::size_t column, std::size_t length) {
    std::size_t from = 0, to = line.size();
    if (line.size() > kEchoed) {
        from = column > kEchoed / 2 ? std::min(column - kEchoed / 2, line.size()) : 0;
        while (from > 0 && from < line.size() && (static_cast<unsigned char>(line[from]) & 0xC0U) == 0x80U) --from;
        to = std::min(line.size(), from + kEchoed);
        while (to < line.size() && (static_cast<unsigned char>(line[to]) & 0xC0U) == 0x80U) ++to;
    }
    std::string text(from > 0 ? "..." : ""), marks(from > 0 ? "   " : "");
    // Columns and lengths count bytes; a character of several stands under one mark, a shown control under four.
    for (std::size_t i = from; i < to;) {
        const std::size_t before = text.size();
        const std::size_t bytes = append_shown(text, line, i);
        const std::size_t wide = text[before] == '\\' && line[i] != '\\' ? text.size() - before : 1;
        const bool marked = i + bytes > column && i < column + length;
        const bool first = marked && i <= column;
        for (std::size_t w = 0; w < wide; ++w)
            marks += marked ? (first && w == 0 ? '^' : '~') : line[i] == '\t' ? '\t' : ' ';
        i += bytes;
    }
    if (to < line.size()) text += "...";
    if (column >= to) marks += std::string(column - to, ' ') + '^';  // behind the end of the line
    for (std::size_t i = std::max(column + 1, to); i < std::min(column + length, to + 3); ++i) marks += '~';
    while (!marks.empty() && marks.back() == ' ') marks.pop_back();
    return fmt::format("    {}\n    {}\n", text, marks);
}

}  // namespace

std::size_t first_not_utf8(std::string_view text) {
    for (std::size_t at = 0; at < text.size();) {
        if (static_cast<unsigned char>(text[at]) < 0x80U) {
            ++at;
            continue;
        }
        const std::size_t length = character_length(text, at);
        if (length == 0) return at;
        at += length;
    }
    return std::string_view::npos;
}

std::string shown(std::string_view text) {
    std::string out;
    out.reserve(text.size());
    for (std::size_t i = 0; i < text.size();) i += append_shown(out, text, i);
    return out;
}

std::string Diagnostics::render(const Diagnostic& d) {
    const std::string where = shown(d.place.text());
    std::string out = fmt::format("{}{}{}: {} [{}]\n", where, where.empty() ? "" : ": ", severity_name(d.severity),
                                  shown(d.message), code_name(d.code));
    if (d.place.known() && d.place.line > 0) {
        const std::string_view line = d.place.source->line(d.place.line);
        out += echo(line, static_cast<std::size_t>(std::max(d.place.column, 1)) - 1,
                    static_cast<std::size_t>(std::max(d.place.length, 1)));
    }
    if (!d.hint.empty()) out += fmt::format("    hint: {}\n", shown(d.hint));
    return out;
}

std::string Diagnostics::render() const {
    std::string out;
    for (const auto& d : list_) out += render(d);
    for (const auto& [count, what] :
         {std::pair(error_count_, "error"), {warning_count_, "warning"}, {remark_count_, "remark"}}) {
        const int more = count - kMaxErrors;
        if (more > 0) out += fmt::format("... and {} more {}{}\n", more, what, more == 1 ? "" : "s");
    }
    return out;
}

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == '\t')) text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.remove_suffix(1);
    return text;
}

std::string fold(std::string_view text) {
    std::string out(text);
    for (char& c : out) {
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    }
    return out;
}

std::string nearest_name(std::string_view wrong, const std::vector<std::string>& known) {
    const std::string folded = fold(wrong.substr(0, 200));
    const int limit = std::max(1, static_cast<int>(folded.size()) / 3);
    int best = limit + 1;
    std::string found;
    for (const auto& name : known) {
        const int length_gap = std::abs(static_cast<int>(name.size()) - static_cast<int>(folded.size()));
        if (length_gap >= best) continue;
        const int d = distance(folded, fold(name));
        if (d < best) {
            best = d;
            found = name;
        }
    }
    return found;
}

std::string with_article(std::string_view word) {
    const bool vowel = !word.empty() && std::string_view("aeioAEIO").find(word.front()) != std::string_view::npos;
    return fmt::format("{} {}", vowel || word.starts_with("hour") ? "an" : "a", word);
}

namespace {

/// What a name may be short for: "stop_pb" for "io.stop_pb" where one namespace alone has it, "pid" for the shortest
/// name that begins so.
std::string longer_name(std::string_view wrong, const std::vector<std::string>& known) {
    const std::string folded = fold(wrong.substr(0, 200));
    if (folded.size() < 3) return {};
    const std::string* within = nullptr;
    const std::string* begins = nullptr;
    for (const std::string& name : known) {
        const std::string other = fold(name);
        if (other == folded) return {};
        if (other.ends_with(fmt::format(".{}", folded))) {
            if (within != nullptr) return {};
            within = &name;
        }
        if (other.starts_with(folded) && (begins == nullptr || name.size() < begins->size())) begins = &name;
    }
    return within != nullptr ? *within : begins != nullptr ? *begins : std::string();
}

}  // namespace

std::string name_hint(std::string_view wrong, const std::vector<std::string>& known) {
    const std::string longer = longer_name(wrong, known);
    const std::string near = longer.empty() ? nearest_name(wrong, known) : longer;
    if (!near.empty()) return fmt::format("did you mean '{}'?", near);
    if (known.empty() || known.size() > 12) return {};
    return fmt::format("known: {}", fmt::join(known, ", "));
}

}  // namespace vyard::base
