#include "core/logic/code_writer.hpp"

#include <cstring>

#include "core/logic/standard_functions.hpp"

namespace vyard::logic {

using E = Elementary;

std::uint32_t Bases::of(Space space) const {
    switch (space) {
        case Space::Instance: return instance;
        case Space::Globals: return globals;
        case Space::Inputs: return inputs;
        case Space::Outputs: return outputs;
        case Space::Markers: return markers;
        case Space::None: break;
    }
    VYARD_CHECK(false && "a name without a place reached the code writer");
    return 0;
}

Op pick(Op family, E type) {
    return static_cast<Op>(static_cast<int>(family) + static_cast<int>(representation(type)));
}

Op pick_real(Op family, E type) {
    return static_cast<Op>(static_cast<int>(family) + (type == E::Lreal ? 1 : 0));
}

std::uint32_t CodeWriter::emit(Op op, std::uint32_t dst, std::uint32_t a, std::uint32_t b, Span span) {
    code.push_back({op, dst, a, b});
    places.push_back({source, span});
    return here() - 1;
}

std::uint32_t CodeWriter::constant_bytes(int size, std::array<std::byte, 8> bytes) {
    const auto [found, fresh] = constants_.try_emplace({size, bytes}, next_);
    if (fresh) next_ += 8;
    return found->second;
}

std::uint32_t CodeWriter::constant(E type, const Expression& literal) {
    std::array<std::byte, 8> bytes{};
    if (type == E::Real) {
        const auto value = static_cast<float>(literal.real);
        std::memcpy(bytes.data(), &value, sizeof value);
    } else if (type == E::Lreal) {
        std::memcpy(bytes.data(), &literal.real, sizeof literal.real);
    } else {
        const std::uint64_t value = literal.negative ? 0 - literal.integer : literal.integer;
        std::memcpy(bytes.data(), &value, sizeof value);
    }
    for (auto i = static_cast<std::size_t>(type_size(type)); i < bytes.size(); ++i) bytes[i] = std::byte{0};
    return constant_bytes(type_size(type), bytes);
}

std::uint32_t CodeWriter::constant_integer(E type, std::int64_t value) {
    Expression literal;
    literal.negative = value < 0;
    literal.integer = value < 0 ? 0 - static_cast<std::uint64_t>(value) : static_cast<std::uint64_t>(value);
    literal.real = static_cast<double>(value);
    return constant(type, literal);
}

std::uint32_t CodeWriter::temporary() {
    if (used_slots_ == slots_.size()) slots_.push_back(keep(8));
    return slots_[used_slots_++];
}

std::uint32_t CodeWriter::keep(std::uint32_t bytes) {
    const std::uint32_t at = next_;
    next_ += (bytes + 7) / 8 * 8;
    return at;
}

void CodeWriter::fill(std::vector<std::byte>& memory) const {
    memory.resize(next_);
    for (const auto& [key, offset] : constants_) std::memcpy(memory.data() + offset, key.second.data(), 8);
}

void ExpressionWriter::move(E type, std::uint32_t dst, std::uint32_t from, Span span) {
    static constexpr Op kMoves[] = {Op::Move8, Op::Move16, Op::Move8, Op::Move32,
                                    Op::Move8, Op::Move8,  Op::Move8, Op::Move64};
    if (dst != from) writer_.emit(kMoves[type_size(type) - 1], dst, from, 0, span);
}

std::uint32_t ExpressionWriter::value(const Expression& e) {
    if (e.kind == ExpressionKind::Literal) return writer_.constant(e.type.elementary, e);
    const bool variable = e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Direct;
    if (variable && e.binding.bit < 0) return address(e.binding);
    const std::uint32_t slot = writer_.temporary();
    into(e, slot);
    return slot;
}

void ExpressionWriter::into(const Expression& e, std::uint32_t dst) {
    const E type = e.type.elementary;
    switch (e.kind) {
        case ExpressionKind::Literal: return move(type, dst, writer_.constant(type, e), e.span);
        case ExpressionKind::Name:
        case ExpressionKind::Direct:
            if (e.binding.bit < 0) return move(type, dst, address(e.binding), e.span);
            writer_.emit(Op::LoadBit, dst, address(e.binding), static_cast<std::uint32_t>(e.binding.bit), e.span);
            return;
        case ExpressionKind::Unary: {
            const std::uint32_t a = value(*e.operands[0]);
            const Op op = e.op == Operator::Negate ? pick(Op::NegateI8, type)
                          : type == E::Bool        ? Op::BoolNot
                                                   : pick(Op::InvertI8, type);
            writer_.emit(op, dst, a, 0, e.span);
            return;
        }
        case ExpressionKind::Binary: return binary(e, dst);
        case ExpressionKind::Convert: return convert(e, dst);
        case ExpressionKind::Call: return call(e, dst);
    }
}

void ExpressionWriter::binary(const Expression& e, std::uint32_t dst) {
    if (e.op <= Operator::And && e.type.is(E::Bool)) return logical(e, dst);
    const E type = e.operands[0]->type.elementary;
    std::uint32_t a = value(*e.operands[0]);
    std::uint32_t b = value(*e.operands[1]);
    Op op = Op::End;
    switch (e.op) {
        case Operator::Or: op = pick(Op::OrI8, type); break;
        case Operator::Xor: op = pick(Op::XorI8, type); break;
        case Operator::And: op = pick(Op::AndI8, type); break;
        case Operator::Equal: op = pick(Op::EqualI8, type); break;
        case Operator::NotEqual: op = pick(Op::NotEqualI8, type); break;
        case Operator::Less: op = pick(Op::LessI8, type); break;
        case Operator::LessEqual: op = pick(Op::LessEqualI8, type); break;
        case Operator::Greater:
            op = pick(Op::LessI8, type);
            std::swap(a, b);
            break;
        case Operator::GreaterEqual:
            op = pick(Op::LessEqualI8, type);
            std::swap(a, b);
            break;
        case Operator::Add: op = pick(Op::AddI8, type); break;
        case Operator::Subtract: op = pick(Op::SubtractI8, type); break;
        case Operator::Multiply: op = pick(Op::MultiplyI8, type); break;
        case Operator::Divide: op = pick(Op::DivideI8, type); break;
        case Operator::Modulo: op = pick(Op::ModuloI8, type); break;
        default: VYARD_CHECK(false && "unary operator in a binary node");
    }
    writer_.emit(op, dst, a, b, e.span);
}

/// A negated contact costs no instruction of its own.
void ExpressionWriter::logical(const Expression& e, std::uint32_t dst) {
    const auto negated = [](const Expression& x) { return x.kind == ExpressionKind::Unary && x.op == Operator::Not; };
    const Expression* left = e.operands[0].get();
    const Expression* right = e.operands[1].get();
    if (e.op == Operator::Xor) {
        const std::uint32_t a = value(*left);
        writer_.emit(Op::BoolXor, dst, a, value(*right), e.span);
        return;
    }
    if (negated(*left) && !negated(*right)) std::swap(left, right);
    const bool negate = negated(*right);
    const std::uint32_t a = value(*left);
    const std::uint32_t b = value(negate ? *right->operands[0] : *right);
    const Op op =
        e.op == Operator::And ? (negate ? Op::BoolAndNot : Op::BoolAnd) : (negate ? Op::BoolOrNot : Op::BoolOr);
    writer_.emit(op, dst, a, b, e.span);
}

void ExpressionWriter::convert(const Expression& e, std::uint32_t dst) {
    const Expression& operand = *e.operands[0];
    const E from = operand.type.elementary;
    const E to = e.type.elementary;
    std::uint32_t a = value(operand);
    const bool milliseconds = e.detail == 0;  // asked for by name: times meet numbers in milliseconds
    E source = from;
    if (milliseconds && from == E::Time && to != E::Time) {
        const std::uint32_t scaled = writer_.temporary();
        if (is_real(to)) {
            const std::uint32_t real = writer_.temporary();
            writer_.emit(Op::ToF64I64, real, a, 0, e.span);
            writer_.emit(Op::DivideF64, scaled, real, writer_.constant_integer(E::Lreal, 1'000'000), e.span);
            source = E::Lreal;
        } else {
            writer_.emit(Op::DivideI64, scaled, a, writer_.constant_integer(E::Lint, 1'000'000), e.span);
            source = E::Lint;
        }
        a = scaled;
    }
    if (milliseconds && to == E::Time && from != E::Time) {
        const E working = is_real(from) ? E::Lreal : E::Lint;
        const std::uint32_t wide = writer_.temporary();
        writer_.emit(pick(is_real(from) ? Op::ToF64I8 : Op::ToI64I8, from), wide, a, 0, e.span);
        const std::uint32_t scaled = writer_.temporary();
        writer_.emit(pick(Op::MultiplyI8, working), scaled, wide, writer_.constant_integer(working, 1'000'000), e.span);
        a = scaled;
        source = working;
    }
    if (to == E::Bool) {
        writer_.emit(pick(Op::ToBoolI8, source), dst, a, 0, e.span);
        return;
    }
    if (representation(source) == representation(to)) return move(to, dst, a, e.span);
    static constexpr Op kTo[] = {Op::ToI8I8,  Op::ToI16I8, Op::ToI32I8, Op::ToI64I8, Op::ToU8I8,
                                 Op::ToU16I8, Op::ToU32I8, Op::ToU64I8, Op::ToF32I8, Op::ToF64I8};
    writer_.emit(pick(kTo[static_cast<int>(representation(to))], source), dst, a, 0, e.span);
}

void ExpressionWriter::call(const Expression& e, std::uint32_t dst) {
    const auto function = static_cast<Function>(e.detail);
    const auto argument = [&](std::size_t i) { return value(*e.arguments[i].value); };
    const E type = e.arguments.back().value->type.elementary;
    const auto unary = [&](Op op) { writer_.emit(op, dst, argument(0), 0, e.span); };
    const auto pair = [&](Op op) {
        const std::uint32_t a = argument(0);
        writer_.emit(op, dst, a, argument(1), e.span);
    };
    switch (function) {
        case Function::Absolute: return unary(pick(Op::AbsoluteI8, type));
        case Function::SquareRoot: return unary(pick_real(Op::SquareRootF32, type));
        case Function::NaturalLogarithm: return unary(pick_real(Op::NaturalLogarithmF32, type));
        case Function::Exponential: return unary(pick_real(Op::ExponentialF32, type));
        case Function::Sine: return unary(pick_real(Op::SineF32, type));
        case Function::Cosine: return unary(pick_real(Op::CosineF32, type));
        case Function::ArcTangent: return unary(pick_real(Op::ArcTangentF32, type));
        case Function::Power: return pair(pick_real(Op::PowerF32, type));
        case Function::Minimum: return pair(pick(Op::MinimumI8, type));
        case Function::Maximum: return pair(pick(Op::MaximumI8, type));
        case Function::Limit: {
            const std::uint32_t low = argument(0), in = argument(1), high = argument(2), raised = writer_.temporary();
            writer_.emit(pick(Op::MaximumI8, type), raised, low, in, e.span);
            writer_.emit(pick(Op::MinimumI8, type), dst, raised, high, e.span);
            return;
        }
        case Function::Select: {
            const std::uint32_t chosen = writer_.temporary();
            const std::uint32_t selector = argument(0), when_false = argument(1), when_true = argument(2);
            move(type, chosen, when_false, e.span);
            const std::uint32_t jump = writer_.emit(Op::JumpUnless, 0, 0, selector, e.span);
            move(type, chosen, when_true, e.span);
            writer_.land(jump, writer_.here());
            return move(type, dst, chosen, e.span);
        }
        case Function::Truncate: {
            const std::uint32_t whole = writer_.temporary();
            writer_.emit(pick_real(Op::TruncateF32, type), whole, argument(0), 0, e.span);
            writer_.emit(pick(Op::ToI32I8, type), dst, whole, 0, e.span);
            return;
        }
        case Function::ShiftLeft: return pair(pick(Op::ShiftLeftI8, e.type.elementary));
        case Function::ShiftRight: return pair(pick(Op::ShiftRightI8, e.type.elementary));
        case Function::RotateLeft: return pair(pick(Op::RotateLeftI8, e.type.elementary));
        case Function::RotateRight: return pair(pick(Op::RotateRightI8, e.type.elementary));
        case Function::Rises:
        case Function::Falls:
            writer_.emit(function == Function::Rises ? Op::Rises : Op::Falls, dst, argument(0), address(e.binding),
                         e.span);
            return;
    }
}

void ExpressionWriter::assign(const Binding& target, const Expression& e) {
    const std::uint32_t dst = address(target);
    if (target.bit < 0) {
        into(e, dst);
    } else {
        writer_.emit(Op::StoreBit, dst, value(e), static_cast<std::uint32_t>(target.bit), e.span);
    }
}

std::uint32_t ExpressionWriter::jump_unless(const Expression& e) {
    const bool negated = e.kind == ExpressionKind::Unary && e.op == Operator::Not && e.type.is(E::Bool);
    const std::uint32_t condition = value(negated ? *e.operands[0] : e);
    return writer_.emit(negated ? Op::JumpIf : Op::JumpUnless, 0, 0, condition, e.span);
}

}  // namespace vyard::logic
