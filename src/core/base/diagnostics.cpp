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

void Diagnostics::error(Code code, Place place, std::string message, std::string hint) {
    if (++error_count_ > kMaxErrors) return;
    add({Severity::Error, code, std::move(place), std::move(message), std::move(hint)});
}

void Diagnostics::warning(Code code, Place place, std::string message, std::string hint) {
    if (++warning_count_ > kMaxErrors) return;
    add({Severity::Warning, code, std::move(place), std::move(message), std::move(hint)});
}

void Diagnostics::add(Diagnostic diagnostic) {
    list_.push_back(std::move(diagnostic));
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

std::string Diagnostics::render(const Diagnostic& d) {
    const std::string where = d.place.text();
    std::string out = fmt::format("{}{}{}: {} [{}]\n", where, where.empty() ? "" : ": ",
                                  d.severity == Severity::Error ? "error" : "warning", d.message, code_name(d.code));
    if (d.place.known() && d.place.line > 0) {
        const std::string_view line = d.place.source->line(d.place.line);
        const auto column = static_cast<std::size_t>(std::max(d.place.column, 1));
        // Columns and lengths count bytes; a character of several stands under one mark.
        const auto begins = [&](std::size_t i) {
            return i >= line.size() || (static_cast<unsigned char>(line[i]) & 0xC0U) != 0x80U;
        };
        std::string indent, marks;
        for (std::size_t i = 0; i + 1 < column; ++i) {
            if (begins(i)) indent += i < line.size() && line[i] == '\t' ? '\t' : ' ';
        }
        const auto length = static_cast<std::size_t>(std::max(d.place.length, 1));
        for (std::size_t i = column; i < column - 1 + length; ++i) {
            if (begins(i)) marks += '~';
        }
        out += fmt::format("    {}\n    {}^{}\n", line, indent, marks);
    }
    if (!d.hint.empty()) out += fmt::format("    hint: {}\n", d.hint);
    return out;
}

std::string Diagnostics::render() const {
    std::string out;
    for (const auto& d : list_) out += render(d);
    if (error_count_ > kMaxErrors) out += fmt::format("... and {} more errors\n", error_count_ - kMaxErrors);
    return out;
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

std::string name_hint(std::string_view wrong, const std::vector<std::string>& known) {
    const std::string near = nearest_name(wrong, known);
    if (!near.empty()) return fmt::format("did you mean '{}'?", near);
    if (known.empty() || known.size() > 12) return {};
    return fmt::format("known: {}", fmt::join(known, ", "));
}

}  // namespace vyard::base
