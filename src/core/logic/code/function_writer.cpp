// The standard functions.
#include <algorithm>

#include "core/logic/code/expression_writer.hpp"
#include "core/logic/library/standard_functions.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

std::size_t count_arguments(const Expression& e) {
    return static_cast<std::size_t>(std::count_if(e.arguments.begin(), e.arguments.end(), [](const Argument& a) {
        return a.field != kEnable && a.field != kEnableOut;
    }));
}

std::uint32_t width_of(const Expression& text) {
    return text.type.is(E::Wstring) ? 2 : 1;
}

}  // namespace

void ExpressionWriter::standard(const Expression& e, std::uint32_t dst) {
    const auto skip = enable(e);
    standard_body(e, dst);
    enabled(skip);
}

void ExpressionWriter::standard_statement(const Expression& e) {
    if (is_text(e.type.elementary)) {
        const auto skip = enable(e);
        aggregate(e);
        return enabled(skip);
    }
    standard(e, writer_.temporary());
}

void ExpressionWriter::standard_body(const Expression& e, std::uint32_t dst) {
    const auto function = static_cast<Function>(e.detail);
    const E type = e.type.elementary;
    const auto unary = [&](Op op) { writer_.emit(op, dst, argument(e, 0), 0, e.span); };
    const auto pair = [&](Op op) {
        const std::uint32_t a = argument(e, 0);
        writer_.emit(op, dst, a, argument(e, 1), e.span);
    };
    const auto text = [&](std::size_t i) { return address(aggregate(*e.arguments[i].value), e.span); };
    switch (function) {
        case Function::Absolute: return unary(pick(Op::AbsoluteI8, type));
        case Function::SquareRoot: return unary(pick_real(Op::SquareRootF32, type));
        case Function::NaturalLogarithm: return unary(pick_real(Op::NaturalLogarithmF32, type));
        case Function::DecimalLogarithm: return unary(pick_real(Op::DecimalLogarithmF32, type));
        case Function::Exponential: return unary(pick_real(Op::ExponentialF32, type));
        case Function::Sine: return unary(pick_real(Op::SineF32, type));
        case Function::Cosine: return unary(pick_real(Op::CosineF32, type));
        case Function::Tangent: return unary(pick_real(Op::TangentF32, type));
        case Function::ArcSine: return unary(pick_real(Op::ArcSineF32, type));
        case Function::ArcCosine: return unary(pick_real(Op::ArcCosineF32, type));
        case Function::ArcTangent: return unary(pick_real(Op::ArcTangentF32, type));
        case Function::ArcTangent2: return pair(pick_real(Op::ArcTangent2F32, type));
        case Function::Power: return pair(pick_real(Op::PowerF32, type));
        case Function::IsValid: return unary(pick_real(Op::IsValidF32, e.arguments[0].value->type.elementary));
        case Function::Minimum:
        case Function::Maximum: {
            const Op op = pick(function == Function::Minimum ? Op::MinimumI8 : Op::MaximumI8, type);
            std::uint32_t best = argument(e, 0);
            const std::size_t count = count_arguments(e);
            for (std::size_t i = 1; i < count; ++i) {
                const std::uint32_t next = argument(e, i);
                const std::uint32_t to = i + 1 == count ? dst : writer_.temporary();
                writer_.emit(op, to, best, next, e.span);
                best = to;
            }
            return;
        }
        case Function::Limit: {
            const std::uint32_t low = argument(e, 0), in = argument(e, 1), high = argument(e, 2);
            const std::uint32_t raised = writer_.temporary();
            writer_.emit(pick(Op::MaximumI8, type), raised, low, in, e.span);
            writer_.emit(pick(Op::MinimumI8, type), dst, raised, high, e.span);
            return;
        }
        case Function::Move: return into(*e.arguments[0].value, dst);
        case Function::Select:
        case Function::Multiplex: return select(e, dst);
        case Function::ShiftLeft: return pair(pick(Op::ShiftLeftI8, type));
        case Function::ShiftRight: return pair(pick(Op::ShiftRightI8, type));
        case Function::RotateLeft: return pair(pick(Op::RotateLeftI8, type));
        case Function::RotateRight: return pair(pick(Op::RotateRightI8, type));
        case Function::SwapBytes: {
            static constexpr Op kBySize[] = {Op::SwapBytesU8, Op::SwapBytesU16, Op::SwapBytesU32, Op::SwapBytesU64};
            const int bytes = type_size(type);
            return unary(kBySize[bytes == 1 ? 0 : bytes == 2 ? 1 : bytes == 4 ? 2 : 3]);
        }
        case Function::KeepBytes: return into(*e.arguments[0].value, dst);
        case Function::IsValidBcd: {
            const E from = e.arguments[0].value->type.elementary;
            const std::uint32_t wide = writer_.temporary();
            convert_number(from, argument(e, 0), E::Lword, wide, e.span);
            writer_.emit(Op::ValidBcd, dst, wide, 0, e.span, static_cast<std::uint32_t>(type_size(from)) * 2);
            return;
        }
        case Function::Length: writer_.emit(Op::TextLength, dst, text(0), 0, e.span); return;
        case Function::Find: {
            const std::uint32_t a = text(0);
            writer_.emit(Op::TextFind, dst, a, text(1), e.span, width_of(*e.arguments[0].value));
            return;
        }
        case Function::Reference: {
            const Place p = place(*e.arguments[0].value);
            if (p.indirect) return move(E::Udint, dst, address(p, e.span), e.span);
            writer_.emit(Op::AddressOf, dst, p.at, 0, e.span);
            return;
        }
        case Function::LowerBound:
        case Function::UpperBound: {
            // Only of arrays whose bounds come with the call: behind the slot of their address.
            const auto dimension = static_cast<std::uint32_t>(e.arguments[1].value->integer) - 1;
            const std::uint32_t at =
                place(*e.arguments[0].value).at + 8 + 24 * dimension + (function == Function::UpperBound ? 8 : 0);
            writer_.emit(Op::ToI32I64, dst, at, 0, e.span);
            return;
        }
        case Function::Rises:
        case Function::Falls:
            writer_.emit(function == Function::Rises ? Op::Rises : Op::Falls, dst, argument(e, 0),
                         bases_.of(e.binding.space) + e.binding.offset, e.span);
            return;
        default: return dates(e, dst);
    }
}

