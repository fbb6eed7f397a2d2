// Conversions between types, asked for by name or implied.
#include <cstring>

#include "core/logic/code/expression_writer.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

constexpr std::int64_t kDay = 86'400'000'000'000;

bool is_date_and_time(E t) {
    return t == E::Dt || t == E::Ldt;
}
bool is_time_of_day(E t) {
    return t == E::Tod || t == E::Ltod;
}
bool is_date(E t) {
    return t == E::Date || t == E::Ldate;
}

}  // namespace

/// Scalars to scalars; texts have functions of their own.
void ExpressionWriter::convert(const Expression& e, std::uint32_t dst) {
    const Expression& operand = *e.operands[0];
    const E from = operand.type.elementary;
    const E to = e.type.elementary;
    const std::uint32_t wide = from == E::Wstring ? 0x100U : 0U;
    switch (e.detail) {
        case kConvertInstance: {
            const Place p = place(operand);
            if (p.indirect) return move(E::Udint, dst, address(p, e.span), e.span);
            writer_.emit(Op::AddressOf, dst, p.at, 0, e.span);
            return;
        }
        case kConvertRange: {
            const DerivedType& range = logic_->type(e.type);
            Bytes limits(2 * static_cast<std::size_t>(type_size(to)));
            std::memcpy(limits.data(), &range.low, static_cast<std::size_t>(type_size(to)));
            std::memcpy(limits.data() + type_size(to), &range.high, static_cast<std::size_t>(type_size(to)));
            writer_.emit(pick(Op::CheckRangeI8, to), dst, value(operand), writer_.blob(limits), e.span);
            return;
        }
        case kConvertFromBcd:
        case kConvertToBcd: return convert_bcd(e, dst);
        case kConvertTruncate: {
            const std::uint32_t whole = writer_.temporary();
            writer_.emit(pick_real(Op::TruncateF32, from), whole, value(operand), 0, e.span);
            return convert_number(from, whole, to, dst, e.span);
        }
        default: break;
    }
    if (is_text(from)) {
        const std::uint32_t text = address(aggregate(operand), e.span);
        if (is_character(to)) {
            writer_.emit(Op::CharacterOfText, dst, text, 0, e.span, static_cast<std::uint32_t>(type_size(to)));
        } else {
            writer_.emit(Op::FromText, dst, text, 0, e.span, static_cast<std::uint32_t>(to) | wide);
        }
        return;
    }
    std::uint32_t a = value(operand);
    E source = from;
    if (e.detail == kConvertNamed) {
        // Parts of a date and time.
        if (is_date_and_time(from) && (is_date(to) || is_time_of_day(to))) {
            const std::uint32_t clock = writer_.temporary();
            writer_.emit(Op::ModuloI64, clock, a, writer_.constant_integer(E::Lint, kDay), e.span);
            if (is_time_of_day(to)) return move(to, dst, clock, e.span);
            writer_.emit(Op::SubtractI64, dst, a, clock, e.span);
            return;
        }
        const bool time_in = is_duration(from) || is_moment(from);
        const bool time_out = is_duration(to) || is_moment(to);
        // Times meet numbers in milliseconds.
        if (time_in && !time_out) {
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
        } else if (time_out && !time_in) {
            const E working = is_real(from) ? E::Lreal : E::Lint;
            const std::uint32_t wide_value = writer_.temporary();
            writer_.emit(pick(is_real(from) ? Op::ToF64I8 : Op::ToI64I8, from), wide_value, a, 0, e.span);
            const std::uint32_t scaled = writer_.temporary();
            writer_.emit(pick(Op::MultiplyI8, working), scaled, wide_value,
                         writer_.constant_integer(working, 1'000'000), e.span);
            a = scaled;
            source = working;
        }
        // Reals and bit strings: the bits are kept (IEC 61131-3 table 22 gives REAL_TO_DWORD and its like so).
        const bool same_width = type_size(from) == type_size(to);
        if (same_width && ((is_real(from) && is_bit_string(to)) || (is_bit_string(from) && is_real(to))))
            return move(to, dst, a, e.span);
    }
    convert_number(source, a, to, dst, e.span);
}

void ExpressionWriter::convert_number(E from, std::uint32_t a, E to, std::uint32_t dst, Span span) {
    if (to == E::Bool) {
        writer_.emit(pick(Op::ToBoolI8, from), dst, a, 0, span);
        return;
    }
    if (representation(from) == representation(to)) return move(to, dst, a, span);
    static constexpr Op kTo[] = {Op::ToI8I8,  Op::ToI16I8, Op::ToI32I8, Op::ToI64I8, Op::ToU8I8,
                                 Op::ToU16I8, Op::ToU32I8, Op::ToU64I8, Op::ToF32I8, Op::ToF64I8};
    writer_.emit(pick(kTo[static_cast<int>(representation(to))], from), dst, a, 0, span);
}

void ExpressionWriter::convert_bcd(const Expression& e, std::uint32_t dst) {
    const Expression& operand = *e.operands[0];
    const E from = operand.type.elementary, to = e.type.elementary;
    const E digits = e.detail == kConvertFromBcd ? from : to;
    const std::uint32_t wide = writer_.temporary();
    const std::uint32_t done = writer_.temporary();
    convert_number(from, value(operand), E::Lword, wide, e.span);
    writer_.emit(e.detail == kConvertFromBcd ? Op::FromBcd : Op::ToBcd, done, wide, 0, e.span,
                 static_cast<std::uint32_t>(type_size(digits)) * 2);
    convert_number(E::Lword, done, to, dst, e.span);
}

/// Anything to a text.
Place ExpressionWriter::convert_text(const Expression& e) {
    const Expression& operand = *e.operands[0];
    const E from = operand.type.elementary, to = e.type.elementary;
    if (is_text(from) && from == to) return aggregate(operand);
    const int capacity =
        std::min(std::max(e.type.index, 1) * (from == E::Wstring && to == E::String ? 3 : 1), kMaxCapacity);
    const Place out{writer_.keep_text(to, is_character(from) ? 4 : capacity), false, 0, -1};
    if (is_text(from)) {
        const std::uint32_t a = address(aggregate(operand), e.span);
        writer_.emit(to == E::Wstring ? Op::Widen : Op::Narrow, address(out, e.span), a, 0, e.span);
        return out;
    }
    const std::uint32_t a = value(operand);
    if (is_character(from) && (from == E::Char) == (to == E::String)) {
        writer_.emit(Op::TextOfCharacter, address(out, e.span), a, 0, e.span,
                     static_cast<std::uint32_t>(type_size(from)));
    } else {
        writer_.emit(Op::ToText, address(out, e.span), a, 0, e.span,
                     static_cast<std::uint32_t>(from) | (to == E::Wstring ? 0x100U : 0U));
    }
    return out;
}

}  // namespace vyard::logic
