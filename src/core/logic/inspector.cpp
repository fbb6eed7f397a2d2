#include "core/logic/inspector.hpp"

#include <algorithm>

#include "core/logic/check/model.hpp"
#include "core/logic/value.hpp"

namespace vyard::logic {

namespace {

constexpr int kDeepestBlock = 8;  ///< Blocks within blocks that are looked into.

void add_unit(const CheckedLogic& logic, UnitPlace place, int depth, std::vector<UnitPlace>& out) {
    if (place.layout->unit == nullptr || depth > kDeepestBlock) return;
    out.push_back(place);
    for (const Field& f : place.layout->fields) {
        if (!f.type.is(Elementary::Block) || f.binding.space != Space::Instance || f.section == Section::InOut)
            continue;
        UnitPlace inner{place.path + "." + f.name, &logic.block(f.type.index), place.bases};
        inner.bases.instance += f.binding.offset;
        add_unit(logic, std::move(inner), depth + 1, out);
    }
}

}  // namespace

std::vector<UnitPlace> unit_places(const Program& program) {
    std::vector<UnitPlace> out;
    if (program.checked == nullptr) return out;
    for (const ProgramPlace& p : program.programs) {
        UnitPlace place{p.name, &program.checked->block(p.block), {}};
        place.bases.inputs = program.inputs.begin;
        place.bases.outputs = program.outputs.begin;
        place.bases.markers = program.markers.begin;
        place.bases.globals = program.globals_begin;
        place.bases.instance = p.offset;
        add_unit(*program.checked, std::move(place), 0, out);
    }
    return out;
}

bool computable(const Expression& e) {
    if (e.binding.space == Space::Frame) return false;
    if (e.kind == ExpressionKind::Call && e.call != CallKind::Standard) return false;
    if (e.kind == ExpressionKind::This || e.kind == ExpressionKind::Super) return false;
    const auto fine = [&](const ExpressionPtr& o) { return !o || computable(*o); };
    return std::all_of(e.operands.begin() + (e.kind == ExpressionKind::Call ? 1 : 0), e.operands.end(), fine) &&
           std::all_of(e.arguments.begin(), e.arguments.end(), [&](const Argument& a) { return fine(a.value); });
}

std::optional<Value> Inspector::value(const Expression& e, const Bases& bases) {
    const Elementary type = e.type.elementary;
    if (!is_scalar(type) || !computable(e)) return std::nullopt;
    CodeWriter writer(static_cast<std::uint32_t>(end_));
    const std::uint32_t result = writer.keep(8);
    ExpressionWriter(writer, bases, program_.checked.get()).into(e, result);
    writer.emit(Op::End, 0, 0, 0, {});
    memory_.resize(end_);
    writer.fill(memory_);
    const CodeView view{writer.code.data(), nullptr, 0, writer.tables.data()};
    if (execute(view, 0, memory_.data(), now_ns_, 0).outcome != Outcome::Done) return std::nullopt;
    return read_value(memory_.data(), type, result, -1);
}

}  // namespace vyard::logic