/// SEL and MUX; all inputs are worked out, then one is taken.
void ExpressionWriter::select(const Expression& e, std::uint32_t dst) {
    const E type = e.type.elementary;
    const std::size_t count = count_arguments(e);
    const std::uint32_t selector = argument(e, 0);
    std::vector<std::uint32_t> values;
    for (std::size_t i = 1; i < count; ++i) values.push_back(argument(e, i));
    const std::uint32_t chosen = writer_.temporary();
    if (static_cast<Function>(e.detail) == Function::Select) {
        move(type, chosen, values[0], e.span);
        const std::uint32_t jump = writer_.emit(Op::JumpUnless, 0, 0, selector, e.span);
        move(type, chosen, values[1], e.span);
        writer_.land(jump, writer_.here());
    } else {
        // A number beyond the inputs takes the last one.
        move(type, chosen, values.back(), e.span);
        const std::uint32_t hit = writer_.temporary();
        for (std::size_t i = 0; i + 1 < values.size(); ++i) {
            writer_.emit(Op::EqualI64, hit, selector, writer_.constant_integer(E::Lint, static_cast<std::int64_t>(i)),
                         e.span);
            const std::uint32_t jump = writer_.emit(Op::JumpUnless, 0, 0, hit, e.span);
            move(type, chosen, values[i], e.span);
            writer_.land(jump, writer_.here());
        }
    }
    move(type, dst, chosen, e.span);
}

