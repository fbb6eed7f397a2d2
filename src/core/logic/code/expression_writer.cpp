#include "core/logic/code/expression_writer.hpp"

#include <algorithm>
#include <cstring>

#include "core/logic/check/constants.hpp"
#include "core/logic/text_values.hpp"

namespace vyard::logic {

using E = Elementary;

std::uint32_t Bases::of(Space space) const {
    switch (space) {
        case Space::Instance: return instance;
        case Space::Frame: return frame;
        case Space::Globals: return globals;
        case Space::Inputs: return inputs;
        case Space::Outputs: return outputs;
        case Space::Markers: return markers;
        case Space::None: break;
    }
    VYARD_CHECK(false && "a name without a place reached the code writer");
    return 0;
}

void ExpressionWriter::move(E type, std::uint32_t dst, std::uint32_t from, Span span) {
    if (dst != from) writer_.emit(pick_size(Op::Move8, type_size(type)), dst, from, 0, span);
}

// --- places ---

Place ExpressionWriter::place(const Expression& e) {
    switch (e.kind) {
        case ExpressionKind::Name:
        case ExpressionKind::Direct:
        case ExpressionKind::This: {
            Place out;
            out.at = bases_.of(e.binding.space) + e.binding.offset;
            out.indirect = e.binding.indirect;
            out.bit = e.binding.bit;
            return out;
        }
        case ExpressionKind::Member: {
            if (e.binding.space != Space::None && e.binding.space != Space::Instance)  // located within a block
                return {bases_.of(e.binding.space) + e.binding.offset, false, 0, e.binding.bit};
            return place(*e.operands[0]).moved(e.binding.offset);
        }
        case ExpressionKind::Index: return place_index(e);
        case ExpressionKind::Dereference: {
            const std::uint32_t slot = value(*e.operands[0]);
            writer_.emit(Op::CheckReference, 0, slot, 0, e.span);
            return {slot, true, 0, -1};
        }
        case ExpressionKind::Partial: {
            Place out = place(*e.operands[0]).moved(e.binding.offset);
            out.bit = e.binding.bit;
            return out;
        }
        default: break;
    }
    VYARD_CHECK(false && "no place");
    return {};
}

/// Constant indices are part of the address; each other one is an operation that checks it.
Place ExpressionWriter::place_index(const Expression& e) {
    const Expression& base = *e.operands[0];
    Place out = place(base);
    const bool text = is_text(base.type.elementary);
    const DerivedType* array = text ? nullptr : &logic_->type(base.type);
    const bool open = array != nullptr && array->open;
    const Place descriptor = out;  // of an open array: behind the slot that holds its address
    const std::uint32_t width = base.type.is(E::Wstring) ? 2 : 1;
    if (text) out = out.moved(kTextHead);
    std::uint32_t slot = 0;
    bool moving = false;
    std::uint64_t stride = text ? width : array->stride;
    std::vector<std::uint64_t> strides(e.operands.size() - 1, stride);
    for (std::size_t k = strides.size(); k-- > 0;) {
        strides[k] = stride;
        if (!text && !open) stride *= array->dimensions[k].count();
    }
    for (std::size_t k = 0; k + 1 < e.operands.size(); ++k) {
        const Expression& index = *e.operands[k + 1];
        const Dimension d = text ? Dimension{1, base.type.index} : array->dimensions[k];
        if (index.kind == ExpressionKind::Literal && !open) {
            out = out.moved(
                static_cast<std::uint32_t>(static_cast<std::uint64_t>(literal_integer(index) - d.low) * strides[k]));
            continue;
        }
        const std::uint32_t i = value(index);
        if (!moving) {
            slot = writer_.temporary();
            if (out.indirect) {
                writer_.emit(Op::Move32, slot, out.at, 0, e.span);
            } else {
                writer_.emit(Op::AddressOf, slot, out.at, 0, e.span);
            }
            moving = true;
        }
        std::uint32_t range = descriptor.at + 8 + 24 * static_cast<std::uint32_t>(k);
        if (!open) {
            const std::int64_t words[3] = {d.low, d.high, static_cast<std::int64_t>(strides[k])};
            Bytes bytes(sizeof words);
            std::memcpy(bytes.data(), words, sizeof words);
            range = writer_.blob(bytes);
        }
        writer_.emit(pick(Op::IndexI8, index.type.elementary), slot, i, range, index.span);
    }
    if (!moving) return out;
    return {slot, true, out.indirect ? out.displacement : 0, -1};
}

void ExpressionWriter::load_into(const Place& p, E type, std::uint32_t dst, Span span) {
    if (!p.indirect) {
        if (p.bit < 0) return move(type, dst, p.at, span);
        writer_.emit(Op::LoadBit, dst, p.at, static_cast<std::uint32_t>(p.bit), span);
        return;
    }
    writer_.emit(pick_size(Op::LoadIndirect8, p.bit >= 0 ? 1 : type_size(type)), dst, p.at, p.displacement, span);
    if (p.bit >= 0) writer_.emit(Op::LoadBit, dst, dst, static_cast<std::uint32_t>(p.bit), span);
}

std::uint32_t ExpressionWriter::load(const Place& p, E type, Span span) {
    if (!p.indirect && p.bit < 0) return p.at;
    const std::uint32_t slot = writer_.temporary();
    load_into(p, type, slot, span);
    return slot;
}

void ExpressionWriter::store_value(const Place& to, E type, std::uint32_t from, Span span) {
    if (!to.indirect) {
        if (to.bit < 0) return move(type, to.at, from, span);
        writer_.emit(Op::StoreBit, to.at, from, static_cast<std::uint32_t>(to.bit), span);
        return;
    }
    if (to.bit < 0) {
        writer_.emit(pick_size(Op::StoreIndirect8, type_size(type)), to.at, from, to.displacement, span);
        return;
    }
    const std::uint32_t byte = writer_.temporary();
    writer_.emit(Op::LoadIndirect8, byte, to.at, to.displacement, span);
    writer_.emit(Op::StoreBit, byte, from, static_cast<std::uint32_t>(to.bit), span);
    writer_.emit(Op::StoreIndirect8, to.at, byte, to.displacement, span);
}

std::uint32_t ExpressionWriter::address(const Place& p, Span span) {
    if (p.indirect && p.displacement == 0) return p.at;
    const std::uint32_t slot = writer_.temporary();
    if (!p.indirect) {
        if ((p.at & kSelf) == 0) return writer_.constant_integer(E::Udint, p.at);
        writer_.emit(Op::AddressOf, slot, p.at, 0, span);
        return slot;
    }
    const std::uint32_t by = writer_.constant_integer(E::Udint, p.displacement);
    writer_.emit(Op::AddU32, slot, p.at, by, span);
    return slot;
}

void ExpressionWriter::copy(const Place& to, const Place& from, const TypeRef& type, Span span) {
    if (is_text(type.elementary)) {
        const std::uint32_t a = address(from, span);
        writer_.emit(Op::TextMove, address(to, span), a, 0, span, type.is(E::Wstring) ? 2 : 1);
        return;
    }
    if (!type.is(E::Array) && !type.is(E::Structure))
        return store_value(to, type.elementary, load(from, type.elementary, span), span);
    const std::uint32_t bytes = logic_->size_of(type);
    if (!to.indirect && !from.indirect) {
        if (to.at != from.at) writer_.emit(Op::CopyBytes, to.at, from.at, bytes, span);
        return;
    }
    const std::uint32_t a = address(from, span);
    writer_.emit(Op::CopyIndirect, address(to, span), a, bytes, span);
}

Place ExpressionWriter::aggregate(const Expression& e) {
    if (is_place(e.kind)) return place(e);
    if (e.kind == ExpressionKind::Text) {
        Bytes bytes(text_size(e.type.elementary, e.type.index));
        write_text(bytes.data(), e.type.elementary, e.type.index, e.name);
        return {writer_.blob(bytes), false, 0, -1};
    }
    if (e.kind == ExpressionKind::Convert) return convert_text(e);
    if (e.call == CallKind::Standard) return standard_text(e);
    call(e);
    const Place result = result_place(e);
    if (!is_text(e.type.elementary)) return result;
    // Another call of the same function within the statement must not take it away.
    const Place kept{writer_.keep_text(e.type.elementary, e.type.index), false, 0, -1};
    copy(kept, result, e.type, e.span);
    return kept;
}

void ExpressionWriter::store(const Place& to, const TypeRef& type, const Expression& e) {
    if (is_text(type.elementary) || type.is(E::Array) || type.is(E::Structure))
        return copy(to, aggregate(e), type, e.span);
    if (!to.indirect && to.bit < 0) return into(e, to.at);
    store_value(to, type.elementary, value(e), e.span);
}

// --- values ---

std::uint32_t ExpressionWriter::value(const Expression& e) {
    const E type = e.type.elementary;
    if (e.kind == ExpressionKind::Literal || e.kind == ExpressionKind::Text) return writer_.constant(type, e);
    if (e.kind == ExpressionKind::Null) return writer_.constant_integer(E::Udint, 0);
    if (is_place(e.kind) && !(e.kind == ExpressionKind::This)) return load(place(e), type, e.span);
    const std::uint32_t slot = writer_.temporary();
    into(e, slot);
    return slot;
}

void ExpressionWriter::into(const Expression& e, std::uint32_t dst) {
    const E type = e.type.elementary;
    switch (e.kind) {
        case ExpressionKind::Literal:
        case ExpressionKind::Text: return move(type, dst, writer_.constant(type, e), e.span);
        case ExpressionKind::Null: return move(E::Udint, dst, writer_.constant_integer(E::Udint, 0), e.span);
        case ExpressionKind::Name:
        case ExpressionKind::Direct:
        case ExpressionKind::Member:
        case ExpressionKind::Index:
        case ExpressionKind::Dereference:
        case ExpressionKind::Partial: return load_into(place(e), type, dst, e.span);
        case ExpressionKind::Unary: {
            if (type == E::Bool && rung(e, dst)) return;
            const std::uint32_t a = value(*e.operands[0]);
            const Op op = e.op == Operator::Negate ? pick(Op::NegateI8, type)
                          : type == E::Bool        ? Op::BoolNot
                                                   : pick(Op::InvertI8, type);
            writer_.emit(op, dst, a, 0, e.span);
            return;
        }
        case ExpressionKind::Binary:
            if (type == E::Bool && e.op <= Operator::And && rung(e, dst)) return;
            return binary(e, dst);
        case ExpressionKind::Convert: return convert(e, dst);
        case ExpressionKind::Call:
            if (e.call == CallKind::Standard || logic_ == nullptr) return standard(e, dst);
            call(e);
            return load_into(result_place(e), type, dst, e.span);
        default: VYARD_CHECK(false && "no value");
    }
}

void ExpressionWriter::compare_texts(const Expression& e, std::uint32_t dst) {
    const std::uint32_t a = address(aggregate(*e.operands[0]), e.span);
    const std::uint32_t b = address(aggregate(*e.operands[1]), e.span);
    const std::uint32_t order = writer_.temporary();
    writer_.emit(Op::TextCompare, order, a, b, e.span, e.operands[0]->type.is(E::Wstring) ? 2 : 1);
    const std::uint32_t zero = writer_.constant_integer(E::Sint, 0);
    switch (e.op) {
        case Operator::Equal: writer_.emit(Op::EqualI8, dst, order, zero, e.span); return;
        case Operator::NotEqual: writer_.emit(Op::NotEqualI8, dst, order, zero, e.span); return;
        case Operator::Less: writer_.emit(Op::LessI8, dst, order, zero, e.span); return;
        case Operator::LessEqual: writer_.emit(Op::LessEqualI8, dst, order, zero, e.span); return;
        case Operator::Greater: writer_.emit(Op::LessI8, dst, zero, order, e.span); return;
        default: writer_.emit(Op::LessEqualI8, dst, zero, order, e.span); return;
    }
}

/// a * b + c of reals in one operation; the product is rounded as it would be alone.
bool ExpressionWriter::multiply_add(const Expression& e, std::uint32_t dst) {
    const E type = e.type.elementary;
    if (e.op != Operator::Add || !is_real(type)) return false;
    const Expression& product = *e.operands[0];
    if (product.kind != ExpressionKind::Binary || product.op != Operator::Multiply || product.type.elementary != type)
        return false;
    const std::uint32_t a = value(*product.operands[0]);
    const std::uint32_t b = value(*product.operands[1]);
    const std::uint32_t c = value(*e.operands[1]);
    writer_.emit(pick_real(Op::MultiplyAddF32, type), dst, a, b, e.span);
    writer_.operands(c);
    return true;
}

void ExpressionWriter::binary(const Expression& e, std::uint32_t dst) {
    const E type = e.operands[0]->type.elementary;
    if (is_text(type)) return compare_texts(e, dst);
    if (multiply_add(e, dst)) return;
    std::uint32_t a = value(*e.operands[0]);
    std::uint32_t b = value(*e.operands[1]);
    Op op = Op::End;
    switch (e.op) {
        case Operator::Or: op = type == E::Bool ? Op::BoolOr : pick(Op::OrI8, type); break;
        case Operator::Xor: op = type == E::Bool ? Op::BoolXor : pick(Op::XorI8, type); break;
        case Operator::And: op = type == E::Bool ? Op::BoolAnd : pick(Op::AndI8, type); break;
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

std::uint32_t ExpressionWriter::jump_unless(const Expression& e) {
    const bool negated = e.kind == ExpressionKind::Unary && e.op == Operator::Not && e.type.is(E::Bool);
    const std::uint32_t condition = value(negated ? *e.operands[0] : e);
    return writer_.emit(negated ? Op::JumpIf : Op::JumpUnless, 0, 0, condition, e.span);
}

bool ExpressionWriter::move_if(const Expression& condition, const StatementList& body) {
    if (body.size() != 1 || body[0].kind != StatementKind::Assign) return false;
    const Expression& target = *body[0].target;
    const Expression& from = *body[0].value;
    const E type = target.type.elementary;
    const auto plain = [](const Expression& e) {
        return e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Member;
    };
    if (!is_scalar(type) || !plain(target) || !(plain(from) || from.kind == ExpressionKind::Literal)) return false;
    const auto direct = [&](const Expression& e) {
        const Expression* root = &e;
        while (root->kind == ExpressionKind::Member) root = root->operands[0].get();
        if (root->kind != ExpressionKind::Name && root->kind != ExpressionKind::This) return false;
        const Place p = place(e);
        return !p.indirect && p.bit < 0;
    };
    if (!direct(target) || (plain(from) && !direct(from))) return false;
    const std::uint32_t when = value(condition);
    writer_.emit(pick_size(Op::MoveIf8, type_size(type)), place(target).at, value(from), when, body[0].span);
    return true;
}

void ExpressionWriter::attempt(const Place& to, const Expression& e, int wanted) {
    Bytes bits((logic_->blocks.size() + 7) / 8);
    for (std::size_t i = 0; i < logic_->blocks.size(); ++i) {
        if (logic_->blocks[i].kind == LayoutKind::FunctionBlock && logic_->is_kind_of(static_cast<int>(i), wanted))
            bits[i / 8] |= static_cast<std::byte>(1U << (i % 8));
    }
    const std::uint32_t from = value(e);
    const std::uint32_t slot = writer_.temporary();
    writer_.emit(Op::CastInstance, slot, from, writer_.blob(bits), e.span);
    store_value(to, E::Reference, slot, e.span);
}

}  // namespace vyard::logic
