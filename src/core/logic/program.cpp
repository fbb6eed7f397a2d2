#include "core/logic/program.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstring>
#include <limits>
#include <numeric>

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

std::optional<base::Nanoseconds> scan_of_tasks(const Program& program) {
    std::int64_t common = 0;
    for (const Task& task : program.tasks) common = std::gcd(common, task.interval.count());
    if (common == 0) return std::nullopt;
    return base::Nanoseconds(common);
}

namespace {

std::string operand_text(std::uint32_t o) {
    return (o & kSelf) != 0 ? fmt::format("self+{}", o & ~kSelf) : fmt::format("{}", o);
}

std::string instruction_text(const Program& program, std::uint32_t i) {
    const Instruction& in = program.code[i];
    std::string out =
        fmt::format("{:5}  {:<18} dst={:<6} a={:<6} b={:<6}{}", i, operation_name(in.op()), operand_text(in.dst),
                    operand_text(in.a), operand_text(in.b), in.n() != 0 ? fmt::format(" n={}", in.n()) : "");
    for (std::uint32_t k = 1; k <= operand_slots(in); ++k) {
        const Instruction& slot = program.code[i + k];
        out += fmt::format(" [{} {} {} {}]", operand_text(slot.head), operand_text(slot.dst), operand_text(slot.a),
                           operand_text(slot.b));
    }
    return out;
}

}  // namespace

std::string explain_line(const Program& program, const std::string& path, int line) {
    std::unordered_map<std::uint32_t, const Variable*> at;
    for (const Variable& v : program.variables) at.emplace(v.offset, &v);
    std::string out;
    for (std::uint32_t i = 0; i < program.code.size(); i += 1 + operand_slots(program.code[i])) {
        const base::Place place = program.place_of(i);
        if (place.line != line || !place.known() || place.source->path != path) continue;
        std::string names;
        const Instruction& in = program.code[i];
        const bool select = in.op() >= Op::SelectI8 && in.op() <= Op::SelectU64;
        const bool jump = in.op() >= Op::Jump && in.op() <= Op::CallMethod;
        const auto name = [&](std::uint32_t operand) {
            const auto found = at.find(operand);
            if (found == at.end() || names.find(found->second->path) != std::string::npos) return;
            names += fmt::format("{}{} is {}", names.empty() ? "" : ", ", operand, found->second->path);
        };
        // Targets of jumps are no variables.
        if (!jump && !select) name(in.dst);
        if (!jump) name(in.a);
        if (!select && (!jump || in.op() == Op::JumpIf || in.op() == Op::JumpUnless)) name(in.b);
        for (std::uint32_t k = 1; k <= operand_slots(in) && !select; ++k) {
            for (const std::uint32_t operand :
                 {program.code[i + k].head, program.code[i + k].dst, program.code[i + k].a, program.code[i + k].b})
                name(operand);
        }
        out += fmt::format("{}\n", instruction_text(program, i));
        out += fmt::format("       {}{}{}\n", operation_effect(in.op()), names.empty() ? "" : "; ", names);
    }
    return out;
}

std::string code_text(const Program& program) {
    std::string out;
    for (std::uint32_t i = 0; i < program.code.size(); i += 1 + operand_slots(program.code[i]))
        out += fmt::format("{} ; {}\n", instruction_text(program, i), program.place_of(i).text());
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
    const double value = read_number(memory, v.type, v.offset, v.bit);
    if (v.names != nullptr) {
        for (const auto& [number, name] : *v.names) {
            if (static_cast<double>(number) == value) return name;
        }
    }
    return value_text(v.type, value);
}

}  // namespace vyard::logic