void ExpressionWriter::dates(const Expression& e, std::uint32_t dst) {
    const auto function = static_cast<Function>(e.detail);
    const auto split = [&](Op op, std::uint32_t from, std::size_t first, std::size_t count) {
        std::uint32_t parts[4] = {};
        for (std::size_t i = 0; i < count; ++i) parts[i] = writer_.temporary();
        writer_.emit(op, parts[0], parts[1], from, e.span);
        writer_.operands(parts[2], parts[3]);
        for (std::size_t i = 0; i < count; ++i) {
            const Expression& target = *e.arguments[first + i].value;
            const std::uint32_t slot = writer_.temporary();
            convert_number(E::Lint, parts[i], target.type.elementary, slot, e.span);
            store_value(place(target), target.type.elementary, slot, e.span);
        }
    };
    const auto make_date = [&](std::uint32_t to) {
        const std::uint32_t y = argument(e, 0), m = argument(e, 1), d = argument(e, 2);
        writer_.emit(Op::MakeDate, to, y, m, e.span);
        writer_.operands(d);
    };
    const auto make_time = [&](std::uint32_t to, std::size_t first) {
        const std::uint32_t h = argument(e, first), m = argument(e, first + 1), s = argument(e, first + 2),
                            ms = argument(e, first + 3);
        writer_.emit(Op::MakeTime, to, h, m, e.span);
        writer_.operands(s, ms);
    };
    switch (function) {
        case Function::JoinMoment: {
            const std::uint32_t a = argument(e, 0);
            writer_.emit(Op::AddI64, dst, a, argument(e, 1), e.span);
            return;
        }
        case Function::DayOfWeek: writer_.emit(Op::DayOfWeek, dst, argument(e, 0), 0, e.span); return;
        case Function::MakeDate: return make_date(dst);
        case Function::MakeTimeOfDay: return make_time(dst, 0);
        case Function::MakeMoment: {
            const std::uint32_t date = writer_.temporary(), clock = writer_.temporary();
            make_date(date);
            make_time(clock, 3);
            writer_.emit(Op::AddI64, dst, date, clock, e.span);
            return;
        }
        case Function::SplitDate: return split(Op::SplitDate, argument(e, 0), 1, 3);
        case Function::SplitTimeOfDay: return split(Op::SplitTime, argument(e, 0), 1, 4);
        case Function::SplitMoment: {
            const std::uint32_t in = argument(e, 0), clock = writer_.temporary();
            writer_.emit(Op::ModuloI64, clock, in, writer_.constant_integer(E::Lint, 86'400'000'000'000), e.span);
            split(Op::SplitDate, in, 1, 3);
            return split(Op::SplitTime, clock, 4, 4);
        }
        default: VYARD_CHECK(false && "a function without code");
    }
}

/// Functions whose result is a text.
Place ExpressionWriter::standard_text(const Expression& e) {
    const auto skip = enable(e);
    const Place out = text_result(e);
    enabled(skip);
    return out;
}

/// MIN, MAX and LIMIT of texts: the first one that counts, replaced by each that is better.
void ExpressionWriter::ordered_text(const Expression& e, std::uint32_t to) {
    const auto function = static_cast<Function>(e.detail);
    const auto width = static_cast<std::uint32_t>(e.type.is(E::Wstring) ? 2 : 1);
    const auto text = [&](std::size_t i) { return address(aggregate(*e.arguments[i].value), e.span); };
    const std::uint32_t zero = writer_.constant_integer(E::Sint, 0);
    const auto take_if = [&](std::uint32_t other, bool greater) {
        const std::uint32_t order = writer_.temporary(), better = writer_.temporary();
        writer_.emit(Op::TextCompare, order, other, to, e.span, width);
        writer_.emit(Op::LessI8, better, greater ? zero : order, greater ? order : zero, e.span);
        const std::uint32_t jump = writer_.emit(Op::JumpUnless, 0, 0, better, e.span);
        writer_.emit(Op::TextMove, to, other, 0, e.span, width);
        writer_.land(jump, writer_.here());
    };
    if (function == Function::Limit) {
        const std::uint32_t low = text(0), in = text(1), high = text(2);
        writer_.emit(Op::TextMove, to, in, 0, e.span, width);
        take_if(low, true);
        return take_if(high, false);
    }
    std::vector<std::uint32_t> texts;
    for (std::size_t i = 0; i < count_arguments(e); ++i) texts.push_back(text(i));
    writer_.emit(Op::TextMove, to, texts[0], 0, e.span, width);
    for (std::size_t i = 1; i < texts.size(); ++i) take_if(texts[i], function == Function::Maximum);
}

