#include "core/wiring/stated.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

#include "core/wiring/name_words.hpp"

namespace vyard::wiring {

namespace {

using plant::Contact;
using Words = std::vector<std::string>;

bool has(const Words& words, std::string_view word) {
    return std::find(words.begin(), words.end(), word) != words.end();
}

/// One after the other.
bool has_run(const Words& words, const Words& run) {
    return std::search(words.begin(), words.end(), run.begin(), run.end()) != words.end();
}

/// "NO" in plain letters is a word of every language; in capitals, alone, it is a contact.
bool has_capitals(std::string_view text, std::string_view word) {
    const auto letter = [](char c) { return (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z'); };
    for (std::size_t at = text.find(word); at != std::string_view::npos; at = text.find(word, at + 1)) {
        const std::size_t end = at + word.size();
        if ((at == 0 || !letter(text[at - 1])) && (end == text.size() || !letter(text[end]))) return true;
    }
    return false;
}

std::optional<Contact> contact_in(std::string_view text, bool guards) {
    const Words words = words_of(text);
    const bool closed = has_run(words, {"normally", "closed"}) || has(words, "nc") ||
                        has_run(words, {"true", "at", "rest"}) ||
                        (guards && (has(words, "healthy") || has(words, "ok")));
    const bool open =
        has_run(words, {"normally", "open"}) || has_capitals(text, "NO") || has_run(words, {"false", "at", "rest"});
    if (closed == open) return std::nullopt;
    return closed ? Contact::NormallyClosed : Contact::NormallyOpen;
}

bool any_starts(const Statement& s, const std::vector<std::string>& beginnings) {
    for (const std::string* text : {&s.name, &s.description, &s.note}) {
        for (const std::string& word : words_of(*text)) {
            for (const std::string& beginning : beginnings) {
                if (word.starts_with(beginning)) return true;
            }
        }
    }
    return false;
}

/// The number that ends at `end` of a text, or begins at `begin`, with its unit if it has one of `dimension`.
struct End {
    double number = 0.0;
    std::string unit;
    bool found = false;
};

bool of_number(char c) {
    return (c >= '0' && c <= '9') || c == '.' || c == '-' || c == '+';
}

bool known(std::string_view unit, base::Dimension dimension) {
    const auto reading = base::find_unit(unit);
    return reading && reading->dimension == dimension;
}

End before(std::string_view text, base::Dimension dimension) {
    text = base::trimmed(text);
    std::size_t begin = text.size();
    while (begin > 0 && text[begin - 1] != ' ' && !of_number(text[begin - 1])) --begin;
    End end;
    if (begin < text.size()) {
        if (!known(text.substr(begin), dimension)) return {};
        end.unit = std::string(text.substr(begin));
        text = base::trimmed(text.substr(0, begin));
    }
    begin = text.size();
    while (begin > 0 && of_number(text[begin - 1])) --begin;
    const auto reading = base::read_quantity(text.substr(begin), base::Dimension::Plain);
    if (reading.fault != base::QuantityFault::None) return {};
    return {reading.si_value, end.unit, true};
}

End after(std::string_view text, base::Dimension dimension) {
    text = base::trimmed(text);
    std::size_t number = 0;
    while (number < text.size() && of_number(text[number])) ++number;
    while (number > 0 && text[number - 1] == '.') --number;  // the end of a sentence
    const auto reading = base::read_quantity(text.substr(0, number), base::Dimension::Plain);
    if (reading.fault != base::QuantityFault::None) return {};
    text = base::trimmed(text.substr(number));
    // The longest unit that the text goes on with: "m/s" before "m".
    for (std::size_t length = std::min<std::size_t>(text.size(), 8); length > 0; --length) {
        const bool whole =
            length == text.size() || std::string_view(" ,;:.)=-").find(text[length]) != std::string_view::npos;
        if (whole && known(text.substr(0, length), dimension))
            return {reading.si_value, std::string(text.substr(0, length)), true};
    }
    return {};
}

struct Opposites {
    Words one, other;
};
const std::array<Opposites, 10>& opposites() {
    static const std::array<Opposites, 10> all = {
        {{{"up", "raise", "raised", "top", "upper"}, {"down", "lower", "lowered", "bottom"}},
         {{"extend", "out", "advance", "advanced"}, {"retract", "home", "back"}},
         {{"open"}, {"closed", "shut"}},
         {{"forward", "ahead"}, {"reverse", "backward"}},
         {{"left"}, {"right"}},
         {{"high"}, {"low"}},
         {{"full"}, {"empty"}},
         {{"fill"}, {"drain"}},
         {{"lock", "locked"}, {"unlock", "unlocked"}},
         {{"grip", "gripped"}, {"release", "released"}}}};
    return all;
}

/// The word of one side that a name has; null when it has none, or one of the other side too.
const std::string* one_sided(const Words& name, const Words& side, const Words& other) {
    const std::string* found = nullptr;
    for (const std::string& word : name) {
        if (has(other, word)) return nullptr;
        const auto at = std::find(side.begin(), side.end(), word);
        if (at != side.end()) found = &*at;
    }
    return found;
}

}  // namespace

std::optional<Contact> stated_contact(const Statement& statement, bool guards) {
    for (const std::string* text : {&statement.note, &statement.description, &statement.name}) {
        if (const auto contact = contact_in(*text, guards)) return contact;
    }
    return std::nullopt;
}

bool states_inversion(const Statement& statement) {
    return any_starts(statement, {"invert"});
}

bool states_swapping(const Statement& statement) {
    return any_starts(statement, {"swap"});
}

std::optional<std::pair<double, double>> stated_range(const Statement& statement, base::Dimension dimension) {
    if (dimension == base::Dimension::Plain) return std::nullopt;
    std::optional<std::pair<double, double>> out;
    for (const std::string* text : {&statement.description, &statement.note}) {
        for (const std::string_view between : {std::string_view(".."), std::string_view(" to ")}) {
            for (std::size_t at = text->find(between); at != std::string::npos; at = text->find(between, at + 1)) {
                const End low = before(std::string_view(*text).substr(0, at), dimension);
                const End high = after(std::string_view(*text).substr(at + between.size()), dimension);
                if (!low.found || !high.found) continue;
                const auto si = [&](const End& end) {
                    return base::find_unit(end.unit.empty() ? high.unit : end.unit)->si_factor * end.number;
                };
                const std::pair<double, double> range = std::minmax(si(low), si(high));
                if (out && *out != range) return std::nullopt;
                out = range;
            }
        }
    }
    return out;
}

std::optional<std::pair<std::string, std::string>> opposite_words(std::string_view a, std::string_view b) {
    const Words in_a = words_of(a), in_b = words_of(b);
    for (const Opposites& o : opposites()) {
        const std::string *a_one = one_sided(in_a, o.one, o.other), *a_other = one_sided(in_a, o.other, o.one);
        const std::string *b_one = one_sided(in_b, o.one, o.other), *b_other = one_sided(in_b, o.other, o.one);
        if (a_one != nullptr && b_other != nullptr) return std::pair(*a_one, *b_other);
        if (a_other != nullptr && b_one != nullptr) return std::pair(*a_other, *b_one);
    }
    return std::nullopt;
}

int words_in_common(std::string_view a, std::string_view b) {
    const Words in_a = words_of(a), in_b = words_of(b);
    return static_cast<int>(
        std::count_if(in_a.begin(), in_a.end(), [&](const std::string& word) { return has(in_b, word); }));
}

}  // namespace vyard::wiring
