// Calls of blocks, functions and methods.
//
// A function has one frame at a fixed place, since nothing calls itself: its arguments are written there, and its
// result read from there. A method may be one of several that a call by interface leads to, so its arguments go through
// a region that all methods of its name share; the method copies them into its own frame and its results back.
#include <algorithm>

#include "core/logic/code/expression_writer.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

bool contains_call(const Expression& e) {
    if (e.kind == ExpressionKind::Call && e.call != CallKind::Standard) return true;
    for (const ExpressionPtr& operand : e.operands) {
        if (operand && contains_call(*operand)) return true;
    }
    for (const Argument& a : e.arguments) {
        if (a.value && contains_call(*a.value)) return true;
    }
    return false;
}

}  // namespace

std::optional<std::uint32_t> ExpressionWriter::enable(const Expression& e) {
    for (const Argument& a : e.arguments) {
        if (a.field != kEnable) continue;
        const std::uint32_t kept = writer_.keep(1);
        into(*a.value, kept);
        for (const Argument& out : e.arguments) {
            if (out.field == kEnableOut) store_value(place(*out.value), E::Bool, kept, out.span);
        }
        return writer_.emit(Op::JumpUnless, 0, 0, kept, e.span);
    }
    for (const Argument& out : e.arguments) {
        if (out.field == kEnableOut)
            store_value(place(*out.value), E::Bool, writer_.constant_integer(E::Bool, 1), out.span);
    }
    return std::nullopt;
}

void ExpressionWriter::enabled(std::optional<std::uint32_t> skip) {
    if (skip) writer_.land(*skip, writer_.here());
}

/// Arguments into the fields of a callee at `to`.
void ExpressionWriter::pass(const Expression& e, const Layout& callee, const Place& to) {
    for (const Argument& a : e.arguments) {
        if (a.output || a.field < 0 || !a.value) continue;
        const Field& field = base::at(callee.fields, a.field);
        if (field.section == Section::InOut) {
            pass_in_out(a, field, to.moved(field.binding.offset));
        } else if (field.binding.space == Space::Instance || field.binding.space == Space::Frame) {
            store(to.moved(field.binding.offset), field.type, *a.value);
        } else {
            store({bases_.of(field.binding.space) + field.binding.offset, false, 0, field.binding.bit}, field.type,
                  *a.value);
        }
    }
}

void ExpressionWriter::pass_in_out(const Argument& a, const Field& field, const Place& to) {
    Place variable = place(*a.value);
    if (variable.bit >= 0) {
        const std::uint32_t copy = writer_.keep(1);
        load_into(variable, E::Bool, copy, a.span);
        passed_bits_.push_back({variable, copy});
        variable = {copy, false, 0, -1};
    }
    store_value(to, E::Udint, address(variable, a.span), a.span);
    if (!field.type.is(E::Array) || !logic_->type(field.type).open) return;
    // The bounds go along: lowest, highest and stride of each dimension.
    const DerivedType& array = logic_->type(a.value->type);
    Bytes bounds(24 * array.dimensions.size());
    std::uint64_t stride = array.stride;
    for (std::size_t k = array.dimensions.size(); k-- > 0;) {
        const std::int64_t words[3] = {array.dimensions[k].low, array.dimensions[k].high,
                                       static_cast<std::int64_t>(stride)};
        std::copy_n(reinterpret_cast<const std::byte*>(words), sizeof words,
                    bounds.begin() + static_cast<std::ptrdiff_t>(24 * k));
        stride *= array.dimensions[k].count();
    }
    const auto size = static_cast<std::uint32_t>(bounds.size());
    const Place from{writer_.blob(bounds), false, 0, -1};
    const Place behind = to.moved(8);
    if (behind.indirect) {
        const std::uint32_t source = address(from, a.span);
        writer_.emit(Op::CopyIndirect, address(behind, a.span), source, size, a.span);
    } else {
        writer_.emit(Op::CopyBytes, behind.at, from.at, size, a.span);
    }
}