Place ExpressionWriter::text_result(const Expression& e) {
    const auto function = static_cast<Function>(e.detail);
    const Place out{writer_.keep_text(e.type.elementary, std::max(e.type.index, 1)), false, 0, -1};
    const std::uint32_t to = address(out, e.span);
    const auto width = static_cast<std::uint32_t>(e.type.is(E::Wstring) ? 2 : 1);
    const auto text = [&](std::size_t i) { return address(aggregate(*e.arguments[i].value), e.span); };
    switch (function) {
        case Function::Move: copy(out, aggregate(*e.arguments[0].value), e.type, e.span); return out;
        case Function::Left:
        case Function::Right: {
            const std::uint32_t a = text(0);
            writer_.emit(function == Function::Left ? Op::TextLeft : Op::TextRight, to, a, argument(e, 1), e.span,
                         width);
            return out;
        }
        case Function::Middle:
        case Function::Delete: {
            const std::uint32_t a = text(0), count = argument(e, 1), place_number = argument(e, 2);
            writer_.emit(function == Function::Middle ? Op::TextMiddle : Op::TextDelete, to, a, count, e.span, width);
            writer_.operands(place_number);
            return out;
        }
        case Function::Concatenate: {
            std::uint32_t so_far = text(0);
            for (std::size_t i = 1; i < count_arguments(e); ++i) {
                writer_.emit(Op::TextConcat, to, so_far, text(i), e.span, width);
                so_far = to;
            }
            return out;
        }
        case Function::Insert: {
            const std::uint32_t a = text(0), b = text(1), at = argument(e, 2);
            writer_.emit(Op::TextInsert, to, a, b, e.span, width);
            writer_.operands(at);
            return out;
        }
        case Function::Replace: {
            const std::uint32_t a = text(0), b = text(1), count = argument(e, 2), at = argument(e, 3);
            writer_.emit(Op::TextReplace, to, a, b, e.span, width);
            writer_.operands(at, count);
            return out;
        }
        case Function::Minimum:
        case Function::Maximum:
        case Function::Limit: ordered_text(e, to); return out;
        case Function::Select:
        case Function::Multiplex: {
            const std::uint32_t selector = argument(e, 0);
            const std::size_t count = count_arguments(e);
            std::vector<std::uint32_t> texts;
            for (std::size_t i = 1; i < count; ++i) texts.push_back(text(i));
            const bool binary = function == Function::Select;
            writer_.emit(Op::TextMove, to, texts.back(), 0, e.span, width);
            const std::uint32_t hit = writer_.temporary();
            for (std::size_t i = 0; i + 1 < texts.size(); ++i) {
                if (binary) {
                    writer_.emit(Op::BoolNot, hit, selector, 0, e.span);
                } else {
                    writer_.emit(Op::EqualI64, hit, selector,
                                 writer_.constant_integer(E::Lint, static_cast<std::int64_t>(i)), e.span);
                }
                const std::uint32_t jump = writer_.emit(Op::JumpUnless, 0, 0, hit, e.span);
                writer_.emit(Op::TextMove, to, texts[i], 0, e.span, width);
                writer_.land(jump, writer_.here());
            }
            return out;
        }
        default: break;
    }
    VYARD_CHECK(false && "a function without a text");
    return out;
}

}  // namespace vyard::logic
