#include "core/logic/program.hpp"

#include <fmt/format.h>

#include <numeric>

namespace vyard::logic {

const Variable* Program::find(std::string_view path) const {
    const auto found = by_path.find(base::fold(path));
    return found == by_path.end() ? nullptr : &base::at(variables, found->second);
}

base::Place Program::place_of(std::uint32_t instruction) const {
    if (instruction >= places.size()) return {};
    const CodePlace& p = places[instruction];
    return place_in(base::at(sources, p.source), p.span);
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
        const bool conditional = in.op() >= Op::JumpIf && in.op() <= Op::MarkJumpUnless;
        if (!select && (!jump || conditional)) name(in.b);
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

Value variable_value(const std::byte* memory, const Variable& v) {
    return read_value(memory, v.type, v.offset, v.bit);
}

std::string variable_text(const std::byte* memory, const Variable& v) {
    return value_text(variable_value(memory, v), v.names.get());
}

}  // namespace vyard::logic