void ExpressionWriter::take_outputs(const Expression& e, const Layout& callee, const Place& from) {
    for (const PassedBit& b : passed_bits_) store_value(b.variable, E::Bool, b.copy, e.span);
    passed_bits_.clear();
    for (const Argument& a : e.arguments) {
        if (!a.output || a.field < 0 || !a.value) continue;
        const Field& field = base::at(callee.fields, a.field);
        const bool own = field.binding.space == Space::Instance || field.binding.space == Space::Frame;
        const Place source =
            own ? from.moved(field.binding.offset)
                : Place{bases_.of(field.binding.space) + field.binding.offset, false, 0, field.binding.bit};
        const E type = field.type.elementary;
        const E wanted = a.value->type.elementary;
        const Place to = place(*a.value);
        if (a.negated) {
            const std::uint32_t slot = writer_.temporary();
            writer_.emit(Op::BoolNot, slot, load(source, type, a.span), 0, a.span);
            store_value(to, type, slot, a.span);
        } else if (is_scalar(type) && representation(type) != representation(wanted)) {
            const std::uint32_t slot = writer_.temporary();
            convert_number(type, load(source, type, a.span), wanted, slot, a.span);
            store_value(to, wanted, slot, a.span);
        } else {
            copy(to, source, field.type, a.span);
        }
    }
}

// --- function blocks ---

/// A timer, trigger or counter with all its inputs given is one operation.
bool ExpressionWriter::call_fused(const Expression& e, const Layout& block, const Place& instance) {
    struct Fused {
        Op plain, with;
        std::size_t inputs;
    };
    static constexpr Fused kFused[] = {{Op::TimerOn, Op::TimerOnWith, 2},
                                       {Op::TimerOff, Op::TimerOffWith, 2},
                                       {Op::TimerPulse, Op::TimerPulseWith, 2},
                                       {Op::RisingTrigger, Op::RisingTriggerWith, 1},
                                       {Op::FallingTrigger, Op::FallingTriggerWith, 1}};
    constexpr int kTypes = 8;  // integer representations
    const auto counter = [&](Op family) {
        return *block.standard >= family && static_cast<int>(*block.standard) < static_cast<int>(family) + kTypes;
    };
    Fused fused{*block.standard, Op::End, 0};
    for (const Fused& f : kFused) {
        if (*block.standard == f.plain) fused = f;
    }
    if (counter(Op::CountUpI8)) fused = {Op::CountUpI8, Op::CountUpWithI8, 3};
    if (counter(Op::CountDownI8)) fused = {Op::CountDownI8, Op::CountDownWithI8, 3};
    if (fused.inputs == 0) return false;
    const Expression* inputs[3] = {};
    for (const Argument& a : e.arguments) {
        if (!a.output && a.field >= 0 && a.field < 3) inputs[a.field] = a.value.get();
    }
    std::uint32_t values[3] = {};
    for (std::size_t i = 0; i < fused.inputs; ++i) {
        if (inputs[i] == nullptr) return false;
    }
    for (std::size_t i = 0; i < fused.inputs; ++i) values[i] = value(*inputs[i]);
    if (fused.inputs == 3) {
        const int type = static_cast<int>(*block.standard) - static_cast<int>(fused.plain);
        writer_.emit(static_cast<Op>(static_cast<int>(fused.with) + type), values[0], instance.at, values[1], e.span);
        writer_.operands(values[2]);
        return true;
    }
    const bool timer = fused.inputs == 2;
    writer_.emit(fused.with, timer ? values[0] : 0, instance.at, timer ? values[1] : values[0], e.span);
    return true;
}

void ExpressionWriter::call_standard_block(const Expression& e, const Layout& block, const Place& instance) {
    if (!instance.indirect) {
        if (call_fused(e, block, instance)) return;
        pass(e, block, instance);
        writer_.emit(*block.standard, 0, instance.at, 0, e.span);
        return;
    }
    pass(e, block, instance);
    base::at(calls_->standard_routines, e.detail) = true;
    calls_->calls.emplace_back(writer_.emit(Op::CallIndirect, instance.at, 0, instance.displacement, e.span), e.detail);
}

void ExpressionWriter::call_block(const Expression& e) {
    const Layout& block = logic_->block(e.detail);
    Place instance = place(*e.operands[0]);
    const auto skip = enable(e);
    if (instance.indirect && std::any_of(e.arguments.begin(), e.arguments.end(),
                                         [](const Argument& a) { return a.value && contains_call(*a.value); })) {
        const std::uint32_t kept = writer_.keep(4);
        writer_.emit(Op::Move32, kept, instance.at, 0, e.span);
        instance.at = kept;
    }
    if (block.standard) {
        call_standard_block(e, block, instance);
    } else {
        pass(e, block, instance);
        const std::uint32_t at = instance.indirect
                                     ? writer_.emit(Op::CallIndirect, instance.at, 0, instance.displacement, e.span)
                                     : writer_.emit(Op::CallInstance, instance.at, 0, 1, e.span);
        calls_->calls.emplace_back(at, e.detail);
    }
    take_outputs(e, block, instance);
    enabled(skip);
}

// --- functions and methods ---

