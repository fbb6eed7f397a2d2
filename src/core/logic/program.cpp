#include "core/logic/program.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstring>
#include <limits>

#include "core/logic/machine/text_operations.hpp"
#include "core/logic/text_values.hpp"

namespace vyard::logic {

const Variable* Program::find(std::string_view path) const {
    const auto found = by_path.find(base::fold(path));
    return found == by_path.end() ? nullptr : &variables[static_cast<std::size_t>(found->second)];
}

base::Place Program::place_of(std::uint32_t instruction) const {
    if (instruction >= places.size()) return {};
    const CodePlace& p = places[instruction];
    return place_in(sources[static_cast<std::size_t>(p.source)], p.span);
}

std::string code_text(const Program& program) {
    std::string out;
    for (std::uint32_t i = 0; i < program.code.size(); ++i) {
        const Instruction& in = program.code[i];
        const auto operand = [](std::uint32_t o) {
            return (o & kSelf) != 0 ? fmt::format("self+{}", o & ~kSelf) : fmt::format("{}", o);
        };
        out += fmt::format("{:5}  {:<18} dst={:<6} a={:<6} b={:<6}{} ; {}\n", i, operation_name(in.op()),
                           operand(in.dst), operand(in.a), operand(in.b),
                           in.n() != 0 ? fmt::format(" n={}", in.n()) : "", program.place_of(i).text());
        for (std::uint32_t slots = operand_slots(in); slots > 0; --slots) {
            const Instruction& slot = program.code[++i];
            out += fmt::format("{:5}    {} {} {} {}\n", i, operand(slot.head), operand(slot.dst), operand(slot.a),
                               operand(slot.b));
        }
    }
    return out;
}

namespace {

template <class T>
double load_as_double(const std::byte* at) {
    T value;
    std::memcpy(&value, at, sizeof value);
    return static_cast<double>(value);
}

template <class T>
void store_from_double(std::byte* at, double value) {
    T stored;
    if constexpr (std::is_floating_point_v<T>) {
        stored = static_cast<T>(value);
    } else {
        const double low = static_cast<double>(std::numeric_limits<T>::min());
        const double high = static_cast<double>(std::numeric_limits<T>::max());
        const double rounded = std::nearbyint(value);
        if (!(rounded > low)) {
            stored = rounded <= low ? std::numeric_limits<T>::min() : T{};  // a NaN becomes 0
        } else {
            stored = rounded >= high ? std::numeric_limits<T>::max() : static_cast<T>(rounded);
        }
    }
    std::memcpy(at, &stored, sizeof stored);
}

}  // namespace

double read_number(const std::byte* memory, Elementary type, std::uint32_t offset, int bit) {
    const std::byte* at = memory + offset;
    if (!is_scalar(type)) return 0.0;
    if (bit >= 0) return static_cast<double>((std::to_integer<int>(*at) >> bit) & 1);
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return load_as_double<cpp>(at);
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
    return 0.0;
}

void write_number(std::byte* memory, Elementary type, std::uint32_t offset, int bit, double value) {
    std::byte* at = memory + offset;
    if (!is_scalar(type)) return;
    if (bit >= 0) {
        const auto mask = static_cast<std::byte>(1U << static_cast<unsigned>(bit));
        *at = value != 0.0 ? (*at | mask) : (*at & ~mask);
        return;
    }
    if (type == Elementary::Bool) {
        *at = value != 0.0 ? std::byte{1} : std::byte{0};
        return;
    }
    switch (representation(type)) {
#define VYARD_CASE(name, cpp) \
    case Representation::name: return store_from_double<cpp>(at, value);
        VYARD_NUMBER_TYPES(VYARD_CASE)
#undef VYARD_CASE
    }
}

std::string value_text(Elementary type, double value) {
    if (type == Elementary::Bool) return value != 0.0 ? "TRUE" : "FALSE";
    if (type == Elementary::Real) return fmt::format("{}", static_cast<float>(value));
    if (type == Elementary::Lreal || !std::isfinite(value)) return fmt::format("{}", value);
    if (is_moment(type)) {
        std::array<std::byte, 72> letters{};
        write_text_head(letters.data(), 64, 0);
        const auto ns = static_cast<std::int64_t>(value);
        value_to_text(letters.data(), reinterpret_cast<const std::byte*>(&ns), type, false);
        return read_text(letters.data(), Elementary::String);
    }
    if (is_duration(type)) {
        std::string text = base::time_text(base::Nanoseconds(static_cast<std::int64_t>(value)));
        std::erase(text, ' ');
        return (type == Elementary::Time ? "T#" : "LTIME#") + text;
    }
    return fmt::format("{:.0f}", value);
}

std::string variable_text(const std::byte* memory, const Variable& v) {
    if (is_text(v.type)) return fmt::format("'{}'", read_text(memory + v.offset, v.type));
    return value_text(v.type, read_number(memory, v.type, v.offset, v.bit));
}

}  // namespace vyard::logic
