#include "core/plant/kinds/text_commands.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <optional>
#include <utility>
#include <vector>

namespace vyard::plant {

namespace {

std::vector<std::string> words_of(std::string_view line) {
    std::vector<std::string> words;
    bool inside = false;
    for (const char c : line) {
        const bool gap = c == ' ' || c == '\t';
        if (!gap && !inside) words.emplace_back();
        if (!gap) words.back() += c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c;
        inside = !gap;
    }
    return words;
}

/// The whole of `text` as a number.
template <class T>
std::optional<T> number_in(const std::string& text) {
    T value{};
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size()) return std::nullopt;
    return value;
}

struct VerbForm {
    TextVerb verb;
    std::vector<std::string_view> words;
    std::string_view unit;  ///< Of its value; "" when it takes none.
};

const std::vector<VerbForm>& verb_forms() {
    static const std::vector<VerbForm> all = {
        {TextVerb::Enable, {"ENABLE"}, ""},   {TextVerb::Disable, {"DISABLE"}, ""}, {TextVerb::Home, {"HOME"}, ""},
        {TextVerb::GoBy, {"GO", "BY"}, "MM"}, {TextVerb::Go, {"GO"}, "MM"},         {TextVerb::Run, {"RUN"}, "MM/S"},
        {TextVerb::Speed, {"SPEED"}, "MM/S"}, {TextVerb::Stop, {"STOP"}, ""},       {TextVerb::Reset, {"RESET"}, ""},
        {TextVerb::Where, {"WHERE"}, ""},
    };
    return all;
}

/// The value of the line when it has this form: number, words, and value with its unit where it takes one.
std::optional<double> value_as(const VerbForm& form, const std::vector<std::string>& words) {
    const std::size_t own = 1 + form.words.size();
    if (words.size() != own + (form.unit.empty() ? 0 : 2)) return std::nullopt;
    for (std::size_t i = 0; i < form.words.size(); ++i) {
        if (words[1 + i] != form.words[i]) return std::nullopt;
    }
    if (form.unit.empty()) return 0.0;
    const auto value = number_in<double>(words[own]);
    const bool good = value && *value > -1e6 && *value < 1e6 && words[own + 1] == form.unit;
    return good ? std::optional(*value / 1000.0) : std::nullopt;
}

constexpr int kMostNumber = 999'999;
constexpr std::array<const char*, 7> kErrors = {
    "", "NOT UNDERSTOOD", "NOT ENABLED", "NOT HOMED", "OUT OF TRAVEL", "TOO FAST", "DRIVE FAULT"};

}  // namespace

TextCommand read_text_command(std::string_view line) {
    const std::vector<std::string> words = words_of(line);
    TextCommand command;
    if (words.empty()) return command;
    const auto number = number_in<int>(words[0]);
    if (!number || *number < 0 || *number > kMostNumber) return command;
    command.number = *number;
    for (const VerbForm& form : verb_forms()) {
        const auto value = value_as(form, words);
        if (!value) continue;
        command.verb = form.verb;
        command.value = *value;
        break;
    }
    return command;
}

std::string taken_line(int number) {
    return fmt::format("{} TAKEN", number);
}

std::string done_line(int number, double position_m) {
    const double mm = position_m * 1000.0;
    return fmt::format("{} DONE {:.1f} mm", number, mm > -0.05 && mm < 0.0 ? 0.0 : mm);
}

std::string error_line(int number, TextError error) {
    const auto code = static_cast<std::size_t>(error);
    return fmt::format("{} ERROR {} {}", number, code, kErrors[code]);
}

}  // namespace vyard::plant