Place ExpressionWriter::result_place(const Expression& e) {
    const auto number = static_cast<std::size_t>(e.detail);
    const Layout& callee = logic_->block(e.detail);
    const std::uint32_t base = e.call == CallKind::Function ? calls_->frames[number] : calls_->regions[number];
    VYARD_CHECK(callee.result_field >= 0);
    return {base + base::at(callee.fields, callee.result_field).binding.offset, false, 0, -1};
}

namespace {

/// Arguments that themselves call are worked out before anything is put into the callee's frame.
bool any_calls(const Expression& e) {
    return std::any_of(e.arguments.begin(), e.arguments.end(),
                       [](const Argument& a) { return a.value && !a.output && contains_call(*a.value); });
}

}  // namespace

void ExpressionWriter::call_function(const Expression& e) {
    const auto number = static_cast<std::size_t>(e.detail);
    const Layout& callee = logic_->block(e.detail);
    const Place frame{calls_->frames[number], false, 0, -1};
    const auto skip = enable(e);
    const bool ahead = any_calls(e);
    Place target = frame;
    if (ahead) target.at = writer_.keep(std::max(callee.parameter_size, 8U));
    const std::uint32_t image = callee.frame_size > 0 ? writer_.blob(callee.frame_image) : 0;
    if (ahead) {
        if (callee.parameter_size > 0) writer_.emit(Op::CopyBytes, target.at, image, callee.parameter_size, e.span);
        pass(e, callee, target);
    }
    if (callee.frame_size > 0) writer_.emit(Op::CopyBytes, frame.at, image, callee.frame_size, e.span);
    if (ahead) {
        writer_.emit(Op::CopyBytes, frame.at, target.at, callee.parameter_size, e.span);
    } else {
        pass(e, callee, frame);
    }
    calls_->calls.emplace_back(writer_.emit(Op::Call, 0, 0, 1, e.span), e.detail);
    take_outputs(e, callee, frame);
    enabled(skip);
}

void ExpressionWriter::call_method(const Expression& e) {
    const auto number = static_cast<std::size_t>(e.detail);
    const Layout& callee = logic_->block(e.detail);
    const auto skip = enable(e);
    const Expression& object = *e.operands[0];
    const std::uint32_t instance = writer_.keep(4);
    if (object.type.is(E::Interface)) {
        move(E::Udint, instance, value(object), e.span);
        writer_.emit(Op::CheckReference, 0, instance, 0, e.span);
    } else {
        const Place p = place(object);
        if (p.indirect) {
            move(E::Udint, instance, address(p, e.span), e.span);
        } else {
            writer_.emit(Op::AddressOf, instance, p.at, 0, e.span);
        }
    }
    const std::uint32_t passed = writer_.keep(std::max(callee.parameter_size, 8U));
    const std::uint32_t region = calls_->regions[number];
    if (callee.parameter_size > 0) {
        Bytes image(callee.frame_image.begin(), callee.frame_image.begin() + callee.parameter_size);
        const std::uint32_t defaults = writer_.blob(image);
        const bool ahead = any_calls(e);
        const std::uint32_t to = ahead ? passed : region;
        writer_.emit(Op::CopyBytes, to, defaults, callee.parameter_size, e.span);
        pass(e, callee, {to, false, 0, -1});
        if (ahead) writer_.emit(Op::CopyBytes, region, passed, callee.parameter_size, e.span);
    }
    if (e.negative) {
        calls_->calls.emplace_back(writer_.emit(Op::CallIndirect, instance, 0, 0, e.span), e.detail);
    } else {
        writer_.emit(Op::CallMethod, instance, 0, 0, e.span, calls_->method_numbers[number]);
    }
    take_outputs(e, callee, {region, false, 0, -1});
    enabled(skip);
}

void ExpressionWriter::call(const Expression& e) {
    switch (e.call) {
        case CallKind::Block: return call_block(e);
        case CallKind::Function: return call_function(e);
        case CallKind::Method: return call_method(e);
        case CallKind::SuperBody:
            calls_->calls.emplace_back(writer_.emit(Op::CallInstance, kSelf, 0, 1, e.span), e.detail);
            return;
        case CallKind::Standard:
        case CallKind::Unknown: break;
    }
    VYARD_CHECK(false && "a call of nothing reached the code writer");
}

void ExpressionWriter::call_statement(const Expression& e) {
    if (e.kind != ExpressionKind::Call) {  // ADD(a, b); as a statement: computed for its faults alone
        value(e);
        return;
    }
    if (e.call == CallKind::Standard) return standard_statement(e);
    call(e);
}

}  // namespace vyard::logic
